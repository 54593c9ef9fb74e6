import { createReadStream, createWriteStream } from 'node:fs';
import { randomBytes } from 'node:crypto';
import { type FileHandle, mkdir, open, readdir, rm, stat } from 'node:fs/promises';
import path from 'node:path';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import type { ByteSink, ByteSource, FolderSink, FolderSource } from '@pontrel/core/io/bytes';
import { openDatabase } from './sqlite';

const CHUNK = 1 << 20;
/** Bytes of one call of the system, which counts them in 31 bits. */
const MOST_AT_ONCE = 1 << 30;

/**
 * A file on disk.
 * @param name what people call it, when it is stored under another name
 * @param siblings finds the files that belong to it; by default those beside it with the same stem
 */
export async function fileSource(
  file: string,
  name = path.basename(file),
  siblings: (extension: string) => Promise<ByteSource | null> = (e) => besideIt(file, e),
): Promise<ByteSource> {
  const { size } = await stat(file);
  return {
    name,
    size,
    path: file,
    id: file,
    stream: () => createReadStream(file, { highWaterMark: CHUNK }),
    async read(offset, length) {
      // numbers of a damaged file may lead anywhere
      if (!(offset >= 0 && offset < size && length > 0)) return new Uint8Array(0);
      const handle = await open(file, 'r');
      try {
        const bytes = new Uint8Array(Math.min(length, size - offset));
        let at = 0;
        while (at < bytes.length) {
          const { bytesRead } = await handle.read(bytes, at, Math.min(bytes.length - at, MOST_AT_ONCE), offset + at);
          if (bytesRead === 0) break;
          at += bytesRead;
        }
        return bytes.subarray(0, at);
      } finally {
        await handle.close();
      }
    },
    sibling: siblings,
    database: () => openDatabase(file, true),
  };
}

/** The file beside `file` with the same stem and the given extension, without regard to case. */
async function besideIt(file: string, extension: string): Promise<ByteSource | null> {
  const stem = path.basename(file).replace(/\.[^.]+$/, '');
  const wanted = (stem + extension).toLowerCase();
  const folder = path.dirname(file);
  const found = (await readdir(folder)).find((f) => f.toLowerCase() === wanted);
  return found ? fileSource(path.join(folder, found)) : null;
}

class FileSink implements ByteSink {
  private at = 0;
  private closed = false;
  constructor(private readonly handle: FileHandle) {}
  async write(bytes: Uint8Array): Promise<void> {
    await writeAll(this.handle, bytes, this.at);
    this.at += bytes.length;
  }
  async patch(offset: number, bytes: Uint8Array): Promise<void> {
    await writeAll(this.handle, bytes, offset);
  }
  async close(): Promise<void> {
    if (this.closed) return;
    this.closed = true;
    try {
      await this.handle.sync();
    } finally {
      await this.handle.close();
    }
  }
}

async function writeAll(handle: FileHandle, bytes: Uint8Array, offset: number): Promise<void> {
  let at = 0;
  while (at < bytes.length) at += (await handle.write(bytes, at, bytes.length - at, offset + at)).bytesWritten;
}

/** A folder to write into and to read back from. It is made when it is not there. */
export function folderAt(folder: string): FolderSink & FolderSource {
  const inside = (name: string): string => {
    if (name !== path.basename(name) || name.startsWith('.')) throw new Error(`"${name}" is not a plain file name.`);
    return path.join(folder, name);
  };
  return {
    async create(name) {
      await mkdir(folder, { recursive: true });
      return new FileSink(await open(inside(name), 'w'));
    },
    async database(name, from) {
      await mkdir(folder, { recursive: true });
      if (from) await pipeline(Readable.from(from.stream()), createWriteStream(inside(name)));
      return openDatabase(inside(name), false);
    },
    async scratch() {
      await mkdir(folder, { recursive: true });
      const file = path.join(folder, `.scratch-${randomBytes(6).toString('hex')}`);
      const sink = new FileSink(await open(file, 'w'));
      return {
        write: (bytes) => sink.write(bytes),
        patch: (offset, bytes) => sink.patch(offset, bytes),
        close: () => sink.close(),
        source: () => fileSource(file),
        remove: () => rm(file, { force: true }),
      };
    },
    open: (name) => fileSource(inside(name)),
    has: (name) =>
      stat(inside(name)).then(
        () => true,
        () => false,
      ),
  };
}
