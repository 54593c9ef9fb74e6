import type { Value } from '../model/value';
import type { SymbologyField } from '../model/symbology-fields';
import type { StatedSymbology, FeatureBatch } from '../model/batch';
import { LINE, POINT, POLYGON, TEXT } from '../model/batch';
import { Problem } from '../model/problem';
import { emptyLibrary, scaledLibrary, type SymbolLibrary, symbolKey } from './library';
import { childOf, childrenOf, childText, readXml, type XmlNode } from '../io/xml';
import { type Label, type LayerStyle, NO_STYLE, type Scales } from './layer-style';
import { PLAIN_MARK, PLAIN_MARK_MM, SE_PIXEL_MM, SHEET_MM_PER_M } from './symbolizer';
import { markOf } from './marks';

type Test = (at: (field: string) => Value) => boolean;

interface Rule {
  /** Null for what no other rule takes. */
  test: Test | null;
  /** Look fields by the kind of record that they are for. */
  looks: Map<number, Partial<Record<SymbologyField, Value>>>;
}

/** A style that was read: it gives records the fields of their looks. */
export interface ReadSheet {
  rules: Rule[];
  library: SymbolLibrary;
  /** What it says of the layer as a whole. */
  style: LayerStyle;
  /** What it says that is not carried, in plain words. */
  left: string[];
}

/** Millimetres in the units of symbolizers that have a fixed size. Source: OGC 05-077r4, clause 10.2 (uom); pixels when nothing is said. */
const UOM: Record<string, number | null> = { pixel: SE_PIXEL_MM, metre: null, foot: null };
/** Metres in those that are counted on the ground. Source: EPSG registry, unit 9003 (the US survey foot that the clause names "foot"). */
const ON_GROUND: Record<string, number> = { metre: 1, foot: 12 / 39.37 };

/**
 * Reads a style of SLD 1.0 or 1.1. Patterns of lines are in the unit of the coordinates. Of several rules
 * that take a record the later one is drawn on top, and tells its look.
 * @param unit_m metres in one unit of the coordinates
 * Source: OGC 02-070 (SLD 1.0.0), clauses 11 and 12; OGC 05-077r4 (Symbology Encoding 1.1.0), clauses 10 and 11; OGC 04-095, clause 8.
 * @throws Problem for what is no style
 */
export function readSld(name: string, text: string, unit_m = 1): ReadSheet {
  const root = readXml(name, new TextEncoder().encode(text));
  if (root.name !== 'StyledLayerDescriptor' && root.name !== 'FeatureTypeStyle')
    throw new Problem('sld-not', `${name} is XML, but no style: its outermost element is ${root.name}.`, { file: name });
  const sheet: ReadSheet = { rules: [], library: emptyLibrary(), style: NO_STYLE, left: [] };
  const scales: (Scales | null)[] = [];
  const walk = (node: XmlNode): void => {
    if (node.name === 'Rule') {
      sheet.rules.push(ruleOf(node, sheet));
      scales.push(scalesOf(node));
    } else for (const child of node.children) walk(child);
  };
  walk(root);
  // rules that are shown at scales of their own cannot be told apart by records
  const same = scales.every((one) => JSON.stringify(one) === JSON.stringify(scales[0]));
  if (!same) tell(sheet, 'rules for scales of their own');
  return {
    ...sheet,
    library: scaledLibrary(sheet.library, 1 / unit_m),
    style: { label: sheet.style.label, scales: same ? (scales[0] ?? null) : null },
  };
}

const SYMBOLIZERS: Record<string, number> = {
  LineSymbolizer: LINE,
  PolygonSymbolizer: POLYGON,
  PointSymbolizer: POINT,
  TextSymbolizer: TEXT,
};

function ruleOf(node: XmlNode, sheet: ReadSheet): Rule {
  const filter = childOf(node, 'Filter');
  const rule: Rule = {
    test: childOf(node, 'ElseFilter') ? null : filter ? testOf(filter.children[0], sheet) : () => true,
    looks: new Map(),
  };
  for (const child of node.children) {
    const kind = SYMBOLIZERS[child.name];
    if (kind === undefined) {
      if (/Symbolizer$/.test(child.name)) tell(sheet, `a ${child.name}`);
      continue;
    }
    if (kind === TEXT) {
      const label = labelOf(child);
      if (label === undefined) tell(sheet, 'labels that are worked out');
      // the lettering of texts themselves is no label
      else if (label.field !== 'text') {
        if (sheet.style.label && sheet.style.label.field !== label.field) tell(sheet, 'several labels');
        else sheet.style = { ...sheet.style, label };
        continue;
      }
    }
    rule.looks.set(kind, { ...rule.looks.get(kind), ...lookOf(child, kind, sheet) });
  }
  return rule;
}

function scalesOf(node: XmlNode): Scales | null {
  const [min, max] = [numberOf(childText(node, 'MinScaleDenominator')), numberOf(childText(node, 'MaxScaleDenominator'))];
  return min === null && max === null ? null : { min, max };
}

/** The label that a symbolizer writes; undefined where it is not one field alone. */
function labelOf(node: XmlNode): Label | undefined {
  const label = childOf(node, 'Label'),
    property = childOf(label, 'PropertyName') ?? childOf(label, 'ValueReference');
  if (!label || !property || label.children.length > 1) return undefined;
  const size = numberOf(parameter(childOf(node, 'Font'), 'font-size'));
  const unit = UOM[node.attributes.uom?.replace(/^.*\//, '') ?? 'pixel'];
  return {
    field: property.text.trim().replace(/^.*:/, ''),
    height_mm: size === null || !unit ? null : Number((size * unit).toFixed(3)),
    color: colorOf(parameter(childOf(node, 'Fill'), 'fill')),
  };
}

function tell(sheet: ReadSheet, what: string): void {
  if (!sheet.left.includes(what)) sheet.left.push(what);
}

/** A parameter of a fill or a stroke, by either of its names. */
function parameter(node: XmlNode | undefined, name: string): string | null {
  const found = node?.children.find((c) => (c.name === 'SvgParameter' || c.name === 'CssParameter') && c.attributes.name === name);
  // a value may stand in a literal of its own
  return found ? found.text.trim() || (childText(found, 'Literal') ?? '') || null : null;
}

const colorOf = (text: string | null): string | null => (text !== null && /^#[0-9a-f]{6}$/i.test(text) ? text.toLowerCase() : null);
const numberOf = (text: string | null): number | null => (text === null || !Number.isFinite(Number(text)) ? null : Number(text));

function lookOf(node: XmlNode, kind: number, sheet: ReadSheet): Partial<Record<SymbologyField, Value>> {
  const out: Partial<Record<SymbologyField, Value>> = {};
  const uom = node.attributes.uom?.replace(/^.*\//, '') ?? 'pixel';
  const unit = UOM[uom],
    ground = ON_GROUND[uom];
  const graphic = childOf(node, 'Graphic'),
    graphicMark = childOf(graphic, 'Mark');
  const stroke = childOf(graphicMark ?? node, 'Stroke'),
    fill = childOf(graphicMark ?? node, 'Fill');
  for (const odd of ['GraphicFill', 'GraphicStroke'])
    if (childOf(fill, odd) || childOf(stroke, odd)) tell(sheet, 'fills and lines made of pictures');
  if (childOf(graphic, 'ExternalGraphic')) tell(sheet, 'pictures as symbols');
  const drawn = colorOf(parameter(stroke, 'stroke')),
    filled = colorOf(parameter(fill, 'fill'));
  const color = kind === POINT || kind === TEXT ? (filled ?? drawn) : (drawn ?? filled);
  if (color !== null) out.color = color;
  if (kind === POLYGON && filled !== null && filled !== color) out.fill = filled;
  const opacity = numberOf(
    kind === POLYGON
      ? parameter(fill, 'fill-opacity')
      : kind === POINT
        ? childText(graphic, 'Opacity')
        : parameter(stroke, 'stroke-opacity'),
  );
  if (opacity !== null && opacity < 1) out.transparency = Number((1 - opacity).toFixed(3));
  if (kind === POINT) {
    const mark = childText(graphicMark, 'WellKnownName')?.trim().toLowerCase() ?? PLAIN_MARK,
      size = numberOf(childText(graphic, 'Size'));
    if (markOf(mark)) out.marker = mark;
    else if (mark !== PLAIN_MARK) tell(sheet, `the mark ${mark}`);
    if (size !== null && size > 0 && !unit) tell(sheet, 'sizes on the ground');
    else if (size !== null && size > 0 && Math.abs(size * unit! - PLAIN_MARK_MM) > 0.001)
      out.marker_size_mm = Number((size * unit!).toFixed(3));
  }
  if (kind !== LINE && kind !== POLYGON) return out;
  const width = numberOf(parameter(stroke, 'stroke-width'));
  const dashes =
    parameter(stroke, 'stroke-dasharray')
      ?.trim()
      .split(/[\s,]+/)
      .map(Number) ?? [];
  if (!unit && ground === undefined) {
    if (width !== null || dashes.length > 0) tell(sheet, 'widths in a unit that is not known');
    return out;
  }
  if (width !== null && width > 0) {
    if (unit) out.lineweight_mm = Number((width * unit).toFixed(3));
    else out.line_width_m = Number((width * ground!).toFixed(4));
  }
  // patterns of lines are lengths on the ground
  if (dashes.length > 0 && dashes.every((d) => Number.isFinite(d) && d >= 0))
    out.linetype = patternOf(
      dashes.map((d) => Number((unit ? (d * unit) / SHEET_MM_PER_M : d * ground!).toFixed(3))),
      sheet.library,
    );
  return out;
}

/** The name of a line type with these dashes and gaps, metres by turns. */
function patternOf(lengths: readonly number[], library: SymbolLibrary): string {
  const pairs = lengths.length % 2 === 0 ? lengths : [...lengths, ...lengths];
  const name = `DASH_${pairs.join('_')}`;
  library.lines.set(symbolKey(name), {
    description: `dashes of ${pairs.join(', ')} m`,
    dashes: pairs.map((d, k) => (k % 2 === 0 ? d : -d)),
  });
  return name;
}

const COMPARISONS: Record<string, (order: number) => boolean> = {
  PropertyIsEqualTo: (o) => o === 0,
  PropertyIsNotEqualTo: (o) => o !== 0,
  PropertyIsLessThan: (o) => o < 0,
  PropertyIsLessThanOrEqualTo: (o) => o <= 0,
  PropertyIsGreaterThan: (o) => o > 0,
  PropertyIsGreaterThanOrEqualTo: (o) => o >= 0,
};

/** Compares as numbers where both are, as texts otherwise; NaN where there is nothing to compare. */
function order(a: Value, b: Value): number {
  if (a === null || b === null) return NaN;
  const [x, y] = [Number(a), Number(b)];
  if (String(a).trim() !== '' && String(b).trim() !== '' && !Number.isNaN(x) && !Number.isNaN(y)) return x - y;
  return String(a) === String(b) ? 0 : String(a) < String(b) ? -1 : 1;
}

function testOf(node: XmlNode | undefined, sheet: ReadSheet): Test {
  if (!node) return () => true;
  const parts = node.children;
  const valueOf = (part: XmlNode | undefined): ((at: (field: string) => Value) => Value) => {
    const text = part?.text.trim() ?? '';
    return part?.name === 'PropertyName' || part?.name === 'ValueReference' ? (at) => at(text.replace(/^.*:/, '')) : () => text;
  };
  const compare = COMPARISONS[node.name];
  if (compare) {
    const [a, b] = [valueOf(parts[0]), valueOf(parts[1])];
    return (at) => {
      const o = order(a(at), b(at));
      return !Number.isNaN(o) && compare(o);
    };
  }
  switch (node.name) {
    case 'And':
    case 'Or': {
      const tests = parts.map((p) => testOf(p, sheet));
      return node.name === 'And' ? (at) => tests.every((t) => t(at)) : (at) => tests.some((t) => t(at));
    }
    case 'Not': {
      const test = testOf(parts[0], sheet);
      return (at) => !test(at);
    }
    case 'PropertyIsNull':
    case 'PropertyIsNil': {
      const value = valueOf(parts[0]);
      return (at) => value(at) === null;
    }
    case 'PropertyIsBetween': {
      const value = valueOf(parts[0]),
        low = valueOf(childOf(node, 'LowerBoundary')?.children[0]),
        high = valueOf(childOf(node, 'UpperBoundary')?.children[0]);
      return (at) => order(value(at), low(at)) >= 0 && order(value(at), high(at)) <= 0;
    }
    case 'PropertyIsLike': {
      const value = valueOf(childrenOf(node, 'PropertyName')[0] ?? parts[0]);
      const { wildCard = '*', singleChar = '.', escapeChar = '!', escape = escapeChar } = node.attributes;
      let pattern = '';
      const text = childText(node, 'Literal') ?? '';
      for (let k = 0; k < text.length; k++) {
        if (text[k] === escape && k + 1 < text.length) pattern += text[++k]!.replace(/[^\w]/g, '\\$&');
        else pattern += text[k] === wildCard ? '[^]*' : text[k] === singleChar ? '[^]' : text[k]!.replace(/[^\w]/g, '\\$&');
      }
      const like = new RegExp(`^${pattern}$`);
      return (at) => like.test(String(value(at) ?? ''));
    }
    default:
      tell(sheet, `conditions by ${node.name}`);
      return () => false;
  }
}

/** What a style draws each record of a batch with; null where no rule takes it. */
export function looksBy(batch: FeatureBatch, { rules }: ReadSheet): (StatedSymbology | null)[] {
  // records that the same rules take have one object together, by which they are soon told to be alike
  const known = new Map<string, StatedSymbology | null>();
  return Array.from({ length: batch.count }, (_, i) => {
    const at = (field: string): Value => batch.columns.get(field)?.[i] ?? null;
    const kind = batch.kinds[i]!;
    let key = String(kind);
    let taken = rules.filter((rule, k) => rule.test?.(at) && (key += ` ${k}`));
    const seen = known.get(key);
    if (seen !== undefined) return seen;
    if (taken.length === 0) taken = rules.filter((rule) => rule.test === null);
    // lettering without a symbol stands at a point
    const looks = taken.flatMap((rule) => rule.looks.get(kind) ?? (kind === POINT ? rule.looks.get(TEXT) : undefined) ?? []);
    const all = looks.length === 0 ? null : (Object.assign({}, ...looks) as StatedSymbology);
    known.set(key, all);
    return all;
  });
}

/** Gives the records of a batch the look fields that a style tells of them and they do not have. */
export function withLooks(batch: FeatureBatch, sheet: ReadSheet): FeatureBatch {
  const columns = new Map(batch.columns);
  const own = new Map<string, Value[]>();
  looksBy(batch, sheet).forEach((look, i) => {
    for (const [field, value] of Object.entries(look ?? {})) {
      if ((batch.columns.get(field)?.[i] ?? null) !== null) continue;
      let column = own.get(field);
      if (!column) own.set(field, (column = columns.get(field)?.slice() ?? new Array<Value>(batch.count).fill(null)));
      column[i] = value;
    }
  });
  for (const [field, column] of own) columns.set(field, column);
  return { ...batch, columns };
}
