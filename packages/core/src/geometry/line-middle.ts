/**
 * The middle of a line by its length.
 * @param stride numbers a vertex; the first two are x and y
 * @returns the place, and the side that it lies on by the number of its first vertex; null for a line without length
 */
export function lineMiddle(
  coords: ArrayLike<number>,
  start: number,
  end: number,
  stride = 3,
): { x: number; y: number; side: number } | null {
  const step = (v: number): number =>
    Math.hypot(coords[stride * (v + 1)]! - coords[stride * v]!, coords[stride * (v + 1) + 1]! - coords[stride * v + 1]!);
  let left = 0;
  for (let v = start; v + 1 < end; v++) left += step(v) / 2;
  for (let v = start; v + 1 < end; v++) {
    const d = step(v);
    if (left <= d && d > 0) {
      const [a, b] = [stride * v, stride * (v + 1)];
      return {
        x: coords[a]! + ((coords[b]! - coords[a]!) * left) / d,
        y: coords[a + 1]! + ((coords[b + 1]! - coords[a + 1]!) * left) / d,
        side: v,
      };
    }
    left -= d;
  }
  return null;
}
