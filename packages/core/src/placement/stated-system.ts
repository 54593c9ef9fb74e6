import { type Crs, isOnEarth, type LinearUnit } from '../crs/crs';
import type { Bounds } from '../geometry/bounds';
import { shareInUse } from './extent-on-earth';
import { compilePlacement, type PlacementParameters } from './placement-transform';
import { proposedUnit } from './unit-question';

/** Why a system that a source is said to be in can hardly be its own. */
export interface SystemDoubt {
  code: 'system-outside' | 'system-degrees' | 'system-metres';
  message: string;
  /** How much of the source lies in the area of use, 0 to 1. */
  inside: number;
}

/** Share of a source outside the area of use from which its system is in doubt. */
const DOUBTFUL = 0.5;

/** Share from which it is told that a part of a source lies outside. */
const SOME = 0.05;

/** Whether the numbers of a source can be those of a system; null where nothing speaks against it. */
export function systemDoubt(crs: Crs, parameters: PlacementParameters, extent: Bounds | null): SystemDoubt | null {
  if (!extent || !isOnEarth(crs) || parameters.fit) return null;
  const inside = shareInUse(crs, compilePlacement(crs, parameters), extent);
  const name = `${crs.id ?? 'its system'} (${crs.name})`;
  if (crs.kind === 'geographic' && Math.max(...extent.map(Math.abs)) * crs.degreesPerUnit > NO_DEGREES)
    return {
      code: 'system-metres',
      message: `It is said to be in degrees, ${name}, and its numbers, up to ${largest(extent)}, are no degrees.`,
      inside: 0,
    };
  if (crs.kind === 'projected' && crs.area && looksLikeDegrees(extent, parameters))
    return {
      code: 'system-degrees',
      message: `It is said to be in ${crs.unit.name}s, ${name}, and its numbers, up to ${largest(extent)}, look like degrees.`,
      inside: 0,
    };
  if (inside === null || inside > 1 - SOME) return null;
  const part = inside === 0 ? 'Nothing of it lies' : `Only ${Math.max(1, Math.round(100 * inside))} % of it lies`;
  return { code: 'system-outside', message: `${part} in the area of use of ${name}: ${crs.area!.name}.`, inside };
}

/** What a source states of where it lies. */
export interface StatedPlace {
  crs: Crs | null;
  unit: LinearUnit | null;
  fit?: unknown;
}

/** Why the system that a source states can hardly be its own, in the unit that is proposed for it there; null where nothing speaks against it. */
export const statedDoubt = ({ crs, unit, fit }: StatedPlace, extent: Bounds | null): SystemDoubt | null =>
  crs && !fit ? systemDoubt(crs, { unit_m: proposedUnit(crs, unit, extent) }, extent) : null;

/** Numbers beyond this are no degrees; a stray one below it may be a slip. */
const NO_DEGREES = 1000;

/** Whether a doubt is so strong that a person should decide before the source is placed. */
export const isSevere = (doubt: SystemDoubt | null): boolean => doubt !== null && doubt.inside < DOUBTFUL;

const largest = (extent: Bounds): string => String(Number(Math.max(...extent.map(Math.abs)).toPrecision(6)));

const couldBeDegrees = ([minx, miny, maxx, maxy]: Bounds, degrees: number): boolean =>
  Math.max(-minx, maxx) * degrees <= 360.001 && Math.max(-miny, maxy) * degrees <= 90.001;

/** Numbers of a longitude and a latitude. The plane of a registered system has such numbers within metres of its origin alone. */
function looksLikeDegrees(extent: Bounds, { unit_m }: PlacementParameters): boolean {
  return unit_m === null && couldBeDegrees(extent, 1);
}
