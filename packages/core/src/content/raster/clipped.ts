import type { ClippingLine } from '../../formats/format';
import type { ImageInfo, PixelWindow } from '../../model/raster';
import { maskOver } from '../../raster/mask';
import type { ImageReader } from '../../raster/warp';

/** Which pixels of a picture a clipping line keeps. @param size pixels that the line is drawn in; the picture may be a smaller one of it */
export function keptBy(
  { ring, keeps }: ClippingLine,
  { width, height }: Pick<ImageInfo, 'width' | 'height'>,
  size: { width: number; height: number },
): (window: PixelWindow) => Uint8Array {
  const inside = maskOver({ map: [0, size.width / width, 0, 0, 0, size.height / height], width, height }, [ring]);
  return keeps === 'inside' ? inside : (window) => inside(window).map((v) => 1 - v);
}

/** A picture of which only some pixels have a value. */
export const clipped = (image: ImageReader, kept: (window: PixelWindow) => Uint8Array): ImageReader => ({
  info: { ...image.info, masked: true },
  read: async (window) => {
    const raster = await image.read(window);
    const mask = kept(window);
    return { ...raster, valid: raster.valid ? mask.map((v, i) => v & raster.valid![i]!) : mask };
  },
});
