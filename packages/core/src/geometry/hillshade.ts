/** Where the light comes from: the north-west, halfway up. Common practice in relief shading, no source. */
const [EAST, NORTH, UP] = [-0.5, 0.5, Math.SQRT1_2];

/** How many times slopes are drawn as steep as they are: towns are flat. */
const STEEPER = 10;

/** What flat ground has of the light. */
export const FLAT_LIGHT = UP;

/**
 * How the light falls on a triangle, 0 (away from it) to 1 (straight at it); null where three corners have no heights, or no area.
 * @param corners x, y and z of three corners, one after the other, all in one unit
 */
export function lightOn(corners: ArrayLike<number>, start = 0): number | null {
  const at = (k: number): number => corners[start + k]!;
  const [ux, uy, uz] = [at(3) - at(0), at(4) - at(1), at(5) - at(2)];
  const [vx, vy, vz] = [at(6) - at(0), at(7) - at(1), at(8) - at(2)];
  const across = ux * vy - uy * vx;
  if (!Number.isFinite(uz) || !Number.isFinite(vz) || across === 0) return null;
  const east = (STEEPER * (uz * vy - uy * vz)) / across,
    north = (STEEPER * (ux * vz - uz * vx)) / across;
  return Math.max(0, (UP - EAST * east - NORTH * north) / Math.hypot(east, north, 1));
}
