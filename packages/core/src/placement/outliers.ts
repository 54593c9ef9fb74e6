/** Widths of the middle half beyond which something is far from the rest. */
const FAR = 30;

/**
 * Between which values the middles of things that belong together lie, from the quartiles of all: a scattered layer has no outliers;
 * a stray point at 0,0 beside a town stands out.
 * @param unit the least spread that counts: things on a heap do not make their neighbours outliers
 */
export function fences(lower: number, upper: number, unit: number): [number, number] {
  const reach = FAR * Math.max(upper - lower, unit);
  return [lower - reach, upper + reach];
}
