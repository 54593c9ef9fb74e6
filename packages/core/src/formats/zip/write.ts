import { Uint8ArrayReader, ZipWriter as Archive } from '@zip.js/zip.js';
import type { ByteSink } from '../../io/bytes';

/** The date of all files of an archive: the earliest that there is, so that the same content is the same archive. */
const NO_DATE = new Date(1980, 0, 1);

/** Writes an archive, one file after the other. */
export class ZipWriter {
  private readonly archive: Archive<unknown>;

  constructor(private readonly sink: ByteSink) {
    const writable = new WritableStream<Uint8Array>({ write: (piece) => sink.write(piece) });
    // 32-bit sizes: a program that shows the file may not know others
    this.archive = new Archive(writable, { lastModDate: NO_DATE, extendedTimestamp: false, level: 6, zip64: false });
  }

  /** Adds a file that is packed as it comes. */
  async add(name: string, content: AsyncIterable<Uint8Array> | Iterable<Uint8Array>): Promise<void> {
    await this.archive.add(name, streamOf(content), { useWebWorkers: false });
  }

  /** Adds a file as it is, its size before its bytes: pictures, which are packed already, and what other programs look for at the beginning. */
  async store(name: string, bytes: Uint8Array): Promise<void> {
    await this.archive.add(name, new Uint8ArrayReader(bytes as Uint8Array<ArrayBuffer>), {
      level: 0,
      dataDescriptor: false,
      useWebWorkers: false,
    });
  }

  async close(): Promise<void> {
    await this.archive.close();
    await this.sink.close();
  }
}

function streamOf(content: AsyncIterable<Uint8Array> | Iterable<Uint8Array>): ReadableStream<Uint8Array> {
  const pieces = Symbol.asyncIterator in content ? content[Symbol.asyncIterator]() : content[Symbol.iterator]();
  return new ReadableStream({
    async pull(controller) {
      const next = await pieces.next();
      if (next.done) controller.close();
      else controller.enqueue(next.value);
    },
  });
}
