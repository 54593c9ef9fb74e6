import { EAST_NORTH } from './axes';
import type { LinearUnit, LocalCrs } from './crs';

/** The metre, as a unit of a plane. */
export const METRE: LinearUnit = { name: 'metre', metres: 1 };

/** What a plane is called that has no name of its own. */
const nameFor = (unit: LinearUnit): string => `Local plane (${unit.name})`;

/** The plane of a site grid, by the unit of its numbers. */
export function localPlane(unit: LinearUnit, name = nameFor(unit)): LocalCrs {
  return { kind: 'local', id: null, name, area: null, unit, axes: EAST_NORTH };
}

/** Whether two planes may be one: planes with different names of their own are different sites. */
export const maybeSamePlane = (a: LocalCrs, b: LocalCrs): boolean => a.name === b.name || [a, b].some((p) => p.name === nameFor(p.unit));

/** The word by which a local plane in metres is asked for; every other one by its definition. */
export const LOCAL = 'local';
