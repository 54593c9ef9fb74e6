import type { FormatOption, OptionValues } from '../format-option';
import { type ImageCarries, jpegCarries } from '../image-face';
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
