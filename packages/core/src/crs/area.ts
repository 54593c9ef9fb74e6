import { type AreaOfUse, type Crs, type EarthCrs, isOnEarth } from './crs';
import { wrapDegrees } from './methods/method';
import { projectorOf } from './projector';

/** Degrees from west to east, across the antimeridian where it lies between. */
export function widthOf({ west, east }: AreaOfUse): number {
  return east >= west ? east - west : east - west + 360;
}

/** Whether an area holds a longitude and latitude, degrees. */
export function holds(area: AreaOfUse, [lon, lat]: readonly [number, number]): boolean {
  if (!(lat >= area.south && lat <= area.north)) return false;
  return area.west <= area.east ? lon >= area.west && lon <= area.east : lon >= area.west || lon <= area.east;
}

/**
 * Points in the own numbers of a system to degrees on its datum, east of Greenwich, in place; NaN where there is no image.
 * @param points x and y first of `stride` numbers a point
 */
export function toGreenwich(crs: EarthCrs, points: Float64Array, count: number, stride: number): void {
  const { datum, degreesPerUnit } = crs.kind === 'projected' ? crs.base : crs;
  const k = crs.kind === 'projected' ? crs.unit.metres : degreesPerUnit;
  const end = count * stride;
  for (let i = 0; i < end; i += stride) {
    points[i] = points[i]! * k;
    points[i + 1] = points[i + 1]! * k;
  }
  if (crs.kind === 'projected') projectorOf(crs).inverse(points, 0, count, stride);
  if (datum.primeMeridian !== 0) for (let i = 0; i < end; i += stride) points[i] = points[i]! + datum.primeMeridian;
}

/**
 * The area, in degrees, that points in the own numbers of a system lie in; null where none has an image.
 * @param points x and y first of `stride` numbers a point; they are overwritten
 */
export function areaAround(crs: EarthCrs, points: Float64Array, count: number, stride: number): AreaOfUse | null {
  toGreenwich(crs, points, count, stride);
  const lons: number[] = [];
  let [south, north] = [Infinity, -Infinity];
  for (let i = 0; i < count * stride; i += stride) {
    const [lon, lat] = [points[i]!, points[i + 1]!];
    if (!Number.isFinite(lon) || !Number.isFinite(lat)) continue;
    lons.push(wrapDegrees(lon));
    south = Math.min(south, lat);
    north = Math.max(north, lat);
  }
  if (lons.length === 0) return null;
  // the widest gap between neighbours is what the area leaves out: it may lie across the antimeridian
  lons.sort((a, b) => a - b);
  let [west, east, gap] = [lons[0]!, lons.at(-1)!, lons[0]! + 360 - lons.at(-1)!];
  for (let k = 1; k < lons.length; k++)
    if (lons[k]! - lons[k - 1]! > gap) [west, east, gap] = [lons[k]!, lons[k - 1]!, lons[k]! - lons[k - 1]!];
  return { name: '', west, south, east, north };
}

/**
 * How many points lie outside the area of use of a system.
 * @param points x and y in the system's own numbers, `stride` numbers a point; they stay as they are
 * @returns 0 where the registry states no area; points without an image do not count
 */
export function outsideArea(crs: Crs, points: Float64Array, count: number, stride: number): number {
  if (!isOnEarth(crs) || !crs.area) return 0;
  const p = Float64Array.from(points);
  toGreenwich(crs, p, count, stride);
  let n = 0;
  for (let i = 0; i < count * stride; i += stride) {
    const lon = p[i]!;
    if (Number.isFinite(lon) && !holds(crs.area, [lon > 180 ? lon - 360 : lon < -180 ? lon + 360 : lon, p[i + 1]!])) n++;
  }
  return n;
}
