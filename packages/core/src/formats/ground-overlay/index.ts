import type { FolderSink } from '../../io/bytes';
import { imageEngine } from '../../io/image-engine';
import { lettersOf } from '../../io/letters';
import { plainDecimal } from '../../io/plain-decimal';
import { escaped } from '../../io/xml';
import { corners } from '../../raster/pixel-grid';
import type { ImageFormat } from '../format';
import { createTiff } from '../geotiff/write';
import { WGS84 } from '../globe';
import type { OptionValues } from '../format-option';
import { type ImageCarries, type ImageWriter, jpegCarries, type TargetImage } from '../image-face';
import { qualityOption } from '../picture/quality';
import { ZipWriter } from '../zip/write';
import { straight, tileCarries } from '../tiles/face';
import { writePyramid } from './pyramid-write';
import { holdsOverlay, openOverlay } from './read';

/** Pixels along a side of a pyramid: an archive that every program opens holds 65 535 files, two for each tile. */
const LONGEST_PYRAMID = 39_000;

const overlayCarries = ({ picture, quality }: OptionValues): ImageCarries =>
  picture === 'jpeg'
    ? jpegCarries(Number(quality))
    : { sampleTypes: ['uint8'], bands: [1, 3], alpha: true, nodata: false, palette: false, packed: null, longest: 65_500 };

/** A picture on the ground of a globe, in an archive. Source: OGC 07-147r2 (KML 2.2), sections 11.2 and 11.3. */
export const groundOverlay: ImageFormat = {
  id: 'ground-overlay',
  name: 'KMZ ground overlay',
  brief: 'KMZ overlay',
  extensions: ['.kmz'],
  companions: [],
  sniff: (head, name) => lettersOf(head).startsWith('PK\x03\x04') && /\.kmz$/i.test(name),
  images: {
    holds: holdsOverlay,
    carries: (options) => (options.layout === 'pyramid' ? { ...tileCarries(options), longest: LONGEST_PYRAMID } : overlayCarries(options)),
    open: openOverlay,
    write: {
      prescribedCrs: WGS84,
      gridFor: straight,
      options: [
        {
          id: 'layout',
          label: 'Made as',
          kind: 'choice',
          choices: [
            { value: 'one', label: 'One picture' },
            { value: 'pyramid', label: 'Pyramid by regions' },
          ],
        },
        {
          id: 'picture',
          label: 'Picture inside',
          kind: 'choice',
          choices: [
            { value: 'png', label: 'PNG: nothing lost' },
            { value: 'jpeg', label: 'JPEG: small' },
          ],
        },
        qualityOption(({ picture }) => picture === 'jpeg'),
      ],
      files: (stem) => [`${stem}.kmz`],
      create: (folder, image) => (image.options.layout === 'pyramid' ? writePyramid(folder, image) : writeOverlay(folder, image)),
      readBack: async (folder, { stem }, findings) => openOverlay(await folder.open(`${stem}.kmz`), findings),
    },
  },
};

async function writeOverlay(folder: FolderSink, image: TargetImage): Promise<ImageWriter> {
  const { stem, options } = image;
  const kind = options.picture === 'jpeg' ? 'jpeg' : 'png';
  const pixels = await folder.scratch();
  const unpacked = await createTiff(pixels, image.info, { packing: 'none', quality: 100, overviews: false, place: null });
  return {
    rows: unpacked.rows,
    append: (rows) => unpacked.append(rows),
    async close() {
      await unpacked.close();
      const packed = await folder.scratch();
      try {
        await imageEngine().pack(pixels, { create: () => Promise.resolve(packed) }, 'picture', kind, Number(options.quality));
        const name = `files/picture.${kind === 'jpeg' ? 'jpg' : 'png'}`;
        const zip = new ZipWriter(await folder.create(`${stem}.kmz`));
        await zip.add('doc.kml', [new TextEncoder().encode(document(image, name))]);
        await zip.add(name, (await packed.source()).stream());
        await zip.close();
      } finally {
        await pixels.remove();
        await packed.remove();
      }
    },
  };
}

function document({ stem, grid }: TargetImage, picture: string): string {
  const [west, north, , , east, south] = [...corners(grid)].map((v) => plainDecimal(v));
  const sides = `<north>${north}</north><south>${south}</south><east>${east}</east><west>${west}</west>`;
  const overlay = `<name>${escaped(stem)}</name><Icon><href>${picture}</href></Icon><LatLonBox>${sides}</LatLonBox>`;
  return `<?xml version="1.0" encoding="UTF-8"?>
<kml xmlns="http://www.opengis.net/kml/2.2"><Document><name>${escaped(stem)}</name><GroundOverlay>${overlay}</GroundOverlay></Document></kml>
`;
}
