import type { ImageInfo, Samples } from '../model/raster';

/** Whether the pixel whose samples begin at `at` has no value: all its bands have the value for none, or nothing of it can be seen. */
export function isNone({ bands, alpha, nodata }: Pick<ImageInfo, 'bands' | 'alpha' | 'nodata'>, data: Samples, at: number): boolean {
  const colours = alpha ? bands - 1 : bands;
  if (alpha && data[at + colours] === 0) return true;
  if (nodata === null) return false;
  for (let b = 0; b < colours; b++) {
    const value = data[at + b]!;
    if (value !== nodata && !(Number.isNaN(nodata) && Number.isNaN(value))) return false;
  }
  return true;
}
