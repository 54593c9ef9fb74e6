import { areaAround, holds, toGreenwich } from '../crs/area';
import { type AreaOfUse, type Crs, isOnEarth } from '../crs/crs';
import { wrapDegrees } from '../crs/methods/method';
import { type Bounds, gridOver } from '../geometry/bounds';
import type { PlacementTransform } from './placement-transform';

/** Steps along each side by which an extent is followed onto the globe. */
const STEPS = 6;

/** Positions over an extent of a source, in the numbers of the system that it is placed in. */
function positionsOver(extent: Bounds, placement: PlacementTransform): Float64Array {
  const p = gridOver(extent, STEPS);
  placement.forward(p, 0, p.length / 2, 2);
  return p;
}

/** Where an extent of a source lies, degrees; null where nothing of it has an image. */
export function areaOfExtent(crs: Crs, placement: PlacementTransform, extent: Bounds | null): AreaOfUse | null {
  if (!extent || !isOnEarth(crs)) return null;
  const p = positionsOver(extent, placement);
  return areaAround(crs, p, p.length / 2, 2);
}

/** How much of an extent lies in the area of use of the system that it is placed in, 0 to 1; null where the registry states no area. */
export function shareInUse(crs: Crs, placement: PlacementTransform, extent: Bounds | null): number | null {
  if (!extent || !isOnEarth(crs) || !crs.area) return null;
  const p = positionsOver(extent, placement);
  toGreenwich(crs, p, p.length / 2, 2);
  let inside = 0;
  for (let i = 0; i < p.length; i += 2) if (Math.abs(p[i]!) <= 360 && holds(crs.area, [wrapDegrees(p[i]!), p[i + 1]!])) inside++;
  return inside / (p.length / 2);
}
