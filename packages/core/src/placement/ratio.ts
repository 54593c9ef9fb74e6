import type { LinearUnit } from '../crs/crs';

/** A ratio of lengths that a mistake about units would explain. */
export interface RatioCause {
  /** "The numbers are feet, not metres." */
  message: string;
  /** The exact ratio. */
  ratio: number;
}

/** Lengths of units that are taken for each other, metres. Source: EPSG registry, units of measure. */
export const MISTAKEN_UNITS: readonly { name: string; plural: string; metres: number }[] = [
  { name: 'millimetre', plural: 'millimetres', metres: 0.001 },
  { name: 'centimetre', plural: 'centimetres', metres: 0.01 },
  { name: 'inch', plural: 'inches', metres: 0.0254 },
  { name: 'link', plural: 'links', metres: 0.201168 },
  { name: 'foot', plural: 'feet', metres: 0.3048 },
  { name: 'US survey foot', plural: 'US survey feet', metres: 12 / 39.37 },
  { name: 'yard', plural: 'yards', metres: 0.9144 },
  { name: 'metre', plural: 'metres', metres: 1 },
  { name: 'chain', plural: 'chains', metres: 20.1168 },
  { name: 'kilometre', plural: 'kilometres', metres: 1000 },
];

/** Whether two units are one; the two feet, two millionths apart, are not. @param a metres in one of them */
export const sameLength = (a: number, b: number): boolean => Math.abs(a / b - 1) < 1e-9;

const known = (metres: number): (typeof MISTAKEN_UNITS)[number] | undefined => MISTAKEN_UNITS.find((u) => sameLength(u.metres, metres));

/** The unit of a length, by its name where it has one. @param metres of one */
export const unitOfLength = (metres: number): LinearUnit => ({ name: known(metres)?.name ?? `unit of ${metres} m`, metres });

/** "feet". @param metres in one of them */
export const unitsOfLength = (metres: number): string => known(metres)?.plural ?? `units of ${metres} m`;

/** Relative difference up to which a unit explains a ratio: a scaled distance of a paper plan is no better. */
const CLOSE = 2e-3;
/** Relative difference of the two feet, two in a million. */
const FEET = 2e-6;
/** Farthest from 1 that a scale of a projection and of height comes to. */
const GRID = 5e-3;

/**
 * Which mistake about units makes lengths `ratio` times too short.
 * @param taken_m metres in the unit that the numbers were taken for
 * @param spread relative uncertainty of the ratio
 */
export function unitBehind(ratio: number, taken_m: number, spread = CLOSE): RatioCause | null {
  const taken = unitsOfLength(taken_m);
  let best: { cause: RatioCause; off: number } | null = null;
  for (const unit of MISTAKEN_UNITS) {
    const exact = unit.metres / taken_m;
    if (sameLength(exact, 1)) continue;
    const off = Math.abs(ratio / exact - 1);
    if (off > CLOSE || (best && off >= best.off)) continue;
    best = { off, cause: { ratio: exact, message: `The numbers are ${unit.plural}, not ${taken}.` } };
  }
  if (!best) return null;
  // two feet differ by two millionths, which only a sharp ratio tells
  const toFeet = Math.abs(best.cause.ratio * taken_m - 0.3048) < 1e-5;
  const fromFeet = Math.abs(taken_m - 0.3048) < 1e-5;
  if (Math.abs(best.cause.ratio - 1) < 1e-5 && spread > FEET / 2) return null;
  if (toFeet && !fromFeet && spread > FEET / 2)
    best.cause.message = `The numbers are feet, not ${taken}; international or US survey ones, which this cannot tell apart.`;
  return best.cause;
}

/**
 * What a scale of a fit between numbers in a unit and a grid smells of; null when it is 1 within its uncertainty.
 * @param gridScale scale of the projection at the place
 */
export function smellOf(scale: number, unit_m: number, spread: number, gridScale: number | null): string | null {
  const unit = unitBehind(scale, unit_m, spread);
  if (unit) return unit.message;
  const off = scale - 1;
  if (Math.abs(off) > GRID || Math.abs(off) < Math.max(2e-6, 3 * spread)) return null;
  const ppm = `${off > 0 ? '+' : '−'}${Math.abs(off * 1e6).toFixed(0)} ppm`;
  if (gridScale !== null && Math.abs(scale - gridScale) < 2e-5)
    return `The scale (${ppm}) is that of the projection here: the numbers are ground distances at sea level.`;
  return `The scale (${ppm}) smells of ground distances against grid ones${gridScale === null ? '' : ` (the projection alone has ${((gridScale - 1) * 1e6).toFixed(0)} ppm here)`}.`;
}
