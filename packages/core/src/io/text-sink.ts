import type { ByteSink } from './bytes';

const FLUSH_AT = 1 << 20;

/** Gathers text and writes it in large pieces, as UTF-8. */
export class TextSink {
  private text = '';
  private readonly encoder = new TextEncoder();

  constructor(private readonly sink: ByteSink) {}

  put(text: string): void {
    this.text += text;
  }

  get full(): boolean {
    return this.text.length >= FLUSH_AT;
  }

  async flush(): Promise<void> {
    if (this.text === '') return;
    const bytes = this.encoder.encode(this.text);
    this.text = '';
    await this.sink.write(bytes);
  }

  async close(): Promise<void> {
    await this.flush();
    await this.sink.close();
  }
}
