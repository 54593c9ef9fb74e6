import { type Affine, insertionMap } from '../geometry/affine';
import { flatten } from '../geometry/flatten';
import { compileFilter, type Filter } from '../filter/evaluate';
import { convexHull } from '../geometry/hull';
import { addParts, type PlaceLook } from '../symbology/symbol-parts';
import { thinned } from '../geometry/simplify';
import type { LayerRule } from '../crossing/recipe';
import { eachPart, type FeatureBatch, KINDS, LINE, POLYGON, type Value, vertexRange } from '../model/batch';
import { BatchBuilder } from '../model/batch-builder';
import { type BlockSymbol, type SymbolLibrary, symbolKey } from '../symbology/library';
import { Problem } from '../model/problem';
import { plainValue } from '../model/plain-value';
import { TextGiver } from './text-transfer';
import { closeJoin, type JoinReport, type JoinTable, noJoin, withJoin } from './join';
import { MOST_LAYERS, targetLayer, tellsApart } from './target-layer';

/** What the rules did to the records of one layer. */
export interface ShapeReport {
  /** Records outside the area of interest. */
  outside: number;
  /** Records that the filter does not take. */
  filtered: number;
  /** What a table that was joined gave; null where none is. */
  join: JoinReport | null;
  /** Values that became others by a list of values. */
  mapped: number;
  blocksApart: number;
  /** Parts that came of them. */
  parts: number;
  blocksOutlined: number;
  fillsAsLines: number;
  duplicates: number;
  /** Vertices before and after thinning, and the largest distance of one that went from the line that stayed, metres. */
  thinning: { before: number; after: number; shift_m: number } | null;
  textsGiven: number;
  /** Texts that found no object, with where they stand in the source's own numbers; the first few hundred. */
  homeless: { text: string; x: number; y: number }[];
  homelessCount: number;
  /** The first texts that found one. */
  housed: { text: string; x: number; y: number }[];
}

const LISTED = 300;

const noReport = (): ShapeReport => ({
  outside: 0,
  filtered: 0,
  join: null,
  mapped: 0,
  blocksApart: 0,
  parts: 0,
  blocksOutlined: 0,
  fillsAsLines: 0,
  duplicates: 0,
  thinning: null,
  textsGiven: 0,
  homeless: [],
  homelessCount: 0,
  housed: [],
});

/** Whether a rule changes the records themselves, and not only where they go. */
export function reshapes(rule: LayerRule): boolean {
  return (
    rule.where !== undefined ||
    rule.join !== undefined ||
    mapsValues(rule) ||
    tellsApart(rule) ||
    rule.constants !== undefined ||
    rule.texts !== undefined ||
    rule.once === true ||
    rule.thin_m !== undefined ||
    (rule.fills !== undefined && rule.fills !== 'area') ||
    Object.values(rule.blocks ?? {}).some((way) => way !== 'point')
  );
}

const mapsValues = (rule: LayerRule): boolean => Object.values(rule.fields ?? {}).some((f) => f.values !== undefined);

/** Layers of a source whose records the rules change: those that get texts are among them. */
export function reshapedLayers(rules: Readonly<Record<string, LayerRule>>): Set<string> {
  const own = Object.entries(rules).filter(([, rule]) => reshapes(rule));
  return new Set(own.flatMap(([layer, rule]) => [layer, ...(rule.texts ? [rule.texts.layer] : [])]));
}

export interface ReshapeContext {
  rules: Readonly<Record<string, LayerRule>>;
  library: SymbolLibrary | null;
  /** Metres in one unit of the source's own coordinates. */
  unit_m: number;
  /** The tables that its layers are joined with, by layer. */
  tables?: ReadonlyMap<string, JoinTable>;
  /** Tells which records of a batch lie in the area of interest; absent where all are wanted. */
  keep?: (batch: FeatureBatch) => (i: number) => boolean;
  /** Carries records into the frame, for filters that ask where they lie; null where their source has no place. */
  inFrame?: ((batch: FeatureBatch) => FeatureBatch) | null;
}

/** Entities that are fills. */
export const FILLS: ReadonlySet<string> = new Set(['HATCH', 'MPOLYGON', 'SOLID', 'TRACE']);

/**
 * The records of a source as the rules want them, in the same order whenever it is asked.
 * @param read gives the batches of the source from the beginning; it is asked more than once where texts look for objects
 * @param reports gets what was done, by layer, when all is read
 */
export async function* reshaped(
  read: () => AsyncIterable<FeatureBatch> | Iterable<FeatureBatch>,
  context: ReshapeContext,
  reports?: Map<string, ShapeReport>,
): AsyncGenerator<FeatureBatch> {
  const giver = await settleTexts(read, context);
  const given = giver?.given(),
    housed = giver?.housed();
  const seen = new Map<string, Set<string>>();
  const targets = new Map<string, Set<string>>();
  const used = new Map<string, Set<string>>();
  const filters = new Map<string, Filter>();
  let first = 0;
  for await (const batch of read()) {
    const rule = context.rules[batch.layer];
    const gets = given !== undefined && given.size > 0 && isAsked(context.rules, batch.layer);
    if ((!rule || !reshapes(rule)) && !gets && !context.keep) yield batch;
    else {
      const report = reports?.get(batch.layer) ?? noReport();
      reports?.set(batch.layer, report);
      const table = rule?.join && context.tables?.get(batch.layer);
      if (table && !used.has(batch.layer)) used.set(batch.layer, new Set());
      const whole = table ? withJoin(batch, rule.join!, table, (report.join ??= noJoin()), used.get(batch.layer)!) : batch;
      yield* shape(whole, rule ?? {}, context, {
        first,
        given: given ?? new Map(),
        housed: housed ?? new Set(),
        seen,
        targets,
        filters,
        report,
      });
    }
    first += batch.count;
  }
  if (reports) {
    for (const [layer, keys] of used) {
      const join = reports.get(layer)?.join;
      if (join) closeJoin(context.tables!.get(layer)!, join, keys);
    }
  }
  if (reports && giver) {
    const layerOf = new Map(Object.entries(context.rules).flatMap(([layer, rule]) => (rule.texts ? [[rule.texts, layer] as const] : [])));
    for (const t of giver.list()) {
      const layer = [...layerOf].find(([gift]) => gift.layer === t.layer && gift.field === t.field)![1];
      const report = reports.get(layer) ?? noReport();
      reports.set(layer, report);
      if (t.object !== null) {
        if (report.housed.length < LISTED) report.housed.push({ text: t.text, x: t.x, y: t.y });
        continue;
      }
      report.homelessCount++;
      if (report.homeless.length < LISTED) report.homeless.push({ text: t.text, x: t.x, y: t.y });
    }
  }
}

function isAsked(rules: ReshapeContext['rules'], layer: string): boolean {
  return Object.values(rules).some((rule) => rule.texts?.layer === layer);
}

async function settleTexts(
  read: () => AsyncIterable<FeatureBatch> | Iterable<FeatureBatch>,
  { rules, unit_m }: ReshapeContext,
): Promise<TextGiver | null> {
  const gifts = new Map(
    Object.entries(rules).flatMap(([layer, rule]) => (rule.texts && rule.taken !== false ? [[layer, rule.texts] as const] : [])),
  );
  if (gifts.size === 0) return null;
  const giver = new TextGiver(gifts, unit_m);
  for (const step of ['collect', 'meet'] as const) {
    let first = 0;
    for await (const batch of read()) {
      giver[step](batch, first);
      first += batch.count;
    }
  }
  return giver;
}

interface Known {
  first: number;
  given: ReadonlyMap<number, ReadonlyMap<string, string>>;
  housed: ReadonlySet<number>;
  seen: Map<string, Set<string>>;
  /** Layers that each layer is told apart into, so far. */
  targets: Map<string, Set<string>>;
  /** Filters by their text. */
  filters: Map<string, Filter>;
  report: ShapeReport;
}

function* shape(batch: FeatureBatch, rule: LayerRule, context: ReshapeContext, known: Known): Generator<FeatureBatch> {
  const { report } = known;
  const outs = outputs(batch, rule, known);
  const copy = new Copier(batch, rule, context.unit_m, report);
  let seen = known.seen.get(batch.layer);
  if (!seen) known.seen.set(batch.layer, (seen = new Set()));
  const wanted = context.keep?.(batch);
  const taken = filterOf(batch.layer, rule, context, known)?.(batch);
  for (let i = 0; i < batch.count; i++) {
    const number = known.first + i;
    if (wanted && !wanted(i)) {
      report.outside++;
      continue;
    }
    if (taken && !taken(i)) {
      report.filtered++;
      continue;
    }
    if (known.housed.has(number)) {
      report.textsGiven++;
      continue;
    }
    if (rule.once) {
      const key = geometryKey(batch, i);
      if (seen.has(key)) {
        report.duplicates++;
        continue;
      }
      seen.add(key);
    }
    copy.out = outs.of(i);
    copy.fields = known.given.get(number) ?? null;
    const block = batch.columns.get('block')?.[i];
    const way = typeof block === 'string' ? rule.blocks?.[block] : undefined;
    const symbol = way !== undefined && way !== 'point' ? context.library?.blocks.get(symbolKey(String(block))) : undefined;
    if (symbol && symbol.parts.count > 0 && way === 'apart') {
      report.blocksApart++;
      report.parts += symbol.parts.count;
      copy.apart(i, symbol, context.library!);
    } else if (symbol && way === 'outline' && copy.outline(i, symbol)) report.blocksOutlined++;
    else if (FILLS.has(batch.entities[i]!) && batch.kinds[i] === POLYGON && (rule.fills === 'outline' || rule.fills === 'both')) {
      report.fillsAsLines++;
      if (rule.fills === 'both') copy.record(i, POLYGON);
      copy.record(i, LINE);
    } else copy.record(i, batch.kinds[i]!);
  }
  yield* outs.taken();
}

function filterOf(layer: string, { where }: LayerRule, { inFrame }: ReshapeContext, { filters }: Known): Filter | null {
  if (where === undefined) return null;
  const known = filters.get(where);
  if (known) return known;
  const filter = compileFilter(where, inFrame === undefined ? {} : { inFrame });
  // a filter that cannot be read stands in the way of the forecast, and of the run
  if (typeof filter === 'string') throw new Problem('filter', `The filter of ${layer} cannot be read. ${filter} Mend it in Shape.`);
  filters.set(where, filter);
  return filter;
}

/** Where the records of a batch are collected: together, or by the layer that each goes into. */
function outputs(
  batch: FeatureBatch,
  rule: LayerRule,
  { targets }: Known,
): { of(i: number): BatchBuilder; taken(): Generator<FeatureBatch> } {
  const builders = new Map<string | undefined, BatchBuilder>();
  const template = targetLayer(rule);
  const apart = template !== null && typeof template !== 'string' && template.fields.length > 0 ? template : null;
  let known = targets.get(batch.layer);
  if (apart && !known) targets.set(batch.layer, (known = new Set()));
  return {
    of(i) {
      const to = apart?.of(batch, i)?.trim() || undefined;
      let builder = builders.get(to);
      if (!builder) {
        builders.set(to, (builder = new BatchBuilder(batch.layer, to)));
        if (to !== undefined && known!.add(to).size > MOST_LAYERS)
          throw new Problem(
            'too-many-layers',
            `"${rule.to}" makes more than ${MOST_LAYERS} layers of ${batch.layer}. Name a field with fewer values in Shape.`,
          );
      }
      return builder;
    },
    *taken() {
      for (const builder of builders.values()) if (builder.count > 0) yield builder.take();
    },
  };
}

/** Fields of a placed block that say nothing of its parts. */
const PLACE_ONLY = new Set([
  'layer',
  'entity',
  'color',
  'linetype',
  'lineweight_mm',
  'block_angle',
  'scale_x',
  'scale_y',
  'scale_z',
  'extrusion',
  'text',
  'text_height',
  'text_angle',
  'text_align',
]);

/** Chord tolerance of an outline, as a share of a symbol's size. */
const OUTLINE_FINE = 0.005;

class Copier {
  /** Fields that the record at hand is given. */
  fields: ReadonlyMap<string, string> | null = null;

  /** Collects the record at hand. */
  out!: BatchBuilder;

  constructor(
    private readonly batch: FeatureBatch,
    private readonly rule: LayerRule,
    private readonly unit_m: number,
    private readonly report: ShapeReport,
  ) {}

  record(i: number, kind: number): void {
    const { batch, out } = this;
    const thin = this.rule.thin_m !== undefined && (kind === LINE || kind === POLYGON) ? this.rule.thin_m / this.unit_m : null;
    eachPart(batch, i, (start, end) => this.part(start, end, thin));
    this.values(i, null);
    out.endFeature(kind, batch.entities[i]!, batch.places[i]!);
  }

  private part(start: number, end: number, thin: number | null): void {
    const {
      batch: { coords, bulges },
      out,
      report,
    } = this;
    const how = thin === null ? null : thinned(coords, bulges, start, end, thin);
    let left = 0;
    if (how) for (const flag of how.keep) left += flag;
    // a ring keeps an inside
    const ring = end - start > 3 && coords[3 * start] === coords[3 * (end - 1)] && coords[3 * start + 1] === coords[3 * (end - 1) + 1];
    const use = how && !(ring && left < 4) ? how : null;
    for (let v = start; v < end; v++)
      if (!use || use.keep[v - start]) out.vertex(coords[3 * v]!, coords[3 * v + 1]!, coords[3 * v + 2]!, bulges?.[v] ?? 0);
    out.endPart();
    if (how) {
      const thinning = (report.thinning ??= { before: 0, after: 0, shift_m: 0 });
      thinning.before += end - start;
      thinning.after += use ? left : end - start;
      if (use) thinning.shift_m = Math.max(thinning.shift_m, use.shift * this.unit_m);
    }
  }

  private values(i: number, without: ReadonlySet<string> | null): void {
    for (const [name, column] of this.batch.columns) if (!without?.has(name)) this.out.set(name, this.mapped(name, column[i]!));
    for (const { name, value } of this.rule.constants ?? []) this.out.set(name, value);
    if (this.fields) for (const [name, value] of this.fields) this.out.set(name, value);
  }

  /** A value as the rules list it, or itself. */
  private mapped(name: string, value: Value): Value {
    const to = value === null ? undefined : this.rule.fields?.[name]?.values?.[String(value)];
    if (to === undefined) return value;
    this.report.mapped++;
    return plainValue(to);
  }

  /** The parts of a block, each with the block's data. */
  apart(i: number, symbol: BlockSymbol, library: SymbolLibrary): void {
    addParts(symbol.parts, mapOf(this.batch, i, symbol), placeLook(this.batch, i, library), this.out, (to, k) => {
      this.values(i, PLACE_ONLY);
      to.set('entity', symbol.parts.entities[k]!);
    });
  }

  /** The hull around what a block draws; false when that has no inside. */
  outline(i: number, symbol: BlockSymbol): boolean {
    const { batch, out } = this;
    const parts = placedSymbol(batch, i, symbol, null);
    const size = extentOf(parts.coords);
    const { coords } = flatten(parts, Math.max(size * OUTLINE_FINE, 1e-9));
    const hull = convexHull(Array.from({ length: coords.length / 3 }, (_, v) => [coords[3 * v]!, coords[3 * v + 1]!] as const));
    if (hull.length < 3) return false;
    const z = batch.coords[3 * vertexRange(batch, i)[0] + 2]!;
    for (const [x, y] of [...hull, hull[0]!]) out.vertex(x, y, z);
    out.endPart();
    this.values(i, null);
    out.endFeature(POLYGON, batch.entities[i]!, batch.places[i]!);
    return true;
  }
}

/** How the fields of a record say that its block is placed. */
function mapOf(batch: FeatureBatch, i: number, symbol: BlockSymbol): Affine {
  const number = (name: string, otherwise: number): number => {
    const value = batch.columns.get(name)?.[i];
    return typeof value === 'number' ? value : otherwise;
  };
  const [v] = vertexRange(batch, i);
  const normal = String(batch.columns.get('extrusion')?.[i] ?? '0 0 1')
    .split(' ')
    .map(Number);
  const z = batch.coords[3 * v + 2]!;
  return insertionMap(
    {
      at: [batch.coords[3 * v]!, batch.coords[3 * v + 1]!, Number.isNaN(z) ? 0 : z],
      angle: number('block_angle', 0),
      scale: [number('scale_x', 1), number('scale_y', 1), number('scale_z', 1)],
      normal: normal.length === 3 && normal.every(Number.isFinite) ? [normal[0]!, normal[1]!, normal[2]!] : [0, 0, 1],
    },
    symbol.base,
  );
}

/** What the parts of a record's block take from where it is placed. */
function placeLook(batch: FeatureBatch, i: number, library: SymbolLibrary | null): PlaceLook {
  const at = (name: string): Value => batch.columns.get(name)?.[i] ?? null;
  const own = { layer: at('layer') ?? batch.layer, color: at('color'), linetype: at('linetype'), lineweight_mm: at('lineweight_mm') };
  return { own, ofLayer: library?.layers.get(symbolKey(String(own.layer))) ?? own };
}

/** What a record's block draws where it stands, in the source's own numbers. */
export function placedSymbol(batch: FeatureBatch, i: number, symbol: BlockSymbol, library: SymbolLibrary | null): FeatureBatch {
  const out = new BatchBuilder(batch.layer);
  addParts(symbol.parts, mapOf(batch, i, symbol), placeLook(batch, i, library), out);
  return out.take();
}

function extentOf(coords: Float64Array): number {
  let low = Infinity,
    high = -Infinity;
  for (let k = 0; k < coords.length; k += 3) {
    low = Math.min(low, coords[k]!);
    high = Math.max(high, coords[k]!);
  }
  return high - low;
}

/** Two records have the same key when they have the same vertices in the same order, or in the opposite one. */
function geometryKey(batch: FeatureBatch, i: number): string {
  const { coords, bulges } = batch;
  const [start, end] = vertexRange(batch, i);
  const words = new Uint32Array(coords.buffer, coords.byteOffset, 2 * coords.length);
  const way = (from: number, step: number): string => {
    // two mixes of the bytes, so that no two shapes meet by chance
    let a = 0x811c9dc5,
      b = 0x9e3779b9;
    for (let v = from, n = end - start; n > 0; v += step, n--) {
      for (let k = 6 * v; k < 6 * v + 6; k++) {
        a = Math.imul(a ^ words[k]!, 0x01000193);
        b = (Math.imul(b, 31) + (words[k]! ^ (a >>> 7))) | 0;
      }
    }
    return `${a >>> 0}.${b >>> 0}`;
  };
  let bent = 0;
  if (bulges) for (let v = start; v < end; v++) bent += Math.abs(bulges[v]!);
  const both = [way(start, 1), way(end - 1, -1)].sort();
  return `${KINDS[batch.kinds[i]!]} ${end - start} ${bent} ${both.join(' ')}`;
}
