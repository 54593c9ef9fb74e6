import { plainDecimal } from '../formats/plain-decimal';
import { escaped } from '../formats/xml';
import type { Value } from '../model/batch';
import { type Look, SE_PIXEL_MM } from './look';
import type { Category } from './sheet';

const px = (mm: number): string => plainDecimal(mm / SE_PIXEL_MM, 4);

/** Of what says nothing of itself. */
const PLAIN_COLOR = '#23303d', PLAIN_WIDTH_MM = 0.25, MARK_MM = 2.2;
/** How solid the inside of an area is that does not say so. */
const PLAIN_FILL = 0.4;

/**
 * A style of one layer: a rule for each category.
 * Source: OGC 05-078r4 (SLD 1.1.0), clause 10; OGC 05-077r4 (Symbology Encoding 1.1.0), clauses 10 and 11; OGC 04-095 (filters).
 */
export function sldText(layer: string, categories: readonly Category[]): string {
  return `<?xml version="1.0" encoding="UTF-8"?>
<StyledLayerDescriptor version="1.1.0" xmlns="http://www.opengis.net/sld" xmlns:se="http://www.opengis.net/se" xmlns:ogc="http://www.opengis.net/ogc" xmlns:xlink="http://www.w3.org/1999/xlink">
<NamedLayer><se:Name>${escaped(layer)}</se:Name><UserStyle><se:Name>${escaped(layer)}</se:Name><se:FeatureTypeStyle>
${categories.map(ruleText).join('\n')}
</se:FeatureTypeStyle></UserStyle></NamedLayer>
</StyledLayerDescriptor>
`;
}

function ruleText({ name, where, look }: Category): string {
  const tests = where.map(({ field, value }) => testText(field, value));
  const filter = tests.length === 0 ? '' : `<ogc:Filter>${tests.length === 1 ? tests[0]! : `<ogc:And>${tests.join('')}</ogc:And>`}</ogc:Filter>`;
  return `<se:Rule><se:Name>${escaped(name)}</se:Name>${filter}${symbolizer(look)}</se:Rule>`;
}

function testText(field: string, value: Value): string {
  const property = `<ogc:PropertyName>${escaped(field)}</ogc:PropertyName>`;
  return value === null ? `<ogc:PropertyIsNull>${property}</ogc:PropertyIsNull>` : `<ogc:PropertyIsEqualTo>${property}<ogc:Literal>${escaped(typeof value === 'number' ? plainDecimal(value) : String(value))}</ogc:Literal></ogc:PropertyIsEqualTo>`;
}

const parameter = (name: string, value: string | number | null): string => (value === null ? '' : `<se:SvgParameter name="${name}">${value}</se:SvgParameter>`);

function strokeText(look: Look): string {
  return `<se:Stroke>${parameter('stroke', look.color ?? PLAIN_COLOR)}${parameter('stroke-opacity', look.kind === 'line' ? look.opacity : null)}${parameter('stroke-width', look.width_mm === null ? null : px(look.width_mm))}${parameter('stroke-dasharray', look.dash_mm?.map(px).join(' ') ?? null)}</se:Stroke>`;
}

function symbolizer(look: Look): string {
  switch (look.kind) {
    case 'line': return `<se:LineSymbolizer>${strokeText(look)}</se:LineSymbolizer>`;
    case 'polygon': return `<se:PolygonSymbolizer><se:Fill>${parameter('fill', look.fill ?? look.color ?? PLAIN_COLOR)}${parameter('fill-opacity', look.opacity ?? PLAIN_FILL)}</se:Fill>${strokeText(look)}</se:PolygonSymbolizer>`;
    case 'text': return `<se:TextSymbolizer><se:Label><ogc:PropertyName>text</ogc:PropertyName></se:Label><se:Fill>${parameter('fill', look.color ?? PLAIN_COLOR)}</se:Fill></se:TextSymbolizer>`;
    case 'row': return '';
    default: return `<se:PointSymbolizer><se:Graphic><se:Mark><se:WellKnownName>circle</se:WellKnownName><se:Fill>${parameter('fill', look.color ?? PLAIN_COLOR)}</se:Fill><se:Stroke>${parameter('stroke', look.color ?? PLAIN_COLOR)}${parameter('stroke-width', px(PLAIN_WIDTH_MM))}</se:Stroke></se:Mark>${look.opacity === null ? '' : `<se:Opacity>${look.opacity}</se:Opacity>`}<se:Size>${px(MARK_MM)}</se:Size></se:Graphic></se:PointSymbolizer>`;
  }
}
