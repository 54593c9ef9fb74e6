import type { ImageFormat } from '../format';
import { type ImageCarries, jpegCarries } from '../image-face';
import { qualityOption } from '../picture/quality';
import { putWorldFile } from '../picture/world-file';
import { putText } from '../prj';
import { writePrj } from '../../crs/definitions/wkt1';
import { SAMPLE_TYPES } from '../../model/raster';
import { writeGeoKeys } from './geo-keys';
import { locateTiff, openTiff } from './read';
import { createTiff, type WrittenPacking } from './write';

const LONGEST = 2 ** 31 - 1;

const CARRIES: ImageCarries = { sampleTypes: SAMPLE_TYPES, alpha: true, nodata: true, palette: true, packed: null, longest: LONGEST };

/**
 * TIFF 6.0 and BigTIFF with the tags of GeoTIFF (OGC 19-008r4), or with a world file.
 */
export const geotiff: ImageFormat = {
  id: 'geotiff',
  name: 'GeoTIFF',
  extensions: ['.tif', '.tiff'],
  companions: ['.tfw', '.tifw', '.tiffw', '.wld', '.prj'],
  sniff: (head) =>
    (head[0] === 0x49 && head[1] === 0x49 && (head[2] === 42 || head[2] === 43) && head[3] === 0) ||
    (head[0] === 0x4d && head[1] === 0x4d && head[2] === 0 && (head[3] === 42 || head[3] === 43)),
  images: {
    carries: ({ packing, quality }) => (packing === 'jpeg' ? { ...jpegCarries(Number(quality)), longest: LONGEST } : CARRIES),
    locate: locateTiff,
    open: openTiff,
    write: {
      options: [
        {
          id: 'packing',
          label: 'Packing',
          kind: 'choice',
          choices: [
            { value: 'deflate', label: 'Deflate' },
            { value: 'lzw', label: 'LZW' },
            { value: 'jpeg', label: 'JPEG (values change)' },
            { value: 'none', label: 'None' },
          ],
        },
        qualityOption(({ packing }) => packing === 'jpeg'),
        {
          id: 'overviews',
          label: 'Smaller pictures inside',
          kind: 'choice',
          choices: [
            { value: 'yes', label: 'Yes, for quick display' },
            { value: 'no', label: 'No' },
          ],
        },
        {
          id: 'world',
          label: 'World file',
          kind: 'choice',
          choices: [
            { value: 'no', label: 'No: the file says where it lies' },
            { value: 'yes', label: 'Beside it as well (.tfw and .prj)' },
          ],
        },
      ],
      files: (stem, { world }) => [`${stem}.tif`, ...(world === 'yes' ? [`${stem}.tfw`, `${stem}.prj`] : [])],
      async create(folder, image) {
        const { stem, options, grid, crs } = image;
        const beside = options.world === 'yes';
        if (beside) await putWorldFile(folder, `${stem}.tfw`, grid.map);
        // what keys cannot state has to stand beside
        if (beside || !writeGeoKeys(crs, false).complete) await putText(folder, `${stem}.prj`, writePrj(crs));
        return createTiff(await folder.create(`${stem}.tif`), image.info, {
          packing: options.packing as WrittenPacking,
          quality: Number(options.quality),
          overviews: options.overviews === 'yes',
          place: image,
        });
      },
      readBack: async (folder, { stem }, findings) => openTiff(await folder.open(`${stem}.tif`), findings),
    },
  },
};
