import { ringHolds } from './ring-holds';

/**
 * How many other rings each ring of a polygon lies in, by its first vertex: even for outer rings, odd for holes.
 * @param coords x, y, z triples
 * @param ranges first vertex of each ring and one past its last
 */
export function ringDepths(coords: Float64Array, ranges: readonly (readonly [number, number])[]): number[] {
  if (ranges.length === 1) return [0];
  const boxes = ranges.map(([s, e]) => {
    const box = [Infinity, Infinity, -Infinity, -Infinity];
    for (let v = s; v < e; v++) {
      box[0] = Math.min(box[0]!, coords[3 * v]!);
      box[1] = Math.min(box[1]!, coords[3 * v + 1]!);
      box[2] = Math.max(box[2]!, coords[3 * v]!);
      box[3] = Math.max(box[3]!, coords[3 * v + 1]!);
    }
    return box;
  });
  return ranges.map((range, i) => {
    // a vertex that two rings share tells nothing: the middle of the first side stands for the ring
    const v = 3 * range[0];
    const x = (coords[v]! + coords[v + 3]!) / 2, y = (coords[v + 1]! + coords[v + 4]!) / 2;
    return ranges.filter(([s, e], k) => k !== i && x >= boxes[k]![0]! && x <= boxes[k]![2]! && y >= boxes[k]![1]! && y <= boxes[k]![3]! && ringHolds(coords, s, e, x, y)).length;
  });
}
