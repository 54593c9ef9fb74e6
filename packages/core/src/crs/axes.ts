/**
 * Which way the numbers of a projected system grow. Inside, the east-west axis is always the first and has the system's
 * own sign; `northFirst` tells that the registry (and so formats that follow it) puts the other one first.
 */
export interface Axes {
  x: 'east' | 'west';
  y: 'north' | 'south';
  northFirst: boolean;
  /** As printed beside numbers: "E" and "N", or "Y" and "X"; in the order (x, y). */
  letters: readonly [string, string];
  /** About a pole: away from the south or the north one along these meridians, degrees, in the order (x, y). */
  along?: { toward: 'north' | 'south'; meridians: readonly [number, number] };
}

/** The axes of most systems: eastings to the right, northings upwards, in this order. */
export const EAST_NORTH: Axes = { x: 'east', y: 'north', northFirst: false, letters: ['E', 'N'] };
