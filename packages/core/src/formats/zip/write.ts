import { Zip, ZipDeflate, ZipPassThrough } from 'fflate';
import type { ByteSink } from '../../io/bytes';

/** The date of all files of an archive: the earliest that there is, so that the same content is the same archive. */
const NO_DATE = new Date(1980, 0, 1);

/** Writes an archive, one file after the other. */
export class ZipWriter {
  private readonly out: Uint8Array[] = [];
  private readonly zip: Zip;
  private failed: Error | null = null;

  constructor(private readonly sink: ByteSink) {
    this.zip = new Zip((error, piece) => {
      if (error) this.failed = error;
      else this.out.push(piece);
    });
  }

  /** Adds a file; pictures are packed already and only stored. */
  async add(name: string, content: AsyncIterable<Uint8Array> | Iterable<Uint8Array>, stored = false): Promise<void> {
    const file = stored ? new ZipPassThrough(name) : new ZipDeflate(name, { level: 6 });
    file.mtime = NO_DATE;
    this.zip.add(file);
    for await (const piece of content) {
      file.push(piece);
      await this.flush();
    }
    file.push(new Uint8Array(0), true);
    await this.flush();
  }

  async close(): Promise<void> {
    this.zip.end();
    await this.flush();
    await this.sink.close();
  }

  private async flush(): Promise<void> {
    if (this.failed) throw this.failed;
    for (const piece of this.out.splice(0)) await this.sink.write(piece);
  }
}
