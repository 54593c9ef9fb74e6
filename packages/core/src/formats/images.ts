import type { ByteSource } from '../io/bytes';
import type { ImageFormat } from './format';
import { bmp } from './bmp/index';
import { drawingWithPicture } from './dxf/drawing-with-picture';
import { geotiff } from './geotiff/index';
import { groundOverlay } from './ground-overlay/index';
import { geopackageTiles } from './tiles/geopackage-tiles';
import { mbtiles } from './tiles/mbtiles';
import { jpeg2000 } from './jpeg2000/index';
import { jpeg, png } from './picture/index';

/** Every format that holds pictures. Adding one is its folder and a place here. */
export const IMAGE_FORMATS: readonly ImageFormat[] = [
  geotiff,
  jpeg,
  png,
  jpeg2000,
  bmp,
  groundOverlay,
  geopackageTiles,
  mbtiles,
  drawingWithPicture,
];

/** A format of images by its id. */
export function imageFormatById(id: string): ImageFormat | undefined {
  return IMAGE_FORMATS.find((f) => f.id === id);
}

/** The format of a picture, by its content; undefined for what is none. */
export async function recogniseImage(source: ByteSource): Promise<ImageFormat | undefined> {
  const head = await source.read(0, 4096);
  const format = IMAGE_FORMATS.find((f) => f.sniff(head, source.name));
  return !format?.images.holds || (await format.images.holds(source)) ? format : undefined;
}
