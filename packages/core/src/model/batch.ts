import type { Declarations } from './field';
import type { Value } from './value';
import type { SymbologyField } from './symbology-fields';

/** What a record is to a reader of maps. `text` is a point that carries its own lettering, `none` a record without geometry. */
export const KINDS = ['point', 'line', 'polygon', 'text', 'none'] as const;
export type Kind = (typeof KINDS)[number];

/** Index of each kind in {@link KINDS}, as stored in {@link FeatureBatch.kinds}. */
export const POINT = 0;
/** Index of lines in {@link KINDS}. */
export const LINE = 1;
/** Index of areas in {@link KINDS}. */
export const POLYGON = 2;
/** Index of texts in {@link KINDS}. */
export const TEXT = 3;
/** Index of records without geometry in {@link KINDS}. */
export const NO_GEOMETRY = 4;

/** Look fields, and what is drawn of them. */
export type StatedSymbology = Readonly<Partial<Record<SymbologyField, Value>>>;

/**
 * Some records of one layer, held in flat arrays so that a transform, a clip or a proof can work on all of
 * them in place.
 *
 * Vertices are (x, y, z) triples, east-west axis first; z is NaN where the source has none. A ring of a polygon
 * repeats its first vertex at its end.
 */
export interface FeatureBatch {
  readonly layer: string;
  /** The layer that its records are to go into, where a rule told them apart by it. */
  readonly to?: string | undefined;
  readonly count: number;
  /** `count` entries, indexes into {@link KINDS}. */
  readonly kinds: Uint8Array;
  /** The source's own word for what the record was (LINE, INSERT, ...), one entry a record. */
  readonly entities: string[];
  /** x, y, z of every vertex: length is three times the number of vertices. */
  readonly coords: Float64Array;
  /**
   * Bulge of the segment that starts at each vertex (tangent of a quarter of its included angle, positive when
   * the arc runs counter-clockwise), or null when every segment of the batch is straight.
   */
  readonly bulges: Float64Array | null;
  /**
   * Measure (M) of each vertex: what a route counts along it, a chainage or a time, in a unit of its own that no transform touches; NaN
   * where the source has none. Absent when no vertex of the batch has one.
   */
  readonly measures?: Float64Array | undefined;
  /** Index one past the last vertex of each part (a line, a ring, a point). */
  readonly partEnds: Uint32Array;
  /** Index one past the last part of each record. */
  readonly featureEnds: Uint32Array;
  /** Attribute columns by field name; a missing column means that no record of the batch has a value there. */
  readonly columns: Map<string, Value[]>;
  /** What the source declares of its fields; absent where it declares nothing. */
  readonly declared?: Declarations | undefined;
  /**
   * What the file itself draws each record with, whatever its fields say; null where it says nothing of one. Only where files are read back
   * to be proved, and where their format has looks of its own.
   */
  readonly symbology?: readonly (StatedSymbology | null)[];
  /**
   * The number of each record's item within its layer, counted from 0 in the order of reading: what the file holds as one thing (a
   * feature, an entity, a row) is one item, however many records it becomes. Only where an account is kept.
   */
  readonly items?: Uint32Array;
  /** Where each record stands in its source: a line number, a record number. Records of one item have the same. */
  readonly locations: Float64Array;
}

/** First and last-plus-one vertex of record `i`. */
export function vertexRange(batch: FeatureBatch, i: number): [number, number] {
  const firstPart = i === 0 ? 0 : batch.featureEnds[i - 1]!;
  const lastPart = batch.featureEnds[i]!;
  const start = firstPart === 0 ? 0 : batch.partEnds[firstPart - 1]!;
  const end = lastPart === 0 ? 0 : batch.partEnds[lastPart - 1]!;
  return [start, end];
}

/** Whether some vertex of record `i` has a height. */
export function hasHeight(batch: FeatureBatch, i: number): boolean {
  const [start, end] = vertexRange(batch, i);
  for (let v = start; v < end; v++) if (!Number.isNaN(batch.coords[3 * v + 2]!)) return true;
  return false;
}

/** Whether some vertex of record `i` has a height other than nought: what is drawn flat lies at nought, which says nothing. */
export function isRaised(batch: FeatureBatch, i: number): boolean {
  const [start, end] = vertexRange(batch, i);
  for (let v = start; v < end; v++) if (Math.abs(batch.coords[3 * v + 2]!) > 0) return true;
  return false;
}

/** Whether some vertex of record `i` has a measure. */
export function hasMeasure(batch: FeatureBatch, i: number): boolean {
  if (!batch.measures) return false;
  const [start, end] = vertexRange(batch, i);
  for (let v = start; v < end; v++) if (!Number.isNaN(batch.measures[v]!)) return true;
  return false;
}

/** The measures of record `i` as text: a JSON array over all its vertices, null for those without; null when it has none. */
export function measuresText(batch: FeatureBatch, i: number): string | null {
  if (!hasMeasure(batch, i)) return null;
  const [start, end] = vertexRange(batch, i);
  return JSON.stringify(Array.from(batch.measures!.subarray(start, end)));
}

/** Parts of record `i`. */
export function partCount(batch: FeatureBatch, i: number): number {
  return batch.featureEnds[i]! - (i === 0 ? 0 : batch.featureEnds[i - 1]!);
}

/** The vertex range of every part of record `i`: its first vertex and one past its last. */
export function partRanges(batch: FeatureBatch, i: number): [number, number][] {
  const ranges: [number, number][] = [];
  eachPart(batch, i, (start, end) => ranges.push([start, end]));
  return ranges;
}

/** Calls `visit` with the vertex range of every part of record `i`. */
export function eachPart(batch: FeatureBatch, i: number, visit: (start: number, end: number) => void): void {
  const first = i === 0 ? 0 : batch.featureEnds[i - 1]!;
  let start = first === 0 ? 0 : batch.partEnds[first - 1]!;
  for (let p = first; p < batch.featureEnds[i]!; p++) {
    const end = batch.partEnds[p]!;
    visit(start, end);
    start = end;
  }
}

/** The parts of record `i`: x and y of their vertices by twos. */
export function partsOf(batch: FeatureBatch, i: number): number[][] {
  const parts: number[][] = [];
  eachPart(batch, i, (s, e) => parts.push(Array.from({ length: 2 * (e - s) }, (_, k) => batch.coords[3 * (s + (k >> 1)) + (k & 1)]!)));
  return parts;
}

/** The records from `start` up to `end` as a batch of their own. */
export function sliceOf(batch: FeatureBatch, start: number, end: number): FeatureBatch {
  if (start === 0 && end === batch.count) return batch;
  const firstPart = start === 0 ? 0 : batch.featureEnds[start - 1]!,
    lastPart = batch.featureEnds[end - 1]!;
  const v0 = firstPart === 0 ? 0 : batch.partEnds[firstPart - 1]!,
    v1 = lastPart === 0 ? 0 : batch.partEnds[lastPart - 1]!;
  return {
    ...batch,
    count: end - start,
    kinds: batch.kinds.slice(start, end),
    entities: batch.entities.slice(start, end),
    coords: batch.coords.slice(3 * v0, 3 * v1),
    bulges: batch.bulges?.slice(v0, v1) ?? null,
    measures: batch.measures?.slice(v0, v1),
    partEnds: batch.partEnds.slice(firstPart, lastPart).map((p) => p - v0),
    featureEnds: batch.featureEnds.slice(start, end).map((f) => f - firstPart),
    columns: new Map([...batch.columns].map(([name, column]) => [name, column.slice(start, end)])),
    ...(batch.symbology ? { symbology: batch.symbology.slice(start, end) } : {}),
    ...(batch.items ? { items: batch.items.slice(start, end) } : {}),
    locations: batch.locations.slice(start, end),
  };
}
