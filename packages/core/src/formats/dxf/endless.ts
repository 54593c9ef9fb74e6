import type { Bounds } from '../../geometry/bounds';
import type { Entity } from './entities';

type Point = [number, number, number];

/**
 * The piece of a line without end that lies in a box; null when it passes it by. Source: DXF Reference, RAY and XLINE.
 * The way of Liang and Barsky, with open ends.
 */
export function cutEndless(e: Entity<'RAY'>, both: boolean, [minx, miny, maxx, maxy]: Bounds): [Point, Point] | null {
  let from = both ? -Infinity : 0,
    to = Infinity;
  for (const [p, d, low, high] of [
    [e.x, e.dx, minx, maxx],
    [e.y, e.dy, miny, maxy],
  ] as const) {
    if (d === 0) {
      if (p < low || p > high) return null;
      continue;
    }
    const a = (low - p) / d,
      b = (high - p) / d;
    from = Math.max(from, Math.min(a, b));
    to = Math.min(to, Math.max(a, b));
  }
  if (!(from < to && Number.isFinite(from) && Number.isFinite(to))) return null;
  const at = (t: number): Point => [e.x + t * e.dx, e.y + t * e.dy, e.z + t * e.dz];
  return [at(from), at(to)];
}
