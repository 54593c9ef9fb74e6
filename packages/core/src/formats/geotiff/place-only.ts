import type { TargetImage } from '../image-face';
import { directoryBytes, type TagValue } from './directory-writer';
import { placeTags } from './write';
import { TAG } from './structure';

/** A TIFF of one grey pixel that says where a picture lies, as other formats hold it in a box. Source: the GeoJP2 encoding specification, 1.03. */
export function placeOnly({ grid, crs }: Pick<TargetImage, 'grid' | 'crs'>): Uint8Array {
  const one = (tag: number, value: number): TagValue => ({ tag, type: 3, values: [value] });
  const tags: TagValue[] = [
    one(TAG.width, 1),
    one(TAG.height, 1),
    one(TAG.bitsPerSample, 8),
    one(TAG.compression, 1),
    one(TAG.photometric, 1),
    { tag: TAG.stripOffsets, type: 4, values: [8] },
    one(TAG.samplesPerPixel, 1),
    one(TAG.rowsPerStrip, 1),
    one(TAG.stripByteCounts, 1),
    ...placeTags(grid, crs),
  ];
  // the pixel stands between the header and the directory
  const directory = directoryBytes([tags], 10, false);
  const bytes = new Uint8Array(10 + directory.length);
  bytes.set([0x49, 0x49, 42, 0, 10, 0, 0, 0, 0, 0]);
  bytes.set(directory, 10);
  return bytes;
}
