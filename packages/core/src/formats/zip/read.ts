import { Inflate } from 'fflate';
import type { ByteSource } from '../../io/bytes';
import { textDecoding } from '../../io/text-decoding';
import { Problem } from '../../model/problem';

/** A file within an archive. */
export interface ZipEntry {
  /** As the archive calls it, with "/" between folders; never used as a path. */
  name: string;
  bytes: number;
  packed: number;
  method: number;
  offset: number;
}

const STORED = 0,
  DEFLATED = 8;
const END = 0x06054b50,
  END64 = 0x06064b50,
  LOCATOR64 = 0x07064b50,
  CENTRAL = 0x02014b50,
  LOCAL = 0x04034b50;
/** The end of the directory and the longest comment behind it. */
const TAIL = 22 + 65535 + 20;
const MOST_ENTRIES = 200_000;
/** An archive that unpacks to more than this, and to so many times its size, was made to fill a disk. */
const MOST_UNPACKED = 200 * 1024 * 1024,
  MOST_RATIO = 200;

/**
 * The files of an archive, by its directory. Source: ".ZIP File Format Specification" 6.3.10, sections 4.3.7, 4.3.12, 4.3.14 to 4.3.16.
 * @throws Problem for what is no archive, or one that unpacks to far more than it holds
 */
export async function zipEntries(source: ByteSource): Promise<ZipEntry[]> {
  const broken = (what: string): Problem =>
    new Problem('zip-broken', `${source.name} is no sound zip archive: ${what}. Ask for it again.`, { file: source.name });
  const tailAt = Math.max(0, source.size - TAIL);
  const tail = viewOf(await source.read(tailAt, TAIL));
  let end = tail.byteLength - 22;
  while (end >= 0 && tail.getUint32(end, true) !== END) end--;
  if (end < 0) throw broken('its directory is missing, so it breaks off');
  let count = tail.getUint16(end + 10, true),
    size = tail.getUint32(end + 12, true),
    offset = tail.getUint32(end + 16, true);
  if (end >= 20 && tail.getUint32(end - 20, true) === LOCATOR64) {
    const record = viewOf(await source.read(Number(tail.getBigUint64(end - 12, true)), 56));
    if (record.byteLength < 56 || record.getUint32(0, true) !== END64) throw broken('its 64-bit directory is missing');
    [count, size, offset] = [
      Number(record.getBigUint64(32, true)),
      Number(record.getBigUint64(40, true)),
      Number(record.getBigUint64(48, true)),
    ];
  }
  if (count > MOST_ENTRIES)
    throw new Problem('zip-too-many', `${source.name} holds ${count} files; more than ${MOST_ENTRIES} are not taken in.`, {
      file: source.name,
    });
  if (offset + size > source.size) throw broken('its directory points beyond its end');
  const directory = viewOf(await source.read(offset, size));
  const entries: ZipEntry[] = [];
  for (let at = 0, n = 0; n < count; n++) {
    if (at + 46 > directory.byteLength || directory.getUint32(at, true) !== CENTRAL)
      throw broken(`its directory breaks off at file ${n + 1}`);
    const flags = directory.getUint16(at + 8, true);
    const [nameLength, extraLength, commentLength] = [28, 30, 32].map((k) => directory.getUint16(at + k, true)) as [number, number, number];
    const nameBytes = bytesOf(directory, at + 46, nameLength);
    const entry: ZipEntry = {
      name: nameOf(nameBytes, (flags & 0x800) !== 0).replaceAll('\\', '/'),
      method: directory.getUint16(at + 10, true),
      packed: directory.getUint32(at + 20, true),
      bytes: directory.getUint32(at + 24, true),
      offset: directory.getUint32(at + 42, true),
    };
    large(directory, at + 46 + nameLength, extraLength, entry);
    if (flags & 1)
      throw new Problem('zip-locked', `${source.name}: ${entry.name} is locked with a password. Unpack it, and drop what is in it.`, {
        file: source.name,
      });
    if (entry.bytes > MOST_UNPACKED && entry.bytes > MOST_RATIO * entry.packed) throw bomb(source.name, entry);
    if (!entry.name.endsWith('/')) entries.push(entry);
    at += 46 + nameLength + extraLength + commentLength;
  }
  const unpacked = entries.reduce((sum, e) => sum + e.bytes, 0);
  if (unpacked > MOST_UNPACKED && unpacked > MOST_RATIO * source.size) throw bomb(source.name, { name: 'it', bytes: unpacked });
  return entries;
}

/**
 * The name of a file in an archive. Source: APPNOTE.TXT (ZIP File Format Specification) 6.3, appendix D: code page 437 where the flag of
 * UTF-8 is not set; names that are UTF-8 without it are common practice, no source.
 */
function nameOf(bytes: Uint8Array, utf8: boolean): string {
  try {
    return new TextDecoder('utf-8', { fatal: !utf8 }).decode(bytes);
  } catch {
    return textDecoding('cp437').decode(bytes);
  }
}

function bomb(file: string, { name, bytes }: Pick<ZipEntry, 'name' | 'bytes'>): Problem {
  return new Problem(
    'zip-bomb',
    `${file}: ${name} would unpack to ${Math.round(bytes / 1024 / 1024)} MB, more than ${MOST_RATIO} times what it takes in the archive. No drawing or map is so uniform: it is not unpacked.`,
    { file },
  );
}

/** Sizes that have no room in 32 bits stand in an extra field. Source: section 4.5.3. */
function large(view: DataView, at: number, length: number, entry: ZipEntry): void {
  for (let k = at; k + 4 <= at + length;) {
    const size = view.getUint16(k + 2, true);
    if (view.getUint16(k, true) === 1) {
      let p = k + 4;
      const next = (): number => {
        const v = Number(view.getBigUint64(p, true));
        p += 8;
        return v;
      };
      if (entry.bytes === 0xffffffff) entry.bytes = next();
      if (entry.packed === 0xffffffff) entry.packed = next();
      if (entry.offset === 0xffffffff) entry.offset = next();
    }
    k += 4 + size;
  }
}

const PIECE = 1 << 18;

/** The bytes of a file within an archive, as they are unpacked. */
export async function* unpacked(source: ByteSource, entry: ZipEntry): AsyncGenerator<Uint8Array> {
  const broken = (what: string): Problem =>
    new Problem('zip-broken', `${source.name}: ${entry.name} cannot be unpacked (${what}). Ask for the archive again.`, {
      file: source.name,
    });
  const head = viewOf(await source.read(entry.offset, 30));
  if (head.byteLength < 30 || head.getUint32(0, true) !== LOCAL) throw broken('it is not where the directory says');
  if (entry.method !== STORED && entry.method !== DEFLATED) throw broken(`its way of packing, number ${entry.method}, is not read`);
  let at = entry.offset + 30 + head.getUint16(26, true) + head.getUint16(28, true);
  const end = at + entry.packed;
  let total = 0;
  const out: Uint8Array[] = [];
  const inflate = new Inflate((piece) => {
    total += piece.length;
    out.push(piece);
  });
  while (at < end) {
    const piece = await source.read(at, Math.min(PIECE, end - at));
    if (piece.length === 0) throw broken('it breaks off');
    at += piece.length;
    if (entry.method === STORED) {
      total += piece.length;
      yield piece;
      continue;
    }
    try {
      inflate.push(piece, at >= end);
    } catch (error) {
      throw broken(error instanceof Error ? error.message : String(error));
    }
    if (total > entry.bytes) throw broken('it holds more than its directory says');
    yield* out.splice(0);
  }
  if (total !== entry.bytes) throw broken(`${total} of ${entry.bytes} bytes came`);
}

const viewOf = (bytes: Uint8Array): DataView => new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
const bytesOf = (view: DataView, at: number, length: number): Uint8Array =>
  new Uint8Array(view.buffer, view.byteOffset + at, Math.min(length, view.byteLength - at));

/** A file within an archive as a source of its own; it can be streamed, and read from its beginning on. */
export function entrySource(source: ByteSource, entry: ZipEntry): ByteSource {
  return {
    name: entry.name.slice(entry.name.lastIndexOf('/') + 1),
    size: entry.bytes,
    stream: () => unpacked(source, entry),
    async read(offset, length) {
      const bytes = new Uint8Array(Math.max(0, Math.min(length, entry.bytes - offset)));
      let at = 0;
      for await (const piece of unpacked(source, entry)) {
        const from = Math.max(offset, at),
          to = Math.min(offset + bytes.length, at + piece.length);
        if (to > from) bytes.set(piece.subarray(from - at, to - at), from - offset);
        at += piece.length;
        if (at >= offset + bytes.length) break;
      }
      return bytes;
    },
    sibling: () => Promise.resolve(null),
  };
}
