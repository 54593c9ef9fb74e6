import { type ImageInfo, type Raster, SAMPLE_KINDS, type Samples } from '../model/raster';
import { isNone } from './none';

/**
 * A picture half as wide and high: the mean of each four pixels, of those that have a value; a palette's values are taken from the first
 * of them. A row or column too many at the end stands for itself.
 */
export function halve(raster: Raster, info: Pick<ImageInfo, 'bands' | 'alpha' | 'nodata' | 'palette' | 'sampleType'>): Raster {
  const width = (raster.width + 1) >> 1,
    height = (raster.height + 1) >> 1;
  const { bands, alpha, nodata, palette, sampleType } = info;
  const { make, real } = SAMPLE_KINDS[sampleType];
  const data = make(width * height * bands);
  const colours = alpha ? bands - 1 : bands;
  const sums = new Float64Array(bands);
  const from = raster.data;
  const plain = sampleType === 'uint8' && nodata === null && palette === null;
  const rowLength = raster.width * bands;
  for (let r = 0; r < height; r++)
    for (let c = 0; c < width; c++) {
      const out = (r * width + c) * bands;
      if (plain && 2 * r + 1 < raster.height && 2 * c + 1 < raster.width) {
        const at = 2 * r * rowLength + 2 * c * bands;
        if (!alpha || fourOpaque(from, at + colours, bands, rowLength)) {
          for (let b = 0, k = at; b < bands; b++, k++)
            data[out + b] = (from[k]! + from[k + bands]! + from[k + rowLength]! + from[k + rowLength + bands]! + 2) >> 2;
          continue;
        }
      }
      sums.fill(0);
      let weight = 0,
        seen = 0;
      for (let k = 0; k < 4; k++) {
        const row = 2 * r + (k >> 1),
          column = 2 * c + (k & 1);
        if (row >= raster.height || column >= raster.width) continue;
        const at = (row * raster.width + column) * bands;
        weight++;
        if (isNone(info, from, at)) continue;
        if (palette && seen > 0) continue;
        const opaque = alpha ? from[at + colours]! : 1;
        seen += opaque;
        for (let b = 0; b < colours; b++) sums[b] = sums[b]! + opaque * from[at + b]!;
      }
      for (let b = 0; b < colours; b++) {
        const mean = seen > 0 ? sums[b]! / seen : (nodata ?? 0);
        data[out + b] = real ? mean : Math.round(mean);
      }
      if (alpha) data[out + colours] = Math.round(seen / weight);
    }
  return { width, height, bands, data, valid: null };
}

/** Whether four pixels are opaque, by where the alpha of the first one stands. */
const fourOpaque = (data: Samples, at: number, bands: number, rowLength: number): boolean =>
  (data[at]! & data[at + bands]! & data[at + rowLength]! & data[at + rowLength + bands]!) === 255;
