import type { ImageInfo, Samples } from '../model/raster';

/** Whether one value stands for none: it is the one that does, or no number at all. */
export const isNoValue = (value: number, nodata: number | null): boolean => value === nodata || Number.isNaN(value);

/** Whether the pixel whose samples begin at `at` has no value: none of its bands has one, or nothing of it can be seen. */
export function isNone({ bands, alpha, nodata }: Pick<ImageInfo, 'bands' | 'alpha' | 'nodata'>, data: Samples, at: number): boolean {
  const colours = alpha ? bands - 1 : bands;
  if (alpha && data[at + colours] === 0) return true;
  for (let b = 0; b < colours; b++) if (!isNoValue(data[at + b]!, nodata)) return false;
  return true;
}
