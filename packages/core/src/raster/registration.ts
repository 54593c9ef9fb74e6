import type { Raster } from '../model/raster';

/** Pixels by which one picture lies off another, to the right and downwards. */
export interface Shift {
  dx: number;
  dy: number;
}

/** Rounds of the search, and pixels beyond which it is lost. */
const ROUNDS = 20,
  FARTHEST = 8;

/**
 * Share of its spread by which a place has to change from pixel to pixel in every direction, so that a shift of it can be seen; and how much
 * less it may change in one direction than in another: along a straight edge nothing can be told.
 */
const LEAST_TEXTURE = 0.02,
  LEAST_RATIO = 0.02;

/**
 * The shift of `shown` against `expected`, which are of one size, to a small part of a pixel: the one under which they differ least, found
 * by steps along their gradients. Values may be brighter or of more contrast as a whole. Source: B. D. Lucas, T. Kanade, An iterative image
 * registration technique with an application to stereo vision, IJCAI 1981.
 * @returns null where there is too little texture to tell, and where the search does not end
 */
export function shiftBetween(expected: Raster, shown: Raster): Shift | null {
  const { width: w, height: h } = expected;
  if (expected.valid || shown.valid) return null;
  const a = normalised(expected),
    b = normalised(shown);
  if (!a || !b) return null;
  const margin = 3;
  let dx = 0,
    dy = 0;
  for (let round = 0; round < ROUNDS; round++) {
    let xx = 0,
      xy = 0,
      yy = 0,
      ex = 0,
      ey = 0,
      n = 0;
    for (let r = margin; r < h - margin; r++)
      for (let c = margin; c < w - margin; c++) {
        const u = c + dx,
          v = r + dy;
        if (u < 1 || v < 1 || u >= w - 2 || v >= h - 2) continue;
        const i = r * w + c;
        const gx = (a[i + 1]! - a[i - 1]!) / 2,
          gy = (a[i + w]! - a[i - w]!) / 2;
        const e = between(b, w, u, v) - a[i]!;
        xx += gx * gx;
        xy += gx * gy;
        yy += gy * gy;
        ex += gx * e;
        ey += gy * e;
        n++;
      }
    const det = xx * yy - xy * xy;
    // the eigenvalues of the sums of gradients
    const half = Math.sqrt(((xx - yy) / 2) ** 2 + xy * xy);
    const [least, most] = [(xx + yy) / 2 - half, (xx + yy) / 2 + half];
    if (n === 0 || !(Math.sqrt(Math.max(0, least / n)) >= LEAST_TEXTURE) || least < LEAST_RATIO * most) return null;
    const sx = -(yy * ex - xy * ey) / det,
      sy = -(xx * ey - xy * ex) / det;
    dx += sx;
    dy += sy;
    if (!(Math.abs(dx) < FARTHEST && Math.abs(dy) < FARTHEST)) return null;
    if (Math.hypot(sx, sy) < 5e-3) return { dx, dy };
  }
  return null;
}

/** The mean of the bands, less its own mean, in units of its spread; null where it is all one. */
function normalised({ width, height, bands, data }: Raster): Float64Array | null {
  const n = width * height;
  const values = new Float64Array(n);
  let sum = 0;
  for (let i = 0; i < n; i++) {
    let v = 0;
    for (let b = 0; b < bands; b++) v += data[i * bands + b]!;
    values[i] = v / bands;
    sum += values[i]!;
  }
  const mean = sum / n;
  let squares = 0;
  for (let i = 0; i < n; i++) squares += (values[i]! - mean) ** 2;
  const spread = Math.sqrt(squares / n);
  if (!(spread > 0)) return null;
  for (let i = 0; i < n; i++) values[i] = (values[i]! - mean) / spread;
  return values;
}

function between(values: Float64Array, width: number, u: number, v: number): number {
  const c = Math.floor(u),
    r = Math.floor(v);
  const s = u - c,
    t = v - r;
  const i = r * width + c;
  return (values[i]! * (1 - s) + values[i + 1]! * s) * (1 - t) + (values[i + width]! * (1 - s) + values[i + width + 1]! * s) * t;
}
