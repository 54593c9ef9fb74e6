import { adjusted } from '../content/raster/adjusted';
import { clipped, keptBy } from '../content/raster/clipped';
import type { PixelWindow } from '../model/raster';
import type { ImageReader } from '../raster/warp';
import type { ImageRule } from './image-rule';

/**
 * A picture as its rule wants it: cut to its clipping line, and as bright as the others.
 * @param name what the rule calls it
 * @param size pixels of the whole picture, where the image is a smaller one of it
 * @returns `kept` tells which pixels of a window the clipping line keeps; null where there is none
 */
export function ruledImage(
  image: ImageReader,
  rule: ImageRule | undefined,
  name: string,
  size: { width: number; height: number } = image.info,
): { image: ImageReader; kept: ((window: PixelWindow) => Uint8Array) | null } {
  const line = rule?.clip?.[name],
    plus = rule?.adjust?.[name];
  const kept = line ? keptBy(line, image.info, size) : null;
  const cut = kept ? clipped(image, kept) : image;
  return { image: plus ? adjusted(cut, plus) : cut, kept };
}
