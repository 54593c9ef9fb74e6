import type { AreaOfUse } from './crs';

/** Degrees of west, south, east and north, with west below east: across the antimeridian there are two. */
export type Box = readonly [number, number, number, number];

/** An area of use as boxes of degrees; one that crosses the antimeridian is two. */
export function boxesOf({ west, south, east, north }: AreaOfUse): Box[] {
  return west <= east
    ? [[west, south, east, north]]
    : [
        [west, south, 180, north],
        [-180, south, east, north],
      ];
}

/** What two sets of boxes have in common; empty when nothing. */
export function common(a: readonly Box[], b: readonly Box[]): Box[] {
  const made: Box[] = [];
  for (const [w1, s1, e1, n1] of a) {
    for (const [w2, s2, e2, n2] of b) {
      const w = Math.max(w1, w2),
        s = Math.max(s1, s2),
        e = Math.min(e1, e2),
        n = Math.min(n1, n2);
      if (w <= e && s <= n) made.push([w, s, e, n]);
    }
  }
  return made;
}

/** Size on a sphere, in square degrees at the equator: only for comparing. */
export function sizeOf(boxes: readonly Box[]): number {
  let sum = 0;
  for (const [w, s, e, n] of boxes) sum += (e - w) * (Math.sin((n * Math.PI) / 180) - Math.sin((s * Math.PI) / 180));
  return sum;
}
