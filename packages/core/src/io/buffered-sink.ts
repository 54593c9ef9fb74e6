import type { ByteSink } from './bytes';

const FLUSH_AT = 1 << 20;

/** Gathers small writes into large ones. `view` and `bytes` are valid from `at` for as many bytes as were reserved. */
export class BufferedSink {
  bytes = new Uint8Array(FLUSH_AT + 65536);
  view = new DataView(this.bytes.buffer);
  at = 0;
  /** Bytes handed on before those in the buffer. */
  private flushed = 0;

  constructor(private readonly sink: ByteSink) {}

  get length(): number {
    return this.flushed + this.at;
  }

  /** Makes room for `n` more bytes. */
  reserve(n: number): void {
    if (this.at + n <= this.bytes.length) return;
    const bigger = new Uint8Array(Math.max(this.bytes.length * 2, this.at + n));
    bigger.set(this.bytes.subarray(0, this.at));
    this.bytes = bigger;
    this.view = new DataView(bigger.buffer);
  }

  get full(): boolean {
    return this.at >= FLUSH_AT;
  }

  async flush(): Promise<void> {
    if (this.at === 0) return;
    await this.sink.write(this.bytes.subarray(0, this.at));
    this.flushed += this.at;
    this.at = 0;
  }

  async close(header?: Uint8Array): Promise<void> {
    await this.flush();
    if (header) await this.sink.patch(0, header);
    await this.sink.close();
  }
}
