import type { FormatOption, OptionValues } from '../format-option';
import { type ImageCarries, type ImageFace, jpegCarries, type OpenImage } from '../image-face';
import type { ByteSource } from '../../io/bytes';
import type { Findings } from '../../model/finding';
import { qualityOption } from '../picture/quality';
import { isNorthUp, extentOfGrid, gridOver, type PixelGrid, pixelSize } from '../../raster/pixel-grid';

/** What tiles hold: red, green, blue and alpha, always. */
export const tileCarries = ({ picture, quality }: OptionValues): ImageCarries => ({
  sampleTypes: ['uint8'],
  bands: [3],
  alpha: true,
  nodata: false,
  palette: false,
  opaque: true,
  packed: picture === 'jpeg' ? jpegCarries(Number(quality)).packed : null,
  longest: 2 ** 31 - 1,
});

/** What a container of tiles has in common with others, by how it is opened. */
export const tileFace = (open: (source: ByteSource, findings: Findings) => OpenImage): Pick<ImageFace, 'carries' | 'locate' | 'open'> => ({
  carries: tileCarries,
  locate: async (source, findings) => {
    const image = open(source, findings);
    await image.close();
    return image.where;
  },
  open: async (source, findings) => open(source, findings),
});

/** What may be chosen of tiles in a database. */
export const TILE_OPTIONS: readonly FormatOption[] = [
  {
    id: 'picture',
    label: 'Tiles',
    kind: 'choice',
    choices: [
      { value: 'png', label: 'PNG: nothing lost' },
      { value: 'jpeg', label: 'JPEG, and PNG where they are clear' },
    ],
  },
  qualityOption(({ picture }) => picture === 'jpeg'),
];

/** Rows of tiles run to the east: a turned grid becomes the one that covers it. */
export const straight = (grid: PixelGrid): PixelGrid => (isNorthUp(grid) ? grid : gridOver(extentOfGrid(grid), pixelSize(grid)));
