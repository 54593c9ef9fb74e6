import type { ByteSource } from '../../io/bytes';
import type { Findings } from '../../model/finding';
import { Problem } from '../../model/problem';
import type { ImageInfo, PixelWindow, Raster } from '../../model/raster';
import type { ImageFormat } from '../format';
import type { OpenImage } from '../image-face';
import { placeBeside } from '../picture/read';
import { worldSuffixes } from '../picture/world-file';

/** A bitmap as its headers describe it. Source: the BITMAPFILEHEADER and BITMAPINFOHEADER of the published Windows API. */
interface Bitmap {
  width: number;
  height: number;
  /** Rows run downwards; upwards where it is false. */
  downwards: boolean;
  bits: number;
  begin: number;
  rowBytes: number;
  palette: Uint8Array | null;
}

/** Bits of a pixel that are read: indexes, and blue, green, red with or without a fourth byte. */
const BITS = [1, 4, 8, 24, 32];

/** Bitmaps that are not packed; where they lie stands beside them. */
export const bmp: ImageFormat = {
  id: 'bmp',
  name: 'BMP with world file',
  extensions: ['.bmp', '.dib'],
  companions: [...worldSuffixes('.bmp'), '.prj'],
  sniff: (head) => head[0] === 0x42 && head[1] === 0x4d && [6, 7, 8, 9].every((k) => head[k] === 0),
  images: {
    carries: () => ({
      sampleTypes: ['uint8'],
      bands: [1, 3],
      alpha: false,
      nodata: false,
      palette: true,
      packed: null,
      longest: 2 ** 31 - 1,
    }),
    locate: placeBeside,
    open: openBitmap,
  },
};

async function openBitmap(source: ByteSource, findings: Findings): Promise<OpenImage> {
  const bitmap = await headersOf(source);
  const { width, height, bits, palette } = bitmap;
  const where = await placeBeside(source, findings);
  const info: ImageInfo = {
    width,
    height,
    bands: palette ? 1 : 3,
    sampleType: 'uint8',
    colour: palette ? 'palette' : 'rgb',
    alpha: false,
    nodata: null,
    masked: false,
    palette,
  };
  return {
    info,
    where: { ...where, grid: where.grid && { map: where.grid.map, width, height } },
    version: `${bits} bits a pixel`,
    unpacked: false,
    read: (window) => readRows(source, bitmap, info.bands, window),
    close: () => Promise.resolve(),
  };
}

async function headersOf(source: ByteSource): Promise<Bitmap> {
  const damaged = (what: string): Problem =>
    new Problem('bmp-damaged', `${source.name} is damaged: ${what}. Ask for it again.`, { file: source.name });
  const head = await source.read(0, 54 + 4 * 256 + 128);
  if (head.length < 54) throw damaged('it ends within its header');
  const view = new DataView(head.buffer, head.byteOffset, head.byteLength);
  const [begin, size] = [view.getUint32(10, true), view.getUint32(14, true)];
  const [width, rows] = [view.getInt32(18, true), view.getInt32(22, true)];
  const [bits, packing, used] = [view.getUint16(28, true), view.getUint32(30, true), view.getUint32(46, true)];
  // 3 says in which bits the colours stand, which are the usual ones almost always
  const usual = packing === 3 && bits === 32 && view.getUint32(54, true) === 0xff0000;
  if (size < 40 || !BITS.includes(bits) || (packing !== 0 && !usual))
    throw new Problem(
      'image-unread',
      `${source.name} is a bitmap that is packed, or of ${bits} bits a pixel, which is not read here. Save it as PNG or TIFF.`,
      { file: source.name },
    );
  const height = Math.abs(rows);
  const rowBytes = 4 * Math.ceil((width * bits) / 32);
  if (!(width > 0 && height > 0) || begin + rowBytes * height > source.size)
    throw damaged(`it says that it is ${width} by ${height} pixels and has ${source.size} bytes`);
  const colours = bits > 8 ? 0 : used > 0 && used <= 1 << bits ? used : 1 << bits;
  const palette = colours > 0 ? new Uint8Array(3 << bits) : null;
  for (let k = 0; k < colours; k++) for (let c = 0; c < 3; c++) palette![3 * k + c] = head[14 + size + 4 * k + 2 - c] ?? 0;
  return { width, height, downwards: rows < 0, bits, begin, rowBytes, palette };
}

async function readRows(source: ByteSource, bitmap: Bitmap, bands: number, { x, y, width, height }: PixelWindow): Promise<Raster> {
  const { bits, begin, rowBytes, downwards } = bitmap;
  const data = new Uint8Array(width * height * bands);
  const first = downwards ? y : bitmap.height - y - height;
  const bytes = await source.read(begin + first * rowBytes, rowBytes * height);
  for (let r = 0; r < height; r++) {
    const row = (downwards ? r : height - 1 - r) * rowBytes;
    for (let c = 0; c < width; c++) {
      const to = (r * width + c) * bands;
      if (bands === 1) {
        const bit = (x + c) * bits;
        data[to] = (bytes[row + (bit >> 3)]! >> (8 - bits - (bit & 7))) & ((1 << bits) - 1);
      } else for (let b = 0; b < 3; b++) data[to + b] = bytes[row + ((x + c) * bits) / 8 + 2 - b]!;
    }
  }
  return { width, height, bands, data, valid: null };
}
