/** The smallest of 1, 2 and 5 times a power of ten that is not under `least`. */
export function niceStep(least: number): number {
  const power = 10 ** Math.floor(Math.log10(least));
  const times = [1, 2, 5, 10].find((k) => k * power >= least * (1 - 1e-9))!;
  return times * power;
}
