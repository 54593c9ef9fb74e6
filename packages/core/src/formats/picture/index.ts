import { writePrj } from '../../crs/definitions/wkt1';
import type { FolderSink, Scratch } from '../../io/bytes';
import { imageEngine, type PictureKind } from '../../io/image-engine';
import { beginsWith } from '../begins';
import type { ImageFormat } from '../format';
import type { FormatOption, OptionValues } from '../format-option';
import { createTiff } from '../geotiff/write';
import { type ImageCarries, type ImageWriter, jpegCarries, type TargetImage } from '../image-face';
import { putText } from '../prj';
import { openPicture, placeBeside } from './read';
import { qualityOption } from './quality';
import { putWorldFile, worldSuffixes } from './world-file';

interface Kind {
  id: PictureKind;
  name: string;
  brief: string;
  extensions: readonly string[];
  sniff: ImageFormat['sniff'];
  carries: (options: OptionValues) => ImageCarries;
  options: readonly FormatOption[];
}

/** A picture whose place stands beside it: in a world file, and its system in a .prj. */
function picture({ id, name, brief, extensions, sniff, carries, options }: Kind): ImageFormat {
  const [extension] = extensions as [string];
  const [world] = worldSuffixes(extension) as [string];
  return {
    id,
    name,
    brief,
    extensions,
    companions: [...new Set([...extensions.flatMap(worldSuffixes), '.prj'])],
    sniff,
    images: {
      carries,
      locate: placeBeside,
      open: openPicture,
      write: {
        options,
        files: (stem) => [stem + extension, stem + world, `${stem}.prj`],
        create: (folder, image) => writePicture(folder, image, id, extension, world),
        readBack: async (folder, { stem }, findings) => openPicture(await folder.open(stem + extension), findings),
      },
    },
  };
}

/** The engine packs whole files, so the pixels go into an unpacked one first. */
async function writePicture(
  folder: FolderSink,
  image: TargetImage,
  kind: PictureKind,
  extension: string,
  world: string,
): Promise<ImageWriter> {
  const { stem, grid, crs, options } = image;
  await putWorldFile(folder, stem + world, grid.map);
  await putText(folder, `${stem}.prj`, writePrj(crs));
  const scratch: Scratch = await folder.scratch();
  const unpacked = await createTiff(scratch, image.info, { packing: 'none', quality: 100, overviews: false, place: null });
  return {
    rows: unpacked.rows,
    append: (rows) => unpacked.append(rows),
    async close() {
      await unpacked.close();
      try {
        await imageEngine().pack(scratch, folder, stem + extension, kind, Number(options.quality ?? 100));
      } finally {
        await scratch.remove();
      }
    },
  };
}

const begins =
  (...bytes: number[]): ImageFormat['sniff'] =>
  (head) =>
    beginsWith(head, bytes);

/** ITU-T T.81; written as its baseline process, never progressive. */
export const jpeg: ImageFormat = picture({
  id: 'jpeg',
  name: 'JPEG with world file',
  brief: 'JPEG',
  extensions: ['.jpg', '.jpeg'],
  sniff: begins(0xff, 0xd8, 0xff),
  carries: ({ quality }) => jpegCarries(Number(quality)),
  options: [qualityOption()],
});

/** W3C Portable Network Graphics (third edition). */
export const png: ImageFormat = picture({
  id: 'png',
  name: 'PNG with world file',
  brief: 'PNG',
  extensions: ['.png'],
  sniff: begins(0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a),
  carries: () => ({
    sampleTypes: ['uint8', 'uint16'],
    bands: [1, 3],
    alpha: true,
    nodata: false,
    palette: false,
    packed: null,
    longest: 2 ** 31 - 1,
  }),
  options: [],
});
