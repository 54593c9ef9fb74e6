import type { Crs } from './crs';
import { projectorOf } from './projector';
import { holds } from './registry/search';

/**
 * How many points lie outside the area of use of a system.
 * @param points x and y in the system's own numbers, `stride` numbers a point; they stay as they are
 * @returns 0 where the registry states no area; points without an image do not count
 */
export function outsideArea(crs: Crs, points: Float64Array, count: number, stride: number): number {
  if (!crs.area) return 0;
  const p = Float64Array.from(points);
  const base = crs.kind === 'projected' ? crs.base : crs;
  if (crs.kind === 'projected') {
    for (let i = 0; i < count * stride; i += stride) {
      p[i] = p[i]! * crs.unit.metres;
      p[i + 1] = p[i + 1]! * crs.unit.metres;
    }
    projectorOf(crs).inverse(p, 0, count, stride);
  }
  let n = 0;
  for (let i = 0; i < count * stride; i += stride) {
    if (!Number.isFinite(p[i]!)) continue;
    const k = crs.kind === 'projected' ? 1 : base.degreesPerUnit;
    const lon = p[i]! * k + base.datum.primeMeridian;
    if (!holds(crs.area, [lon > 180 ? lon - 360 : lon < -180 ? lon + 360 : lon, p[i + 1]! * k])) n++;
  }
  return n;
}
