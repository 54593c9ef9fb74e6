import { type Crs, isPlane, type LinearUnit, type ProjectedCrs } from '../crs/crs';
import type { Bounds } from '../geometry/bounds';
import { shareInUse } from './extent-on-earth';
import { compilePlacement } from './placement-transform';
import type { Placement } from './placement';
import { sameLength, unitsOfLength } from './ratio';

/** That the unit which a source states is not the one of its system, and that its numbers would lie in the system's area of use by either. */
export interface UnitQuestion {
  stated: LinearUnit;
  own: LinearUnit;
  /** How far apart the middle of the source lies by the two: from where its own unit puts it to where the stated one does, in the system's unit. */
  shift: readonly [number, number];
  /** The same for people: "12.1 ft east and 3.7 ft north". */
  distance: string;
}

/** Units that differ by less are taken for each other; by more, the system's own unit would be no likely reading of a source that states another. */
const NEAR = 4;

/** Metres below which it does not matter which unit is meant. */
const LEAST_M = 0.001;

/** Share of an extent from which it counts as lying in an area of use. */
const MOSTLY = 0.5;

/**
 * Whether the unit that a source states leaves a question in a system.
 * @returns null where it states none, where it is the system's own, or where only one of the two puts it into the area of use
 */
export function unitQuestion(crs: Crs, stated: LinearUnit | null, extent: Bounds | null): UnitQuestion | null {
  if (!stated || !extent || crs.kind !== 'projected' || sameLength(stated.metres, crs.unit.metres)) return null;
  if (!liesInUse(crs, stated.metres, extent) || !liesInUse(crs, null, extent)) return null;
  const ratio = stated.metres / crs.unit.metres;
  const shift = [(ratio - 1) * ((extent[0] + extent[2]) / 2), (ratio - 1) * ((extent[1] + extent[3]) / 2)] as const;
  if (Math.hypot(...shift) * crs.unit.metres < LEAST_M) return null;
  return { stated, own: crs.unit, shift, distance: shiftText(crs, shift) };
}

/**
 * The unit that is proposed for a source in a system, metres in one; null for the system's own. That is what the source states, but the
 * system's own unit where the two are near each other and nothing tells them apart, or where only that one puts it into the area of use.
 */
export function proposedUnit(crs: Crs, stated: LinearUnit | null, extent: Bounds | null): number | null {
  if (!stated) return null;
  if (!isPlane(crs)) return stated.metres;
  const ratio = stated.metres / crs.unit.metres;
  if (unitQuestion(crs, stated, extent)) return ratio < NEAR && ratio > 1 / NEAR ? null : stated.metres;
  const isOutside = extent !== null && !liesInUse(crs, stated.metres, extent);
  return isOutside && liesInUse(crs, null, extent) ? null : stated.metres;
}

/** Whether somebody has settled which unit the numbers of a source are in, while it stated what it states now. */
export const isUnitSettled = ({ settled_m }: Placement, stated: LinearUnit): boolean =>
  settled_m !== undefined && sameLength(settled_m, stated.metres);

/** The question that a placement leaves open: nobody has settled it, and no fit makes it idle. */
export function openUnitQuestion(placement: Placement, crs: Crs, stated: LinearUnit | null, extent: Bounds | null): UnitQuestion | null {
  if (placement.fit || (stated && isUnitSettled(placement, stated))) return null;
  return unitQuestion(crs, stated, extent);
}

/** The question as one sentence. @param unit_m metres in one unit of the numbers as they are taken; null for the system's own */
export function unitSentence({ stated, own, distance }: UnitQuestion, crs: Crs, unit_m: number | null): string {
  const [statedUnits, ownUnits] = [unitsOfLength(stated.metres), unitsOfLength(own.metres)];
  return unit_m !== null && sameLength(unit_m, stated.metres)
    ? `Its numbers are taken as ${statedUnits}, as it states; ${crs.name} counts in ${ownUnits}, which puts it ${distance} away from there.`
    : `It states ${statedUnits}, and its numbers are taken as ${unitsOfLength(unit_m ?? own.metres)}: ${crs.name} counts in ${ownUnits}. Taken as ${statedUnits} it would lie ${distance} of there.`;
}

function liesInUse(crs: Crs, unit_m: number | null, extent: Bounds): boolean {
  const share = shareInUse(crs, compilePlacement(crs, { unit_m }), extent);
  return share === null || share > MOSTLY;
}

function shiftText({ axes, unit }: ProjectedCrs, [dx, dy]: readonly [number, number]): string {
  const part = (d: number, positive: string, negative: string): string[] =>
    Math.abs(d) * unit.metres < LEAST_M ? [] : [`${figure(Math.abs(d))} ${unitsOfLength(unit.metres)} ${d > 0 ? positive : negative}`];
  const opposite = { east: 'west', west: 'east', north: 'south', south: 'north' } as const;
  return [...part(dx, axes.x, opposite[axes.x]), ...part(dy, axes.y, opposite[axes.y])].join(' and ');
}

/** Three figures, with marks between thousands. */
const figure = (n: number): string => Number(n.toPrecision(3)).toLocaleString('en', { maximumFractionDigits: 4 });
