import { turn } from './turn';

/** Where two segments cross in their insides; null where they do not. */
export function crossingOf(
  x1: number,
  y1: number,
  x2: number,
  y2: number,
  x3: number,
  y3: number,
  x4: number,
  y4: number,
): [number, number] | null {
  const [a, b] = [turn(x1, y1, x2, y2, x3, y3), turn(x1, y1, x2, y2, x4, y4)];
  if (a > 0 === b > 0 || a === 0 || b === 0) return null;
  const [c, d] = [turn(x3, y3, x4, y4, x1, y1), turn(x3, y3, x4, y4, x2, y2)];
  if (c > 0 === d > 0 || c === 0 || d === 0) return null;
  const t = c / (c - d);
  return [x1 + t * (x2 - x1), y1 + t * (y2 - y1)];
}
