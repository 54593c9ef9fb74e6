import { Problem } from '../model/problem';
import { ringArea2 } from './ring-area';
import Flatbush from 'flatbush';
import { ringHolds } from './ring-holds';

/** First vertex of a ring and one past its last. */
export type RingRange = readonly [number, number];

/** Pairs of rings that are looked at, and the vertices of the outer of each pair, all together: some seconds of work; more is no area. */
const MOST_PAIRS = 10_000_000;
const MOST_VERTICES = 2_000_000_000;

/**
 * The rings that hold each ring of a polygon, by the middle of its first side: a vertex that two rings share tells nothing.
 * @throws Problem `rings-tangled`
 */
function holders(coords: Float64Array, ranges: readonly RingRange[]): number[][] {
  if (ranges.length === 1) return [[]];
  const index = new Flatbush(ranges.length);
  for (const [s, e] of ranges) {
    let x0 = Infinity,
      y0 = Infinity,
      x1 = -Infinity,
      y1 = -Infinity;
    for (let v = s; v < e; v++) {
      const x = coords[3 * v]!,
        y = coords[3 * v + 1]!;
      if (x < x0) x0 = x;
      if (x > x1) x1 = x;
      if (y < y0) y0 = y;
      if (y > y1) y1 = y;
    }
    index.add(x0, y0, x1, y1);
  }
  index.finish();
  let [pairs, vertices] = [0, 0];
  return ranges.map(([s], i) => {
    const v = 3 * s;
    const x = (coords[v]! + coords[v + 3]!) / 2,
      y = (coords[v + 1]! + coords[v + 4]!) / 2;
    return index.search(x, y, x, y, (k) => {
      const [start, end] = ranges[k]!;
      vertices += end - start;
      if (++pairs > MOST_PAIRS || vertices > MOST_VERTICES)
        throw new Problem(
          'rings-tangled',
          `An area has ${ranges.length} rings that lie over one another so often that it cannot be told which are holes. Mend it in the program that it comes from, or leave its layer out.`,
        );
      return k !== i && ringHolds(coords, start, end, x, y);
    });
  });
}

/**
 * How many other rings each ring of a polygon lies in: even for outer rings, odd for holes.
 * @param coords x, y, z triples
 */
export function ringDepths(coords: Float64Array, ranges: readonly RingRange[]): number[] {
  return holders(coords, ranges).map((h) => h.length);
}

/** A ring of a polygon; `turned` where it has to be run through backwards for outer rings to go counter-clockwise and holes clockwise. */
export interface PolygonRing {
  range: RingRange;
  turned: boolean;
}

/**
 * The rings of a record as polygons: each an outer ring and the holes in it, in the order in which they come. A ring within a
 * hole begins a polygon of its own.
 * @param coords x, y, z triples
 */
export function polygonsOf(coords: Float64Array, ranges: readonly RingRange[]): PolygonRing[][] {
  const held = holders(coords, ranges);
  const polygons = new Map<number, number[]>();
  held.forEach((h, i) => {
    if (h.length % 2 === 0) polygons.set(i, [i]);
  });
  held.forEach((h, i) => {
    // the ring just around a hole is one less deep
    if (h.length % 2 === 0) return;
    const around = polygons.get(h.find((k) => held[k]!.length === h.length - 1) ?? -1);
    if (around) around.push(i);
    else polygons.set(i, [i]);
  });
  return [...polygons.values()].map((rings) =>
    rings.map((r, k) => ({ range: ranges[r]!, turned: ringArea2(coords, ...ranges[r]!) > 0 !== (k === 0) })),
  );
}
