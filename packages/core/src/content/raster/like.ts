import { emptyRaster, type ImageInfo, opaqueValue, type PixelWindow, type Raster, SAMPLE_KINDS } from '../../model/raster';
import { isNone } from '../../raster/none';
import type { ImageReader } from '../../raster/warp';

/** What all pictures of a deliverable are brought to: its bands, its samples, and how a pixel without a value is told. */
export type Like = Pick<ImageInfo, 'bands' | 'sampleType' | 'colour' | 'alpha' | 'nodata' | 'palette'>;

/** Whether two values for none are one; what is no number equals itself. */
export const sameNodata = (a: number | null, b: number | null): boolean => a === b || (Number.isNaN(a) && Number.isNaN(b));

/**
 * A picture as one of the wanted kind: palettes become colours and grey becomes three colours where that is wanted, an alpha band is added,
 * and pixels without a value get what says so there.
 */
export function asLike(image: ImageReader, like: Like): ImageReader {
  const own = image.info;
  const info: ImageInfo = { ...like, masked: false, width: own.width, height: own.height };
  const same =
    own.bands === like.bands &&
    own.alpha === like.alpha &&
    (own.palette === null) === (like.palette === null) &&
    sameNodata(own.nodata, like.nodata);
  if (same) return image;
  return { info, read: async (window) => converted(await image.read(window), own, like, window) };
}

function converted(raster: Raster, own: ImageInfo, like: Like, { width, height }: PixelWindow): Raster {
  const n = width * height;
  const out = emptyRaster(like.sampleType, width, height, like.bands);
  const ownColours = own.alpha ? own.bands - 1 : own.bands,
    colours = like.alpha ? like.bands - 1 : like.bands;
  const opaque = opaqueValue(like.sampleType);
  const { palette } = own;
  const expand = palette !== null && like.palette === null;
  if (!raster.valid && !expand && !own.alpha && ownColours === colours) {
    // only a band is added
    for (let b = 0; b < colours; b++)
      for (let from = b, to = b; from < n * colours; from += colours, to += like.bands) out.data[to] = raster.data[from]!;
    if (like.alpha) for (let to = colours; to < n * like.bands; to += like.bands) out.data[to] = opaque;
    return { ...out, valid: null };
  }
  for (let i = 0; i < n; i++) {
    const from = i * own.bands,
      to = i * like.bands;
    if (raster.valid && !raster.valid[i]) continue;
    out.valid![i] = 1;
    for (let b = 0; b < colours; b++)
      out.data[to + b] = expand ? palette[3 * raster.data[from]! + b]! : raster.data[from + Math.min(b, ownColours - 1)]!;
    if (like.alpha) out.data[to + colours] = own.alpha ? raster.data[from + ownColours]! : opaque;
  }
  stateEmpty(out, like);
  return out;
}

/** Gives pixels without a value what says so in the file: the value for none, nothing to be seen, or white where a file can say neither. */
export function stateEmpty(raster: Raster, like: Like): void {
  const { valid, data } = raster;
  if (!valid) return;
  const { bands, alpha, nodata, sampleType } = like;
  const { highest, real } = SAMPLE_KINDS[sampleType];
  const fill = nodata ?? (real ? NaN : highest);
  for (let i = 0; i < valid.length; i++) {
    if (valid[i]) continue;
    if (alpha) data[(i + 1) * bands - 1] = 0;
    else for (let b = 0; b < bands; b++) data[i * bands + b] = fill;
  }
}

/**
 * Pixels with a value that would be read as none, since what was worked out for them is just the value that stands for that: they get the
 * next one instead, so that they are not lost.
 * @returns how many those were
 */
export function keepApart(raster: Raster, like: Like): number {
  const { nodata, sampleType } = like;
  if (nodata === null || Number.isNaN(nodata)) return 0;
  const { data, valid } = raster;
  const { real, highest } = SAMPLE_KINDS[sampleType];
  const step = real ? Math.max(1, Math.abs(nodata)) * (sampleType === 'float32' ? 2 ** -22 : 2 ** -50) : 1;
  const next = nodata + step <= highest ? nodata + step : nodata - step;
  let n = 0;
  for (let i = 0; i < raster.width * raster.height; i++) {
    if ((valid && !valid[i]) || !isNone(like, data, i * like.bands)) continue;
    // nothing to be seen is nothing, whatever its colour
    if (like.alpha && data[(i + 1) * like.bands - 1] === 0) continue;
    data[i * like.bands] = next;
    n++;
  }
  return n;
}

/** Whether a pixel can say that there is nothing. */
export const statesNothing = ({ nodata, alpha, sampleType }: Like): boolean => nodata !== null || alpha || SAMPLE_KINDS[sampleType].real;
