import type { Value } from '../model/value';
import { plainDecimal } from '../io/plain-decimal';
import { escaped } from '../io/xml';
import type { Label, LayerStyle } from './layer-style';
import { type Symbolizer, PLAIN_MARK, PLAIN_MARK_MM, SE_PIXEL_MM, SHEET_MM_PER_M } from './symbolizer';
import { markOf } from './marks';
import type { Category } from './style-rules';

/** Source: OGC 05-077r4, clause 10.2. */
const METRE = 'http://www.opengeospatial.org/se/units/metre';

const px = (mm: number): string => plainDecimal(mm / SE_PIXEL_MM, 4);

/** Of what says nothing of itself. */
const PLAIN_COLOR = '#23303d',
  PLAIN_WIDTH_MM = 0.25,
  PLAIN_LABEL_MM = 2.5;
/** How solid the inside of an area is that does not say so. */
const PLAIN_FILL = 0.4;

/**
 * A style of one layer: a rule for each category, each with the label of all and the scales at which they are shown.
 * Source: OGC 05-078r4 (SLD 1.1.0), clause 10; OGC 05-077r4 (Symbology Encoding 1.1.0), clauses 10 and 11; OGC 04-095 (filters).
 */
export function sldText(layer: string, categories: readonly Category[], style: LayerStyle): string {
  return `<?xml version="1.0" encoding="UTF-8"?>
<StyledLayerDescriptor version="1.1.0" xmlns="http://www.opengis.net/sld" xmlns:se="http://www.opengis.net/se" xmlns:ogc="http://www.opengis.net/ogc" xmlns:xlink="http://www.w3.org/1999/xlink">
<NamedLayer><se:Name>${escaped(layer)}</se:Name><UserStyle><se:Name>${escaped(layer)}</se:Name><se:FeatureTypeStyle>
${categories.map((c) => ruleText(c, style)).join('\n')}
</se:FeatureTypeStyle></UserStyle></NamedLayer>
</StyledLayerDescriptor>
`;
}

function ruleText({ name, where, symbolizer: look }: Category, { label, scales }: LayerStyle): string {
  const tests = where.map(({ field, value }) => testText(field, value));
  const filter =
    tests.length === 0 ? '' : `<ogc:Filter>${tests.length === 1 ? tests[0]! : `<ogc:And>${tests.join('')}</ogc:And>`}</ogc:Filter>`;
  return `<se:Rule><se:Name>${escaped(name)}</se:Name>${filter}${scaleText('Min', scales?.min)}${scaleText('Max', scales?.max)}${symbolizer(look)}${label && look.kind !== 'text' && look.kind !== 'none' ? labelText(label) : ''}</se:Rule>`;
}

const scaleText = (end: 'Min' | 'Max', denominator: number | null | undefined): string =>
  denominator === null || denominator === undefined
    ? ''
    : `<se:${end}ScaleDenominator>${plainDecimal(denominator)}</se:${end}ScaleDenominator>`;

function labelText({ field, height_mm, color }: Label): string {
  return `<se:TextSymbolizer><se:Label><ogc:PropertyName>${escaped(field)}</ogc:PropertyName></se:Label><se:Font>${parameter('font-size', px(height_mm ?? PLAIN_LABEL_MM))}</se:Font><se:Fill>${parameter('fill', color ?? PLAIN_COLOR)}</se:Fill></se:TextSymbolizer>`;
}

function testText(field: string, value: Value): string {
  const property = `<ogc:PropertyName>${escaped(field)}</ogc:PropertyName>`;
  return value === null
    ? `<ogc:PropertyIsNull>${property}</ogc:PropertyIsNull>`
    : `<ogc:PropertyIsEqualTo>${property}<ogc:Literal>${escaped(typeof value === 'number' ? plainDecimal(value) : String(value))}</ogc:Literal></ogc:PropertyIsEqualTo>`;
}

const parameter = (name: string, value: string | number | null): string =>
  value === null ? '' : `<se:SvgParameter name="${name}">${value}</se:SvgParameter>`;

/** What a symbolizer counts in: metres on the ground where a width is said so, pixels otherwise. */
const uomText = (look: Symbolizer): string => (look.width_m === null ? '' : ` uom="${METRE}"`);
const onGround = (mm: number): string => plainDecimal(mm / SHEET_MM_PER_M, 4);

function strokeText(look: Symbolizer): string {
  return `<se:Stroke>${parameter('stroke', look.color ?? PLAIN_COLOR)}${parameter('stroke-opacity', look.kind === 'line' ? look.opacity : null)}${parameter('stroke-width', look.width_m !== null ? plainDecimal(look.width_m) : look.width_mm === null ? null : px(look.width_mm))}${parameter('stroke-dasharray', look.dash_mm?.map(look.width_m === null ? px : onGround).join(' ') ?? null)}</se:Stroke>`;
}

function symbolizer(look: Symbolizer): string {
  switch (look.kind) {
    case 'line':
      return `<se:LineSymbolizer${uomText(look)}>${strokeText(look)}</se:LineSymbolizer>`;
    case 'polygon':
      return `<se:PolygonSymbolizer${uomText(look)}><se:Fill>${parameter('fill', look.fill ?? look.color ?? PLAIN_COLOR)}${parameter('fill-opacity', look.opacity ?? PLAIN_FILL)}</se:Fill>${strokeText(look)}</se:PolygonSymbolizer>`;
    case 'text':
      return `<se:TextSymbolizer><se:Label><ogc:PropertyName>text</ogc:PropertyName></se:Label><se:Fill>${parameter('fill', look.color ?? PLAIN_COLOR)}</se:Fill></se:TextSymbolizer>`;
    case 'none':
      return '';
    default:
      return `<se:PointSymbolizer><se:Graphic><se:Mark><se:WellKnownName>${markOf(look.marker) ?? PLAIN_MARK}</se:WellKnownName><se:Fill>${parameter('fill', look.color ?? PLAIN_COLOR)}</se:Fill><se:Stroke>${parameter('stroke', look.color ?? PLAIN_COLOR)}${parameter('stroke-width', px(PLAIN_WIDTH_MM))}</se:Stroke></se:Mark>${look.opacity === null ? '' : `<se:Opacity>${look.opacity}</se:Opacity>`}<se:Size>${px(look.marker_mm ?? PLAIN_MARK_MM)}</se:Size></se:Graphic></se:PointSymbolizer>`;
  }
}
