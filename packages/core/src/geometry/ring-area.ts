/** Twice the signed area of the ring of vertices [start, end), positive when it runs counter-clockwise. */
export function ringArea2(coords: ArrayLike<number>, start: number, end: number, stride = 3): number {
  if (end - start < 3) return 0;
  // about the first vertex, so that large coordinates do not eat the digits
  const x0 = coords[start * stride]!,
    y0 = coords[start * stride + 1]!;
  let sum = 0;
  let px = 0,
    py = 0;
  for (let v = start + 1; v < end; v++) {
    const x = coords[v * stride]! - x0,
      y = coords[v * stride + 1]! - y0;
    sum += px * y - x * py;
    px = x;
    py = y;
  }
  return sum;
}
