import { type Entry, Reader, ZipReader } from '@zip.js/zip.js';
import type { ByteSource } from '../../io/bytes';
import { textDecoding } from '../../io/text-decoding';
import { messageOf, Problem } from '../../model/problem';

/** A file within an archive. */
export interface ZipEntry {
  /** As the archive calls it, with "/" between folders; never used as a path. */
  name: string;
  bytes: number;
  /** The same as the library of archives has it. */
  entry: Entry;
}

const MOST_ENTRIES = 200_000;
/** An archive that unpacks to more than this, and to so many times its size, was made to fill a disk. */
const MOST_UNPACKED = 200 * 1024 * 1024,
  MOST_RATIO = 200;

/** What the library says of an archive that is not sound, in our words; what it says otherwise stands as it is. */
const FAULTS: Record<string, string> = {
  'File format is not recognized': 'it does not end as one',
  'End of central directory not found': 'its directory is missing, so it breaks off',
  'End of Zip64 central directory locator not found': 'its 64-bit directory is missing',
  'Central directory header not found': 'its directory breaks off',
  'Local file header not found': 'it is not where the directory says',
  'Compression method not supported': 'it is packed in a way that is not read',
  'Invalid signature': 'its checksum is wrong',
  'Invalid uncompressed size': 'it holds another number of bytes than its directory says',
  'Overlapping entry found': 'it lies over another one',
  'Split zip file': 'it is one of several parts',
};

const faultOf = (error: unknown): string => FAULTS[messageOf(error)] ?? messageOf(error);

class SourceReader extends Reader<ByteSource> {
  constructor(private readonly source: ByteSource) {
    super(source);
    this.size = source.size;
  }

  override readUint8Array(index: number, length: number): Promise<Uint8Array<ArrayBuffer>> {
    return this.source.read(index, length) as Promise<Uint8Array<ArrayBuffer>>;
  }
}

/**
 * The files of an archive, by its directory. Source: ".ZIP File Format Specification" 6.3.10.
 * @throws Problem for what is no archive, or one that unpacks to far more than it holds
 */
export async function zipEntries(source: ByteSource): Promise<ZipEntry[]> {
  const entries: ZipEntry[] = [];
  try {
    const archive = new ZipReader(new SourceReader(source), { useWebWorkers: false, checkSignature: true });
    for await (const entry of archive.getEntriesGenerator()) {
      const file = { name: nameOf(entry.rawFilename, entry.filenameUTF8).replaceAll('\\', '/'), bytes: entry.uncompressedSize, entry };
      check(source, file, entries.length);
      if (!entry.directory && !file.name.endsWith('/')) entries.push(file);
    }
  } catch (error) {
    if (error instanceof Problem) throw error;
    throw new Problem('zip-broken', `${source.name} is no sound zip archive: ${faultOf(error)}. Ask for it again.`, { file: source.name });
  }
  const unpacked = entries.reduce((sum, e) => sum + e.bytes, 0);
  if (unpacked > MOST_UNPACKED && unpacked > MOST_RATIO * source.size) throw bomb(source.name, { name: 'it', bytes: unpacked });
  return entries;
}

/** @throws Problem for an archive of too many files, and for a file that is locked or made to fill a disk */
function check(source: ByteSource, file: ZipEntry, before: number): void {
  if (before >= MOST_ENTRIES)
    throw new Problem('zip-too-many', `${source.name} holds more than ${MOST_ENTRIES} files, which are not taken in.`, {
      file: source.name,
    });
  if (file.entry.encrypted)
    throw new Problem('zip-locked', `${source.name}: ${file.name} is locked with a password. Unpack it, and drop what is in it.`, {
      file: source.name,
    });
  if (file.bytes > MOST_UNPACKED && file.bytes > MOST_RATIO * file.entry.compressedSize) throw bomb(source.name, file);
}

/**
 * The name of a file in an archive. Source: the same, appendix D: code page 437 where the flag of UTF-8 is not set; names that are UTF-8
 * without it are common practice, no source.
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

/** The bytes of a file within an archive, as they are unpacked; its checksum is compared at the end. */
export async function* unpacked(source: ByteSource, { name, bytes, entry }: ZipEntry): AsyncGenerator<Uint8Array> {
  const broken = (what: string): Problem =>
    new Problem('zip-broken', `${source.name}: ${name} cannot be unpacked (${what}). Ask for the archive again.`, { file: source.name });
  const { readable, writable } = new TransformStream<Uint8Array<ArrayBuffer>, Uint8Array<ArrayBuffer>>();
  const failed = entry.getData!(writable).then(
    () => null,
    async (error: unknown) => {
      // what fails before the first byte leaves the other end waiting
      await writable.abort(error).catch(() => {});
      return error;
    },
  );
  let total = 0;
  try {
    for await (const piece of readable) {
      total += piece.length;
      if (total > bytes) throw broken('it holds more than its directory says');
      yield piece;
    }
  } catch (error) {
    if (error instanceof Problem) throw error;
    throw broken(faultOf((await failed) ?? error));
  }
  const error = await failed;
  if (error !== null) throw broken(faultOf(error));
  if (total !== bytes) throw broken(`${total} of ${bytes} bytes came`);
}

/** A file within an archive as a source of its own; it can be streamed, and read from its beginning on. */
export function entrySource(source: ByteSource, entry: ZipEntry): ByteSource {
  return {
    name: entry.name.slice(entry.name.lastIndexOf('/') + 1),
    size: entry.bytes,
    ...(source.id === undefined ? {} : { id: `${source.id}\n${entry.name}` }),
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
