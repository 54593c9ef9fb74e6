/** Largest distance at which a vertex counts as being where it was: a millimetre, far below any survey. */
export const TOLERANCE_M = 0.001;

/** The same for a format that keeps each coordinate within so many metres. */
export const toleranceFor = (rounding_m: number): number => Math.max(TOLERANCE_M, rounding_m * Math.SQRT2 * 1.000001);
