import { emptyRaster, type ImageInfo } from '../../model/raster';
import type { ImageReader } from '../../raster/warp';
import { type ImageMember, percentile } from './profile';

/** Shares of the pixels of a band that are left beyond a stretch that nobody chose. */
const CLIPPED = 0.02;

/** The values of pictures that become black and white where nobody says which: those of the format, or of nearly all pixels. */
export function usualStretch(members: readonly Pick<ImageMember, 'info' | 'bands'>[]): [number, number] {
  const { sampleType } = members[0]!.info;
  if (sampleType === 'uint8') return [0, 255];
  const bands = members.flatMap((m) => m.bands).filter((b) => b.histogram.length > 0);
  if (bands.length === 0) return [0, 1];
  return [Math.min(...bands.map((b) => percentile(b, CLIPPED))), Math.max(...bands.map((b) => percentile(b, 1 - CLIPPED)))];
}

/** Turns samples into 8 bits: what is black becomes 0, what is white 255, and what lies beyond is cut. */
export function stretched([low, high]: readonly [number, number]): (value: number) => number {
  const scale = high > low ? 255 / (high - low) : 0;
  return (value) => {
    const v = (value - low) * scale;
    return v <= 0 ? 0 : v >= 255 ? 255 : Math.round(v);
  };
}

/** The bands that are shown as red, green and blue. @param colours bands of the picture beside alpha @param chosen one or three of them */
export function pickedBands(colours: number, chosen: readonly number[] | undefined): [number, number, number] {
  const picked = chosen?.map((b) => Math.min(b, colours - 1)) ?? (colours >= 3 ? [0, 1, 2] : [0]);
  const [r = 0, g = r, b = r] = picked;
  return [r, g, b];
}

/** How a picture is shown: its stretch, and its bands where some are chosen. */
export interface ShownAs {
  stretch: readonly [number, number];
  bands: readonly number[] | undefined;
}

/** Whether a picture is shown by its own samples as they are. */
export const isPictorial = ({ sampleType, colour }: Pick<ImageInfo, 'sampleType' | 'colour'>): boolean =>
  sampleType === 'uint8' && colour !== 'data';

/** A picture as it is shown on the map: three colours of 8 bits. */
export function asShown(image: ImageReader, { stretch, bands }: ShownAs): ImageReader {
  const { info } = image;
  const colours = info.bands - Number(info.alpha);
  const picked = pickedBands(colours, bands);
  const toByte = stretched(stretch);
  return {
    info: { ...info, bands: 3, sampleType: 'uint8', colour: 'rgb', alpha: false, nodata: null, palette: null, masked: true },
    read: async (window) => {
      const own = await image.read(window);
      const out = emptyRaster('uint8', window.width, window.height, 3);
      for (let i = 0; i < window.width * window.height; i++) {
        if (own.valid && !own.valid[i]) continue;
        let none = false;
        for (let k = 0; k < 3; k++) {
          const value = own.data[i * own.bands + picked[k]!]!;
          none ||= Number.isNaN(value);
          out.data[3 * i + k] = toByte(value);
        }
        if (!none) out.valid![i] = 1;
      }
      return out;
    },
  };
}
