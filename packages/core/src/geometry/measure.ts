import { ringArea2 } from './ring-area';
import { eachPart, type FeatureBatch, partRanges } from '../model/batch';
import { ringDepths } from './nesting';

/** Plane length of record `i`, all parts, in the unit of its coordinates. */
export function planeLength(batch: FeatureBatch, i: number): number {
  let sum = 0;
  eachPart(batch, i, (start, end) => {
    for (let v = start + 1; v < end; v++) {
      sum += Math.hypot(batch.coords[3 * v]! - batch.coords[3 * v - 3]!, batch.coords[3 * v + 1]! - batch.coords[3 * v - 2]!);
    }
  });
  return sum;
}

/** Plane area of polygon `i`: its outer rings less its holes, in the squared unit of its coordinates. */
export function planeArea(batch: FeatureBatch, i: number): number {
  return outerAndHoles(batch, i, (start, end) => Math.abs(ringArea2(batch.coords, start, end)) / 2);
}

/** Sums what `of` says of the rings of polygon `i`: that of the outer ones less that of the holes. */
export function outerAndHoles(batch: FeatureBatch, i: number, of: (start: number, end: number) => number): number {
  const rings = partRanges(batch, i);
  const depths = ringDepths(batch.coords, rings);
  return rings.reduce((sum, [start, end], k) => sum + (depths[k]! % 2 === 0 ? 1 : -1) * of(start, end), 0);
}
