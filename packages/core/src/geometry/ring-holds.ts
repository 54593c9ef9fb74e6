import { turn } from './turn';

/**
 * Whether a place lies inside a ring of vertices [start, end) whose first is repeated at its end; on an edge it may fall to either side.
 * @param stride numbers a vertex; the first two are x and y
 */
export function ringHolds(coords: ArrayLike<number>, start: number, end: number, x: number, y: number, stride = 3): boolean {
  let inside = false;
  for (let v = start; v + 1 < end; v++) {
    const a = v * stride,
      b = a + stride;
    const x1 = coords[a]!,
      y1 = coords[a + 1]!,
      x2 = coords[b]!,
      y2 = coords[b + 1]!;
    // it lies to the left of a side that crosses its height
    if (y1 > y !== y2 > y && y2 > y1 === turn(x1, y1, x2, y2, x, y) > 0) inside = !inside;
  }
  return inside;
}

/** Whether a place lies inside several rings together, by the even-odd rule. @param rings x and y of corners by twos, the first repeated at the end */
export const ringsHold = (rings: readonly ArrayLike<number>[], x: number, y: number): boolean =>
  rings.filter((ring) => ringHolds(ring, 0, ring.length / 2, x, y, 2)).length % 2 === 1;
