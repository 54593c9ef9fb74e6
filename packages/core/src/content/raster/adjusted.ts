import { SAMPLE_KINDS } from '../../model/raster';
import type { ImageReader } from '../../raster/warp';
import { keepApart } from './like';

/**
 * A picture with something added to the values of its bands. Values stay within what samples hold, and none comes to stand for none.
 * @param plus one number a band; bands beyond them stay as they are, and so does how opaque a pixel is
 */
export function adjusted(image: ImageReader, plus: readonly number[]): ImageReader {
  const { info } = image;
  const { lowest, highest, real } = SAMPLE_KINDS[info.sampleType];
  const colours = info.bands - Number(info.alpha);
  return {
    info,
    read: async (window) => {
      const raster = await image.read(window);
      const { data, valid, bands } = raster;
      for (let i = 0; i < window.width * window.height; i++) {
        if (valid && !valid[i]) continue;
        for (let b = 0; b < colours && b < plus.length; b++) {
          const value = data[i * bands + b]! + plus[b]!;
          data[i * bands + b] = Math.min(highest, Math.max(lowest, real ? value : Math.round(value)));
        }
      }
      keepApart(raster, info);
      return raster;
    },
  };
}
