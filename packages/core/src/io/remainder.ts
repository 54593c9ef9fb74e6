import { Problem } from '../model/problem';

/** Bytes of one piece that waits for its end. */
const MOST_BYTES = 1 << 28;

/** What is left of the bytes that came, waiting for more. What is long is joined with them when as much again has come, not with each chunk. */
export class Remainder {
  private rest = new Uint8Array(0);
  private parts: Uint8Array[] = [];
  private more = 0;

  constructor(private readonly file: string) {}

  /** The bytes that wait and those that came; null where they should come to more first. @throws Problem `piece-too-long` */
  with(chunk: Uint8Array): Uint8Array | null {
    if (this.rest.length === 0) return chunk;
    this.parts.push(chunk.slice());
    this.more += chunk.length;
    if (this.more < this.rest.length) return null;
    const bytes = this.all();
    if (bytes.length > MOST_BYTES)
      throw new Problem(
        'piece-too-long',
        `${this.file}: one line or value is longer than ${MOST_BYTES / 1024 / 1024} MB, which is not read. The file is damaged; export it again.`,
        { file: this.file },
      );
    return bytes;
  }

  /** Keeps what could not be used yet. */
  keep(bytes: Uint8Array): void {
    this.rest = bytes.slice();
  }

  /** All that waits; nothing does afterwards. */
  all(): Uint8Array {
    const bytes = new Uint8Array(this.rest.length + this.more);
    bytes.set(this.rest);
    let at = this.rest.length;
    for (const part of this.parts) {
      bytes.set(part, at);
      at += part.length;
    }
    this.rest = new Uint8Array(0);
    this.parts = [];
    this.more = 0;
    return bytes;
  }
}
