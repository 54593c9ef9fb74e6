import type { ByteSource } from '../../io/bytes';
import { Problem } from '../../model/problem';
import { type Colour, type ImageInfo, SAMPLE_KINDS, type SampleType } from '../../model/raster';
import { type Directory, TAG } from './structure';

/** How the pixels of one directory are kept. */
export interface Layout {
  info: ImageInfo;
  /** Bits of a sample in the file: 1, 2 and 4 become a byte, of which grey takes the whole range. */
  bits: number;
  compression: number;
  predictor: number;
  /** Each band by itself. */
  planar: boolean;
  blockWidth: number;
  blockHeight: number;
  across: number;
  down: number;
  offsets: Float64Array;
  byteCounts: Float64Array;
  /** The first pixel, and the first bit of what is packed, stands in the lowest bit of its byte. */
  lowestFirst: boolean;
  /** Small values are light: they are turned, so that zero is black. */
  whiteIsZero: boolean;
}

/** Ways of packing that are undone here; those of the engine are undone by the host. Source: TIFF 6.0 and its technical notes. */
export const PACKINGS: Record<number, { name: string; by: 'here' | 'engine' }> = {
  1: { name: 'none', by: 'here' },
  2: { name: 'CCITT RLE', by: 'engine' },
  3: { name: 'CCITT fax 3', by: 'engine' },
  4: { name: 'CCITT fax 4', by: 'engine' },
  5: { name: 'LZW', by: 'here' },
  6: { name: 'old JPEG', by: 'engine' },
  7: { name: 'JPEG', by: 'engine' },
  8: { name: 'deflate', by: 'here' },
  32773: { name: 'PackBits', by: 'here' },
  32946: { name: 'deflate', by: 'here' },
  50000: { name: 'Zstandard', by: 'here' },
  50001: { name: 'WebP', by: 'engine' },
};

/** Pixels along one side, and bytes of a block once it is unpacked, that are worked with. */
const LONGEST = 2 ** 31 - 1,
  LARGEST_BLOCK = 1 << 29;

const TYPES: Record<string, SampleType> = {
  '1/8': 'uint8',
  '1/16': 'uint16',
  '1/32': 'uint32',
  '2/8': 'int8',
  '2/16': 'int16',
  '2/32': 'int32',
  '3/32': 'float32',
  '3/64': 'float64',
};

/** What is said of a colour by its number. Source: TIFF 6.0, PhotometricInterpretation. */
const PHOTOMETRICS: Record<number, { name: string; bands: number; colour: Colour }> = {
  0: { name: 'grey, white is zero', bands: 1, colour: 'grey' },
  1: { name: 'grey', bands: 1, colour: 'grey' },
  2: { name: 'RGB', bands: 3, colour: 'rgb' },
  3: { name: 'palette', bands: 1, colour: 'palette' },
  4: { name: 'mask', bands: 1, colour: 'grey' },
  6: { name: 'YCbCr', bands: 3, colour: 'rgb' },
};

/**
 * Whether the engine has to unpack a directory's pixels: they are packed as pictures, or their colours are not stored as such.
 */
export function needsEngine(directory: Directory): boolean {
  return PACKINGS[directory.number(TAG.compression) ?? 1]?.by === 'engine' || directory.number(TAG.photometric) === 6;
}

/**
 * What a directory says of its pixels, held against itself and against the size of the file.
 * @throws Problem `tiff-damaged`; `image-unread` for what is sound and not read here
 */
export function layoutOf(directory: Directory, source: ByteSource): Layout {
  const damaged = (what: string): Problem =>
    new Problem('tiff-damaged', `${source.name} is damaged: ${what}. Ask for it again.`, { file: source.name });
  const unread = (what: string): Problem =>
    new Problem('image-unread', `${source.name} ${what}, which is not read here. Save it as a GeoTIFF of 8, 16 or 32 bits a sample.`, {
      file: source.name,
    });
  const width = directory.number(TAG.width) ?? 0,
    height = directory.number(TAG.height) ?? 0;
  const natural = (n: number): boolean => Number.isInteger(n) && n > 0 && n <= LONGEST;
  if (!natural(width) || !natural(height)) throw damaged(`it says that it is ${width} by ${height} pixels`);
  const bands = directory.number(TAG.samplesPerPixel) ?? 1;
  if (!natural(bands) || bands > 1024) throw damaged(`it says that it has ${bands} bands`);
  const allBits = directory.numbers(TAG.bitsPerSample) ?? Float64Array.of(1),
    formats = directory.numbers(TAG.sampleFormat) ?? Float64Array.of(1);
  if (allBits.some((b) => b !== allBits[0]) || formats.some((f) => f !== formats[0])) throw unread('has bands of several types');
  const bits = allBits[0]!;
  // 4 says that nobody knows: numbers without a sign then, as without the tag
  const format = formats[0] === 4 ? 1 : formats[0]!;
  const small = format === 1 && (bits === 1 || bits === 2 || bits === 4);
  const sampleType = small ? 'uint8' : TYPES[`${format}/${bits}`];
  if (!sampleType)
    throw unread(`has samples of ${bits} bits${format === 3 ? ' with a fraction' : format > 4 ? ' of complex numbers' : ''}`);
  const compression = directory.number(TAG.compression) ?? 1;
  if (!PACKINGS[compression]) throw unread(`is packed in a way (${compression})`);
  const predictor = directory.number(TAG.predictor) ?? 1;
  if (![1, 2, 3].includes(predictor)) throw unread(`has a predictor (${predictor})`);
  const photometric = directory.number(TAG.photometric) ?? (bands >= 3 ? 2 : 1);
  const known = PHOTOMETRICS[photometric];
  if (!known) throw unread(`has colours of another kind (photometric interpretation ${photometric})`);
  const extra = bands - known.bands;
  if (extra < 0) throw damaged(`it says that its colours are ${known.name} and that it has ${bands} bands`);
  const alphas = [...(directory.numbers(TAG.extraSamples) ?? [])].map((e) => e === 1 || e === 2);
  const alpha = extra > 0 && alphas.at(-1) === true;
  const colour: Colour = extra - Number(alpha) > 0 || (known.colour !== 'palette' && SAMPLE_KINDS[sampleType].real) ? 'data' : known.colour;
  const tiled = directory.numbers(TAG.tileOffsets) !== null;
  const blockWidth = tiled ? (directory.number(TAG.tileWidth) ?? 0) : width;
  const blockHeight = tiled ? (directory.number(TAG.tileHeight) ?? 0) : Math.min(height, directory.number(TAG.rowsPerStrip) ?? height);
  if (!natural(blockWidth) || !natural(blockHeight)) throw damaged(`its blocks would be ${blockWidth} by ${blockHeight} pixels`);
  const planar = directory.number(TAG.planar) === 2 && bands > 1;
  const across = Math.ceil(width / blockWidth),
    down = Math.ceil(height / blockHeight);
  const offsets = directory.numbers(tiled ? TAG.tileOffsets : TAG.stripOffsets),
    byteCounts = directory.numbers(tiled ? TAG.tileByteCounts : TAG.stripByteCounts);
  const blocks = across * down * (planar ? bands : 1);
  if (!offsets || !byteCounts) throw damaged('it does not say where its pixels are');
  if (offsets.length < blocks || byteCounts.length < blocks)
    throw damaged(`it should have ${blocks} blocks of pixels and says where ${Math.min(offsets.length, byteCounts.length)} of them are`);
  const perBlock = Math.ceil((blockWidth * (planar ? 1 : bands) * bits) / 8) * blockHeight;
  if (compression !== 1 && perBlock > LARGEST_BLOCK)
    throw unread(`is packed in blocks of ${blockWidth} by ${blockHeight} pixels (${Math.round(perBlock / 2 ** 20)} MB each)`);
  for (let k = 0; k < blocks; k++)
    if (byteCounts[k]! > 0 && !(offsets[k]! >= 0 && offsets[k]! + byteCounts[k]! <= source.size))
      throw damaged(`block ${k + 1} of ${blocks} would lie beyond its end (byte ${offsets[k]} of ${source.size})`);
  const palette = photometric === 3 ? paletteOf(directory.numbers(TAG.colorMap), 1 << bits) : null;
  if (photometric === 3 && !palette) throw damaged('its values are indexes into a palette, which is not there');
  return {
    info: { width, height, bands, sampleType, colour, alpha, nodata: nodataOf(directory, sampleType), masked: false, palette },
    bits,
    compression,
    predictor,
    planar,
    blockWidth,
    blockHeight,
    across,
    down,
    offsets,
    byteCounts,
    lowestFirst: directory.number(TAG.fillOrder) === 2,
    whiteIsZero: photometric === 0 && !SAMPLE_KINDS[sampleType].real,
  };
}

/** Colours of 16 bits, all reds before all greens, as bytes colour by colour. */
function paletteOf(map: Float64Array | null, colours: number): Uint8Array | null {
  if (!map || map.length < 3 * colours || colours > 65_536) return null;
  // some writers put bytes where sixteen bits belong
  const factor = map.some((v) => v > 255) ? 257 : 1;
  const palette = new Uint8Array(3 * colours);
  for (let k = 0; k < colours; k++) for (let c = 0; c < 3; c++) palette[3 * k + c] = Math.round(map[c * colours + k]! / factor);
  return palette;
}

/** The value for none, where the samples can have it. */
function nodataOf(directory: Directory, sampleType: SampleType): number | null {
  const text = directory.text(TAG.nodata)?.trim().replace(/,/, '.');
  if (!text) return null;
  const value = /^[-+]?nan$/i.test(text) ? NaN : Number(text);
  const { real, lowest, highest } = SAMPLE_KINDS[sampleType];
  if (Number.isNaN(value)) return real && /nan/i.test(text) ? NaN : null;
  if (!real) return Number.isInteger(value) && value >= lowest && value <= highest ? value : null;
  return sampleType === 'float32' ? Math.fround(value) : value;
}
