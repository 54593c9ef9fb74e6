import { Problem } from '../model/problem';
import type { ProjectedCrs } from './crs';
import { METHODS } from './methods/index';
import { mirrored, type Projector } from './methods/method';

/**
 * The projection of a system, between degrees on its own meridian and metres in its own signs.
 * @throws Problem `crs-method-unknown`
 */
export function projectorOf(crs: ProjectedCrs): Projector {
  const method = METHODS.get(crs.method);
  if (!method)
    throw new Problem('crs-method-unknown', `${crs.name} uses the projection method EPSG:${crs.method}, which is not available.`);
  const plane = method.compile(crs.base.datum.ellipsoid, (p) => crs.parameters[p] ?? 0);
  // a system may count to the west or south by its axes alone, though its method does not
  const { x = 'east', y = 'north' } = method.orientation ?? {};
  const [sx, sy] = [crs.axes.x === x ? 1 : -1, crs.axes.y === y ? 1 : -1] as const;
  return sx === 1 && sy === 1 ? plane : mirrored(plane, sx, sy);
}
