import type { ByteSource } from '../../io/bytes';
import { lettersOf } from '../../io/letters';
import { beginsWith } from '../begins';

/** Bytes of a box that is looked into; pixels are not. */
const MOST_BYTES = 1 << 24;

/** UUID of the box that holds a GeoTIFF without pixels. Source: the GeoJP2 encoding specification, 1.03, section 2. */
const GEO_UUID = [0xb1, 0x4b, 0xf8, 0xbd, 0x08, 0x3d, 0x4b, 0x43, 0xa5, 0xae, 0x8c, 0xd7, 0xd5, 0xa6, 0xce, 0x03];

/** First bytes of a file of boxes, and of a bare codestream. Source: ISO/IEC 15444-1, annexes I and A. */
const SIGNATURE = [0, 0, 0, 12, 0x6a, 0x50, 0x20, 0x20, 0x0d, 0x0a, 0x87, 0x0a];
/** How a codestream begins: SOC and SIZ. Source: ITU-T T.800, annex A. */
export const CODESTREAM = [0xff, 0x4f, 0xff, 0x51];

/** Whether a file begins like JPEG 2000, in boxes or as a bare codestream. */
export const isJpeg2000 = (head: Uint8Array): boolean => beginsWith(head, SIGNATURE) || beginsWith(head, CODESTREAM);

/** A box of a file: its type, and where what is in it begins and how long that is. */
interface Box {
  type: string;
  begin: number;
  length: number;
}

/** The boxes that stand between two places of a file. Source: ISO/IEC 15444-1, annex I.4. */
async function* boxesIn(source: ByteSource, from: number, end: number): AsyncGenerator<Box> {
  for (let at = from; at + 8 <= end;) {
    const head = await source.read(at, 16);
    const view = new DataView(head.buffer, head.byteOffset, head.byteLength);
    if (head.length < 8) return;
    let length = view.getUint32(0),
      own = 8;
    if (length === 1 && head.length >= 16) [length, own] = [Number(view.getBigUint64(8)), 16];
    // the last box goes on to the end
    if (length === 0) length = end - at;
    if (length < own || at + length > end) return;
    yield { type: lettersOf(head.subarray(4, 8)), begin: at + own, length: length - own };
    at += length;
  }
}

/** The GeoTIFF in a file's box for it; null where there is none. */
export async function geoBox(source: ByteSource): Promise<Uint8Array | null> {
  for await (const { type, begin, length } of boxesIn(source, 0, source.size))
    if (type === 'uuid' && length <= MOST_BYTES && beginsWith(await source.read(begin, 16), GEO_UUID))
      return source.read(begin + 16, length - 16);
  return null;
}

/** How deep associations may stand in each other. */
const DEEPEST = 8;

/** The documents that are associated with a picture, GML among them. Source: OGC 08-085r8 (GMLJP2), section 6.2; ISO/IEC 15444-2, M.11.11. */
export async function* documentBoxes(source: ByteSource, from = 0, end = source.size, depth = 0): AsyncGenerator<Uint8Array> {
  for await (const { type, begin, length } of boxesIn(source, from, end)) {
    if (length > MOST_BYTES) continue;
    if (type === 'asoc' && depth < DEEPEST) yield* documentBoxes(source, begin, begin + length, depth + 1);
    else if (type === 'xml ' && depth > 0) yield source.read(begin, length);
  }
}

function box(type: string, ...content: Uint8Array[]): Uint8Array {
  const length = 8 + content.reduce((n, c) => n + c.length, 0);
  const bytes = new Uint8Array(length);
  new DataView(bytes.buffer).setUint32(0, length);
  bytes.set(new TextEncoder().encode(type), 4);
  let at = 8;
  for (const c of content) {
    bytes.set(c, at);
    at += c.length;
  }
  return bytes;
}

/**
 * What stands before the pixels of a file: its kind, its size and colours, and the GeoTIFF that says where it lies. Source: ISO/IEC 15444-1,
 * annex I.
 * @param bands one is grey, three are red, green and blue
 * @param length bytes of the codestream that follows
 */
export function headBoxes(
  { width, height, bands, bits }: { width: number; height: number; bands: number; bits: number },
  geotiff: Uint8Array,
  length: number,
): Uint8Array[] {
  const ihdr = new Uint8Array(14);
  const view = new DataView(ihdr.buffer);
  view.setUint32(0, height);
  view.setUint32(4, width);
  view.setUint16(8, bands);
  ihdr[10] = bits - 1;
  ihdr[11] = 7;
  const colr = Uint8Array.of(1, 0, 0, 0, 0, 0, bands === 3 ? 16 : 17);
  const start = new Uint8Array(8);
  new DataView(start.buffer).setUint32(0, length + 8);
  start.set(new TextEncoder().encode('jp2c'), 4);
  return [
    Uint8Array.from(SIGNATURE),
    box('ftyp', new TextEncoder().encode('jp2 '), new Uint8Array(4), new TextEncoder().encode('jp2 ')),
    box('jp2h', box('ihdr', ihdr), box('colr', colr)),
    box('uuid', Uint8Array.from(GEO_UUID), geotiff),
    start,
  ];
}
