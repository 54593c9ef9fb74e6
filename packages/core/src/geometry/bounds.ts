import { type FeatureBatch, vertexRange } from '../model/batch';
import { arcOf } from './arc';

/** minx, miny, maxx, maxy. */
export type Bounds = [number, number, number, number];

/** Bounds of nothing, to be grown. */
export const emptyBounds = (): Bounds => [Infinity, Infinity, -Infinity, -Infinity];

/** Whether bounds hold nothing. */
export const isEmpty = (b: Bounds): boolean => !(b[0] <= b[2]);

/** Grows bounds in place so that they hold a point. */
export function grow(b: Bounds, x: number, y: number): void {
  if (x < b[0]) b[0] = x;
  if (y < b[1]) b[1] = y;
  if (x > b[2]) b[2] = x;
  if (y > b[3]) b[3] = y;
}

/** Grows bounds in place so that they hold some points, x and y by twos. */
export function growAlong(b: Bounds, points: ArrayLike<number>): void {
  for (let k = 0; k + 1 < points.length; k += 2) grow(b, points[k]!, points[k + 1]!);
}

/** Grows bounds in place so that they hold others. */
export function join(b: Bounds, other: Bounds): void {
  if (isEmpty(other)) return;
  grow(b, other[0], other[1]);
  grow(b, other[2], other[3]);
}

/** Whether two boxes share more than an edge. */
export const overlapping = (a: Bounds, b: Bounds): boolean => a[0] < b[2] && b[0] < a[2] && a[1] < b[3] && b[1] < a[3];

/** The bounds of record `i`, its arcs included, written into `out`. */
export function featureBounds(batch: FeatureBatch, i: number, out: Bounds): void {
  out[0] = out[1] = Infinity;
  out[2] = out[3] = -Infinity;
  const [start, end] = vertexRange(batch, i);
  const { coords, bulges } = batch;
  for (let v = start; v < end; v++) {
    grow(out, coords[3 * v]!, coords[3 * v + 1]!);
    if (bulges && bulges[v] !== 0 && v + 1 < end) growByArc(out, coords, v, bulges[v]!);
  }
}

/** The quadrant points that the arc from vertex v to the next passes through. */
function growByArc(out: Bounds, coords: Float64Array, v: number, bulge: number): void {
  const { cx, cy, radius, start, sweep } = arcOf(coords[3 * v]!, coords[3 * v + 1]!, coords[3 * v + 3]!, coords[3 * v + 4]!, bulge);
  const from = Math.min(start, start + sweep);
  const to = Math.max(start, start + sweep);
  const quarter = Math.PI / 2;
  for (let q = Math.ceil(from / quarter); q * quarter <= to; q++) {
    grow(out, cx + radius * Math.round(Math.cos(q * quarter)), cy + radius * Math.round(Math.sin(q * quarter)));
  }
}

/** Places over bounds, from edge to edge: x and y of each, `cells` + 1 along each side. */
export function gridOver([minx, miny, maxx, maxy]: Bounds, cells: number): Float64Array {
  const p = new Float64Array(2 * (cells + 1) ** 2);
  for (let i = 0, k = 0; i <= cells; i++)
    for (let j = 0; j <= cells; j++) {
      p[k++] = minx + ((maxx - minx) * i) / cells;
      p[k++] = miny + ((maxy - miny) * j) / cells;
    }
  return p;
}
