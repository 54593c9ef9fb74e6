/**
 * How far each pixel lies from the nearest one without a value, pixel centre to pixel centre; what lies beyond the raster counts as having
 * one. Source: P. Felzenszwalb, D. Huttenlocher, Distance Transforms of Sampled Functions, Theory of Computing 8 (2012), section 2.
 *
 * @param valid 1 where a pixel has a value
 * @returns pixels; 0 where there is no value, Infinity where all have one
 */
export function edgeDistance(valid: Uint8Array, width: number, height: number): Float64Array {
  const out = Float64Array.from(valid, (v) => (v ? Infinity : 0));
  const longest = Math.max(width, height);
  const line = new Float64Array(longest);
  const envelope = { at: new Int32Array(longest), from: new Float64Array(longest + 1) };
  for (let c = 0; c < width; c++) lowest(out, c, width, height, line, envelope);
  for (let r = 0; r < height; r++) lowest(out, r * width, 1, width, line, envelope);
  return out.map(Math.sqrt);
}

/** Replaces the squares along a line by the least of (distance)² + square over all of it. */
function lowest(
  squares: Float64Array,
  first: number,
  step: number,
  n: number,
  line: Float64Array,
  { at, from }: { at: Int32Array; from: Float64Array },
): void {
  let k = -1;
  for (let q = 0; q < n; q++) {
    const f = squares[first + q * step]!;
    line[q] = f;
    if (f === Infinity) continue;
    let s = -Infinity;
    while (k >= 0) {
      const p = at[k]!;
      s = (f + q * q - line[p]! - p * p) / (2 * (q - p));
      if (s > from[k]!) break;
      k--;
    }
    k++;
    at[k] = q;
    from[k] = k === 0 ? -Infinity : s;
  }
  if (k < 0) return;
  const last = k;
  k = 0;
  for (let q = 0; q < n; q++) {
    while (k < last && from[k + 1]! < q) k++;
    const d = q - at[k]!;
    squares[first + q * step] = d * d + line[at[k]!]!;
  }
}
