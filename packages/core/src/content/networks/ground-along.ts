import { onGround } from '../surfaces/drape';
import type { Ground } from '../surfaces/tin';

/** A place on the ground of a run: how far from where the run begins, and how high, in units of the coordinates; null outside the surface. */
export type GroundPlace = [station: number, height: number | null];

/** The ground along a run, at its bends and at every side of a triangle that it goes over. @param course x and y by twos */
export function groundAlong(ground: Ground, course: readonly number[]): GroundPlace[] {
  const places = onGround(ground, course);
  const along: GroundPlace[] = [];
  let station = 0;
  for (let k = 0; k < places.length; k += 3) {
    if (k > 0) station += Math.hypot(places[k]! - places[k - 3]!, places[k + 1]! - places[k - 2]!);
    const height = places[k + 2]!;
    along.push([station, Number.isNaN(height) ? null : height]);
  }
  return along;
}

/** The stretches of a ground that are on its surface. */
export function groundLines(along: readonly GroundPlace[]): [station: number, height: number][][] {
  const lines: [number, number][][] = [[]];
  for (const [station, height] of along)
    if (height === null) lines.push([]);
    else lines.at(-1)!.push([station, height]);
  return lines.filter((line) => line.length > 1);
}
