/**
 * Which vertices of a run stay when those go that lie nearer than a tolerance to the line without them, heights counted. Vertices at
 * an arc always stay. Source: D. Douglas, T. Peucker, "Algorithms for the reduction of the number of points", 1973; here without recursion.
 * @returns a flag a vertex, and the largest distance of a vertex that goes from the line that stays
 */
export function simplified(
  coords: Float64Array,
  bulges: Float64Array | null,
  start: number,
  end: number,
  tolerance: number,
): { keep: Uint8Array; shift: number } {
  const n = end - start;
  const keep = new Uint8Array(n);
  let shift = 0;
  if (n <= 2) return { keep: keep.fill(1), shift };
  keep[0] = keep[n - 1] = 1;
  if (bulges) {
    for (let k = 0; k < n; k++) {
      if (bulges[start + k] !== 0) keep[k] = keep[Math.min(k + 1, n - 1)] = 1;
    }
  }
  // a ring begins and ends at one place: the vertex farthest from it is kept too
  const closed = [0, 1].every((c) => coords[3 * start + c] === coords[3 * (end - 1) + c]);
  if (closed) {
    let far = 0,
      most = -1;
    for (let k = 1; k < n - 1; k++) {
      const d = between(coords, start, start, start + k);
      if (d > most) [far, most] = [k, d];
    }
    keep[far] = 1;
  }
  const fixed = [...keep.keys()].filter((k) => keep[k] === 1);
  const open: [number, number][] = [];
  for (let k = 0; k + 1 < fixed.length; k++) open.push([fixed[k]!, fixed[k + 1]!]);
  while (open.length > 0) {
    const [a, b] = open.pop()!;
    let far = 0,
      most = -1;
    for (let k = a + 1; k < b; k++) {
      const d = between(coords, start + a, start + b, start + k);
      if (d > most) [far, most] = [k, d];
    }
    if (most > tolerance) {
      keep[far] = 1;
      open.push([a, far], [far, b]);
    } else if (most > shift) shift = most;
  }
  return { keep, shift };
}

/** Distance in space of vertex p from the piece between vertices a and b; vertices without a height lie at none. */
function between(c: Float64Array, a: number, b: number, p: number): number {
  const z = (v: number): number => c[3 * v + 2]! || 0;
  const [dx, dy, dz] = [c[3 * b]! - c[3 * a]!, c[3 * b + 1]! - c[3 * a + 1]!, z(b) - z(a)];
  const [px, py, pz] = [c[3 * p]! - c[3 * a]!, c[3 * p + 1]! - c[3 * a + 1]!, z(p) - z(a)];
  const size = dx * dx + dy * dy + dz * dz;
  const t = size === 0 ? 0 : Math.max(0, Math.min(1, (px * dx + py * dy + pz * dz) / size));
  return Math.hypot(px - t * dx, py - t * dy, pz - t * dz);
}
