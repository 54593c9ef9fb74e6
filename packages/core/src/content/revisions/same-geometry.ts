import { eachPart, type FeatureBatch, POLYGON, vertexRange } from '../../model/batch';

/** The geometry of one record by itself: numbers of vertices of its parts; x, y, z, bulge and measure of each vertex. */
export interface LooseGeometry {
  kind: number;
  parts: number[];
  /** Five numbers a vertex; height and measure are NaN where there is none, the bulge 0 where a segment is straight. */
  vertices: Float64Array;
}

/** Numbers of a vertex. */
const STRIDE = 5;

/** A geometry as it is stored, with the numbers of its vertices, and its lowest x and y, NaN where it has no vertex. */
export interface StoredGeometry {
  bytes: Uint8Array;
  numbers: number;
  corner: [number, number];
}

/** The geometry of a record of a batch as bytes: how many parts, how many vertices each, and the vertices. */
export function storedGeometry(batch: FeatureBatch, i: number): StoredGeometry {
  let parts = 0;
  eachPart(batch, i, () => void parts++);
  const [start, end] = vertexRange(batch, i);
  const all = new Float64Array(1 + parts + STRIDE * (end - start));
  all[0] = parts;
  let at = 1;
  eachPart(batch, i, (from, to) => void (all[at++] = to - from));
  const { coords, bulges, measures } = batch;
  let [x, y] = [Infinity, Infinity];
  for (let v = start; v < end; v++) {
    const [e, n] = [coords[3 * v]!, coords[3 * v + 1]!];
    if (e < x) x = e;
    if (n < y) y = n;
    all[at++] = e;
    all[at++] = n;
    all[at++] = coords[3 * v + 2]!;
    all[at++] = bulges?.[v] ?? 0;
    all[at++] = measures?.[v] ?? NaN;
  }
  return { bytes: new Uint8Array(all.buffer), numbers: STRIDE * (end - start), corner: end === start ? [NaN, NaN] : [x, y] };
}

/** The inverse of {@link storedGeometry}. @param kind index of its kind */
export function geometryOfBytes(bytes: Uint8Array, kind: number): LooseGeometry {
  const numbers = new Float64Array(bytes.slice().buffer);
  const n = numbers[0]!;
  return { kind, parts: [...numbers.subarray(1, 1 + n)], vertices: numbers.slice(1 + n) };
}

/** Bulges that are one: a hundredth of a degree of an arc. */
const SAME_BULGE = 5e-5;

/**
 * How far two geometries are apart, in units of their coordinates: the largest distance of two vertices that answer each other. A ring may
 * begin elsewhere and run the other way round; a line may not.
 * @param within the distance up to which vertices may answer each other
 * @returns Infinity where they do not have the same parts, or a vertex answers none
 */
export function distanceBetween(a: LooseGeometry, b: LooseGeometry, within: number): number {
  if (a.kind !== b.kind || a.parts.length !== b.parts.length || a.parts.some((n, k) => n !== b.parts[k])) return Infinity;
  let worst = 0;
  let from = 0;
  for (const n of a.parts) {
    const own = a.kind === POLYGON ? ringDistance(a.vertices, b.vertices, from, n, within) : partDistance(a.vertices, b.vertices, from, n);
    worst = Math.max(worst, own);
    from += n;
  }
  return worst;
}

function vertexDistance(a: Float64Array, i: number, b: Float64Array, j: number): number {
  const [p, q] = [STRIDE * i, STRIDE * j];
  if (!sameMeasure(a[p + 4]!, b[q + 4]!)) return Infinity;
  const [z, w] = [a[p + 2]!, b[q + 2]!];
  const flat = Math.hypot(a[p]! - b[q]!, a[p + 1]! - b[q + 1]!);
  if (Number.isNaN(z) && Number.isNaN(w)) return flat;
  return Number.isNaN(z) || Number.isNaN(w) ? Infinity : Math.hypot(flat, z - w);
}

/** Measures are values: they are one, or they are not. */
const sameMeasure = (a: number, b: number): boolean =>
  (Number.isNaN(a) && Number.isNaN(b)) || Math.abs(a - b) <= 1e-9 * Math.max(1, Math.abs(a));

const bulgeAt = (a: Float64Array, i: number): number => a[STRIDE * i + 3]!;

function partDistance(a: Float64Array, b: Float64Array, from: number, n: number): number {
  let worst = 0;
  for (let v = from; v < from + n; v++) {
    if (Math.abs(bulgeAt(a, v) - bulgeAt(b, v)) > SAME_BULGE) return Infinity;
    worst = Math.max(worst, vertexDistance(a, v, b, v));
  }
  return worst;
}

/** Corners up to which each is tried as the one that answers the first; of larger rings those that lie nearest to it. */
const MOST_TRIED = 64,
  NEAREST = 8;

/** The same of a ring, whose last vertex repeats its first: the least over all ways in which its corners may answer each other. */
function ringDistance(a: Float64Array, b: Float64Array, from: number, n: number, within: number): number {
  let best = partDistance(a, b, from, n);
  const corners = n - 1;
  if (best <= within) return best;
  const starts = Array.from({ length: corners }, (_, shift) => ({ shift, off: vertexDistance(a, from, b, from + shift) })).sort(
    (p, q) => p.off - q.off,
  );
  for (const { shift, off } of starts.slice(0, corners <= MOST_TRIED ? corners : NEAREST)) {
    if (off >= best) break;
    for (const step of [1, -1]) best = Math.min(best, turnedDistance(a, b, from, corners, shift, step, best));
  }
  return best;
}

/** Where corner `k` answers corner `shift + step k`; as soon as it is no less than `most`, it may be anything from there on. */
function turnedDistance(
  a: Float64Array,
  b: Float64Array,
  from: number,
  corners: number,
  shift: number,
  step: number,
  most: number,
): number {
  let worst = 0;
  for (let k = 0; k < corners && worst < most; k++) {
    const j = (((shift + step * k) % corners) + corners) % corners;
    // a side that is walked the other way bends the other way
    const bend = step === 1 ? bulgeAt(b, from + j) : -bulgeAt(b, from + ((j - 1 + corners) % corners));
    if (Math.abs(bulgeAt(a, from + k) - bend) > SAME_BULGE) return Infinity;
    worst = Math.max(worst, vertexDistance(a, from + k, b, from + j));
  }
  return worst;
}
