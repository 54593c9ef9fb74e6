import type { Raster } from '../../model/raster';

/**
 * Lays a drawing over a raster of 8 bits in place. What the raster has no value for is a white sheet; afterwards all of it has a value.
 * @param drawn red, green, blue and opacity of the same pixels
 * @param alpha whether the last band of the raster says how opaque a pixel is
 */
export function layOver(raster: Raster, drawn: Uint8ClampedArray, alpha: boolean): void {
  const { data, valid, bands } = raster;
  const colours = bands - Number(alpha);
  const n = raster.width * raster.height;
  for (let i = 0; i < n; i++) {
    const at = i * bands;
    const own = valid && !valid[i] ? 0 : alpha ? data[at + colours]! / 255 : 1;
    const over = drawn[4 * i + 3]! / 255;
    for (let b = 0; b < colours; b++) {
      const below = own === 0 ? 255 : 255 + own * (data[at + b]! - 255);
      data[at + b] = Math.round(below + over * (drawn[4 * i + b]! - below));
    }
    if (alpha) data[at + colours] = 255;
    if (valid) valid[i] = 1;
  }
}
