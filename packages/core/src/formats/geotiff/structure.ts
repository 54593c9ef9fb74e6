import type { ByteSource } from '../../io/bytes';
import { Problem } from '../../model/problem';

/** Tags that are used here. Source: TIFF 6.0; Adobe Photoshop TIFF Technical Notes; OGC 19-008r4 (GeoTIFF 1.1), section 7. */
export const TAG = {
  subfileType: 254,
  width: 256,
  height: 257,
  bitsPerSample: 258,
  compression: 259,
  photometric: 262,
  fillOrder: 266,
  stripOffsets: 273,
  orientation: 274,
  samplesPerPixel: 277,
  rowsPerStrip: 278,
  stripByteCounts: 279,
  planar: 284,
  software: 305,
  dateTime: 306,
  predictor: 317,
  colorMap: 320,
  tileWidth: 322,
  tileHeight: 323,
  tileOffsets: 324,
  tileByteCounts: 325,
  extraSamples: 338,
  sampleFormat: 339,
  ycbcrSubsampling: 530,
  pixelScale: 33550,
  tiePoints: 33922,
  transformation: 34264,
  geoKeys: 34735,
  geoDoubles: 34736,
  geoAscii: 34737,
  /** The value for none, as text: private tag 42113 of the Library of Congress' list of TIFF tags. */
  nodata: 42113,
} as const;

/** Bytes of a value, by the number of its type (TIFF 6.0, section 2; BigTIFF adds 16 to 18). */
const SIZES: Record<number, number> = {
  1: 1,
  2: 1,
  3: 2,
  4: 4,
  5: 8,
  6: 1,
  7: 1,
  8: 2,
  9: 4,
  10: 8,
  11: 4,
  12: 8,
  13: 4,
  16: 8,
  17: 8,
  18: 8,
};

/** Directories of one file, entries of one directory, and bytes of one value: no sound file comes near. */
const MOST_DIRECTORIES = 4096,
  MOST_ENTRIES = 4096,
  MOST_BYTES = 1 << 26;

/** One directory: the values of its tags as numbers, or as text. */
export class Directory {
  private readonly values = new Map<number, Float64Array | string>();

  set(tag: number, value: Float64Array | string): void {
    this.values.set(tag, value);
  }

  numbers(tag: number): Float64Array | null {
    const value = this.values.get(tag);
    return value instanceof Float64Array ? value : null;
  }

  number(tag: number): number | null {
    return this.numbers(tag)?.[0] ?? null;
  }

  text(tag: number): string | null {
    const value = this.values.get(tag);
    return typeof value === 'string' ? value : null;
  }
}

/** The directories of a TIFF, and how its numbers are to be read. */
export interface TiffFile {
  littleEndian: boolean;
  big: boolean;
  directories: Directory[];
}

/**
 * The directories of a TIFF or BigTIFF. Everything that the file says of lengths and places is held against its size.
 * Source: TIFF 6.0, section 2; the BigTIFF design (aware systems, 2004 to 2008).
 * @throws Problem `tiff-damaged`
 */
export async function readDirectories(source: ByteSource): Promise<TiffFile> {
  const damaged = (what: string): Problem =>
    new Problem('tiff-damaged', `${source.name} is damaged: ${what}. Ask for it again.`, { file: source.name });
  const read = async (offset: number, length: number, what: string): Promise<DataView> => {
    const bytes = offset >= 0 && offset + length <= source.size ? await source.read(offset, length) : new Uint8Array(0);
    if (bytes.length < length) throw damaged(`${what} would lie beyond its end (byte ${offset} of ${source.size})`);
    return new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  };
  const head = await read(0, Math.min(16, source.size), 'its header');
  if (head.byteLength < 8) throw damaged('it ends within its header');
  const littleEndian = head.getUint16(0) === 0x4949;
  const big = head.getUint16(2, littleEndian) === 43;
  if (big && (head.byteLength < 16 || head.getUint16(4, littleEndian) !== 8)) throw damaged('its BigTIFF header is not one');
  const long = (view: DataView, at: number): number =>
    big ? Number(view.getBigUint64(at, littleEndian)) : view.getUint32(at, littleEndian);
  const [word, entrySize, countSize] = big ? [8, 20, 8] : [4, 12, 2];
  const directories: Directory[] = [];
  const seen = new Set<number>();
  let next = long(head, big ? 8 : 4);
  while (next !== 0) {
    if (seen.has(next) || seen.size >= MOST_DIRECTORIES) throw damaged('its directories lead in a circle, or are too many');
    seen.add(next);
    const where = `directory ${seen.size}`;
    const counted = await read(next, countSize, where);
    const count = big ? Number(counted.getBigUint64(0, littleEndian)) : counted.getUint16(0, littleEndian);
    if (count > MOST_ENTRIES) throw damaged(`${where} says that it has ${count} entries`);
    const view = await read(next + countSize, count * entrySize + word, where);
    const directory = new Directory();
    for (let k = 0; k < count; k++) {
      const at = k * entrySize;
      const tag = view.getUint16(at, littleEndian),
        type = view.getUint16(at + 2, littleEndian),
        n = long(view, at + 4);
      const size = SIZES[type];
      // types that are not known are passed over (TIFF 6.0, section 2)
      if (size === undefined || n === 0) continue;
      const bytes = n * size;
      const inside = at + (big ? 12 : 8);
      if (bytes <= word) {
        directory.set(tag, valueOf(view, inside, type, n, littleEndian));
        continue;
      }
      // what is not used here is not read
      if (!USED.has(tag)) continue;
      if (bytes > MOST_BYTES) throw damaged(`tag ${tag} of ${where} says that it has ${n} values`);
      const far = await read(long(view, inside), bytes, `tag ${tag} of ${where}`);
      directory.set(tag, valueOf(far, 0, type, n, littleEndian));
    }
    directories.push(directory);
    next = long(view, count * entrySize);
  }
  if (directories.length === 0) throw damaged('it has no directory');
  return { littleEndian, big, directories };
}

const USED: ReadonlySet<number> = new Set(Object.values(TAG));

function valueOf(view: DataView, at: number, type: number, n: number, littleEndian: boolean): Float64Array | string {
  if (type === 2) return new TextDecoder('latin1').decode(new Uint8Array(view.buffer, view.byteOffset + at, n)).replace(/\0[\s\S]*$/, '');
  const values = new Float64Array(n);
  for (let k = 0; k < n; k++) values[k] = READ[type]!(view, at + k * SIZES[type]!, littleEndian);
  return values;
}

const READ: Record<number, (view: DataView, at: number, littleEndian: boolean) => number> = {
  1: (v, at) => v.getUint8(at),
  3: (v, at, e) => v.getUint16(at, e),
  4: (v, at, e) => v.getUint32(at, e),
  5: (v, at, e) => v.getUint32(at, e) / v.getUint32(at + 4, e),
  6: (v, at) => v.getInt8(at),
  7: (v, at) => v.getUint8(at),
  8: (v, at, e) => v.getInt16(at, e),
  9: (v, at, e) => v.getInt32(at, e),
  10: (v, at, e) => v.getInt32(at, e) / v.getInt32(at + 4, e),
  11: (v, at, e) => v.getFloat32(at, e),
  12: (v, at, e) => v.getFloat64(at, e),
  13: (v, at, e) => v.getUint32(at, e),
  16: (v, at, e) => Number(v.getBigUint64(at, e)),
  17: (v, at, e) => Number(v.getBigInt64(at, e)),
  18: (v, at, e) => Number(v.getBigUint64(at, e)),
};
