import { writePrj } from '../../crs/definitions/wkt1';
import type { ByteSource, FolderSink } from '../../io/bytes';
import { imageEngine } from '../../io/image-engine';
import { memorySource } from '../../io/memory-source';
import { Problem } from '../../model/problem';
import { emptyRaster, SAMPLE_KINDS } from '../../model/raster';
import { put } from '../../raster/warp';
import type { ImageFormat } from '../format';
import { placeOnly } from '../geotiff/place-only';
import { georeference } from '../geotiff/read';
import { Directory, readDirectories } from '../geotiff/structure';
import type { Findings } from '../../model/finding';
import type { Georeference, ImageWriter, OpenImage, TargetImage } from '../image-face';
import { openUnpacked } from '../picture/read';
import { putWorldFile } from '../picture/world-file';
import { putText } from '../prj';
import { geoBox, headBoxes, isJpeg2000 } from './boxes';
import { gmlPlace } from './gml-place';

/** Samples of a picture that is packed as a whole. */
const MOST_SAMPLES = 2 ** 28;

/** ISO/IEC 15444-1 (JPEG 2000, part 1), with the box of a GeoTIFF (GeoJP2), GML (GMLJP2, which is read only) or a world file. */
export const jpeg2000: ImageFormat = {
  id: 'jpeg2000',
  name: 'JPEG 2000',
  extensions: ['.jp2', '.j2k', '.jpf'],
  companions: ['.j2w', '.jp2w', '.wld', '.prj'],
  sniff: isJpeg2000,
  images: {
    // samples of 16 bits lose more in the same room
    carries: ({ packing, ratio }) => ({
      sampleTypes: packing === 'smaller' ? ['uint8'] : ['uint8', 'uint16'],
      bands: [1, 3],
      alpha: false,
      nodata: false,
      palette: false,
      packed: packing === 'smaller' ? 2 + Number(ratio) / 2 : null,
      longest: 2 ** 31 - 1,
    }),
    locate,
    open: (source, findings) => openUnpacked(source, findings, () => locate(source, findings)),
    write: {
      options: [
        {
          id: 'packing',
          label: 'Packing',
          kind: 'choice',
          choices: [
            { value: 'lossless', label: 'Without loss' },
            { value: 'smaller', label: 'Smaller (values change)' },
          ],
        },
        {
          id: 'ratio',
          label: 'Times smaller',
          kind: 'number',
          initial: 10,
          least: 2,
          most: 200,
          when: ({ packing }) => packing === 'smaller',
        },
      ],
      files: (stem) => [`${stem}.jp2`, `${stem}.j2w`, `${stem}.prj`],
      create: writeJpeg2000,
      readBack: async (folder, { stem }, findings): Promise<OpenImage> => jpeg2000.images.open(await folder.open(`${stem}.jp2`), findings),
    },
  },
};

async function locate(source: ByteSource, findings: Findings): Promise<Georeference> {
  const inside = await geoBox(source);
  const gml = inside ? null : await gmlPlace(source, findings);
  if (gml) return gml;
  const [file, directory] = inside ? await placeIn(inside, source) : [source, new Directory()];
  return georeference(file, directory, findings);
}

/** The GeoTIFF of a box; the files beside the picture are beside it as well. */
async function placeIn(bytes: Uint8Array, source: ByteSource): Promise<[ByteSource, Directory]> {
  const inside = { ...memorySource(source.name, bytes), sibling: (extension: string) => source.sibling(extension) };
  const { directories } = await readDirectories(inside);
  return [inside, directories[0]!];
}

/** The engine packs a picture as a whole, so its pixels wait until all are there. */
async function writeJpeg2000(folder: FolderSink, image: TargetImage): Promise<ImageWriter> {
  const { info, stem, grid, crs, options } = image;
  if (info.width * info.height * info.bands > MOST_SAMPLES)
    throw new Problem(
      'image-too-large',
      [
        `${stem}.jp2 would be ${info.width} by ${info.height} pixels: JPEG 2000 is packed as a whole, and that is too many.`,
        'Choose larger pixels, a smaller area or GeoTIFF.',
      ].join(' '),
    );
  await putWorldFile(folder, `${stem}.j2w`, grid.map);
  await putText(folder, `${stem}.prj`, writePrj(crs));
  const whole = emptyRaster(info.sampleType, info.width, info.height, info.bands);
  const all = { x: 0, y: 0, width: info.width, height: info.height };
  let y = 0;
  return {
    rows: 512,
    append(rows) {
      put(whole, all, rows, { x: 0, y, width: info.width, height: rows.height });
      y += rows.height;
      return Promise.resolve();
    },
    async close() {
      const ratio = options.packing === 'smaller' ? Number(options.ratio) : null;
      const packed = await imageEngine().jpeg2000(whole, ratio);
      const sink = await folder.create(`${stem}.jp2`);
      const shape = { ...info, bits: 8 * SAMPLE_KINDS[info.sampleType].bytes };
      for (const piece of [...headBoxes(shape, placeOnly(image), packed.length), packed]) await sink.write(piece);
      await sink.close();
    },
  };
}
