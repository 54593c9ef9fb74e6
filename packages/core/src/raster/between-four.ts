import type { Raster } from '../model/raster';
import type { Piece } from './piece';

/**
 * Whole numbers, all with a value, in pixels of about the same size, worked out from the four around a position.
 * Where these are not equally opaque, each colour counts as much as it is seen.
 */
export function betweenWholes(out: Raster, positions: Float64Array, { window, raster }: Piece, alpha: boolean): void {
  const { bands, data, width, height } = raster;
  const done = out.valid!;
  const to = out.data;
  const n = out.width * out.height;
  const colours = alpha ? bands - 1 : bands;
  for (let i = 0; i < n; i++) {
    if (done[i]) continue;
    const u = positions[2 * i]! - window.x,
      v = positions[2 * i + 1]! - window.y;
    // NaN compares false
    if (!(u >= 0 && v >= 0 && u < width && v < height)) continue;
    done[i] = 1;
    const c = Math.floor(u - 0.5),
      r = Math.floor(v - 0.5);
    const s = u - 0.5 - c,
      t = v - 0.5 - r;
    const c0 = c < 0 ? 0 : c,
      c1 = c + 1 >= width ? width - 1 : c + 1;
    const r0 = r < 0 ? 0 : r,
      r1 = r + 1 >= height ? height - 1 : r + 1;
    const k00 = (r0 * width + c0) * bands,
      k10 = (r0 * width + c1) * bands,
      k01 = (r1 * width + c0) * bands,
      k11 = (r1 * width + c1) * bands;
    let w00 = (1 - s) * (1 - t),
      w10 = s * (1 - t),
      w01 = (1 - s) * t,
      w11 = s * t;
    const at = i * bands;
    if (alpha) {
      const a00 = data[k00 + colours]!,
        a10 = data[k10 + colours]!,
        a01 = data[k01 + colours]!,
        a11 = data[k11 + colours]!;
      const seen = w00 * a00 + w10 * a10 + w01 * a01 + w11 * a11;
      to[at + colours] = Math.round(seen);
      if (a00 !== a10 || a00 !== a01 || a00 !== a11) {
        w00 *= a00 / seen;
        w10 *= a10 / seen;
        w01 *= a01 / seen;
        w11 *= a11 / seen;
      }
    }
    // between whole numbers lies nothing beyond them
    for (let b = 0; b < colours; b++)
      to[at + b] = Math.round(w00 * data[k00 + b]! + w10 * data[k10 + b]! + w01 * data[k01 + b]! + w11 * data[k11 + b]!);
  }
}

/** Bits of the fraction of a position: with weights of so many the four bytes and their weights fit into 32 bits. */
const BITS = 11;
const ONE = 1 << BITS,
  FRACTION = ONE - 1,
  HALF = 1 << (2 * BITS - 1);

/** Pixels along a side within which positions fit as well. */
export const LONGEST_FOR_BYTES = 1 << (31 - BITS - 1);

/**
 * The case that is met most, the same for bytes: positions count to a 2048th of a pixel, which no byte can tell, and all is worked out in
 * whole numbers. Where the four are not equally opaque it is done as for other numbers.
 */
export function betweenBytes(out: Raster, positions: Float64Array, piece: Piece, alpha: boolean): void {
  const { window, raster } = piece;
  const { bands, data, width, height } = raster;
  const done = out.valid!;
  const to = out.data;
  const n = out.width * out.height;
  const [lastColumn, lastRow] = [width - 1, height - 1];
  let uneven = false;
  for (let i = 0; i < n; i++) {
    if (done[i] !== 0) continue;
    const u = positions[2 * i]! - window.x,
      v = positions[2 * i + 1]! - window.y;
    // NaN compares false
    if (!(u >= 0 && v >= 0 && u < width && v < height)) continue;
    // rounded to the nearest, from the centre of the pixel before; above -1 whatever the position
    const x = ((u + 0.5) * ONE + 0.5) | 0,
      y = ((v + 0.5) * ONE + 0.5) | 0;
    const c = (x >> BITS) - 1,
      r = (y >> BITS) - 1;
    const s = x & FRACTION,
      t = y & FRACTION;
    const top = Math.imul(r < 0 ? 0 : r, width),
      bottom = Math.imul(r < lastRow ? r + 1 : lastRow, width);
    const left = c < 0 ? 0 : c,
      right = c < lastColumn ? c + 1 : lastColumn;
    let k00 = Math.imul(top + left, bands),
      k10 = Math.imul(top + right, bands),
      k01 = Math.imul(bottom + left, bands),
      k11 = Math.imul(bottom + right, bands);
    if (alpha) {
      const own = data[k00 + bands - 1]!;
      if (own !== data[k10 + bands - 1]! || own !== data[k01 + bands - 1]! || own !== data[k11 + bands - 1]!) {
        uneven = true;
        continue;
      }
    }
    done[i] = 1;
    const s1 = ONE - s,
      t1 = ONE - t;
    let at = Math.imul(i, bands);
    for (const end = at + bands; at < end; at++, k00++, k10++, k01++, k11++)
      to[at] =
        (Math.imul(Math.imul(data[k00]!, s1) + Math.imul(data[k10]!, s), t1) +
          Math.imul(Math.imul(data[k01]!, s1) + Math.imul(data[k11]!, s), t) +
          HALF) >>>
        (2 * BITS);
  }
  if (uneven) betweenWholes(out, positions, piece, alpha);
}
