import type { ByteSink } from '../../../io/bytes';
import { encodedText } from '../../../io/text-decoding';
import { plainDecimal } from '../../../io/plain-decimal';
import type { Version } from './versions';

const FLUSH_AT = 1 << 20;
/** Characters of a number that is filled in at the end. */
const LATER_WIDTH = 24;

/** The code page of drawings that are not UTF-8. */
const WESTERN = 'windows-1252';

const western = new Map<string, boolean>();

/** Whether the code page has a character. */
function isWestern(c: string): boolean {
  let known = western.get(c);
  if (known === undefined) western.set(c, (known = c > '\u009f' && encodedText(c, WESTERN) !== null));
  return known;
}

/** What would end the line of a group, or be no letter in it. */
const CONTROL = /[\x00-\x1f\x7f]/g;

/** Source: DXF Reference, "\U+XXXX". */
const escaped = (c: string): string => `\\U+${c.charCodeAt(0).toString(16).toUpperCase().padStart(4, '0')}`;

/** Writes groups to a file as they come; only what is not full yet is held. */
export class GroupWriter {
  private text = '';
  private flushed = 0;
  private handles = 0x30;
  private readonly encoder = new TextEncoder();

  constructor(
    private readonly sink: ByteSink,
    readonly version: Version,
  ) {}

  put(code: number, value: string | number): void {
    this.text += `${code < 10 ? '  ' : code < 100 ? ' ' : ''}${code}\r\n${typeof value === 'number' ? plainDecimal(value) : value}\r\n`;
  }

  /** A text as the version writes it: as it is, or with what the code page does not have escaped. Source: DXF Reference, "\U+XXXX". */
  words(code: number, value: string): void {
    this.put(code, this.encoded(value));
  }

  encoded(value: string): string {
    const safe = value.replace(/\\U\+/g, '\\U+005CU+').replace(CONTROL, escaped);
    return this.version.utf8 ? safe : safe.replace(/[^\x20-\x7e]/g, (c) => (isWestern(c) ? c : escaped(c)));
  }

  /** Bytes that a text takes. */
  readonly bytesOf = (value: string): number => this.bytes(this.encoded(value)).length;

  private bytes(text: string): Uint8Array {
    return this.version.utf8 ? this.encoder.encode(text) : encodedText(text, WESTERN)!;
  }

  point(code: number, x: number, y: number, z: number): void {
    this.put(code, x);
    this.put(code + 10, y);
    this.put(code + 20, z);
  }

  /** A number that is known at the end; returns where it stands. */
  async later(code: number): Promise<number> {
    await this.flush();
    const at = this.flushed + `${String(code).padStart(3)}\r\n`.length;
    this.put(code, '0'.padStart(LATER_WIDTH));
    return at;
  }

  async fill(at: number, value: number): Promise<void> {
    const text = plainDecimal(value).slice(0, LATER_WIDTH).padStart(LATER_WIDTH);
    await this.sink.patch(at, this.encoder.encode(text));
  }

  /** A text of the same length as the one that stands there. */
  async fillText(at: number, value: string): Promise<void> {
    await this.sink.patch(at, this.encoder.encode(value.padStart(LATER_WIDTH)));
  }

  handle(): string {
    return (this.handles++).toString(16).toUpperCase();
  }

  /** The next free handle, larger than all given out. */
  get seed(): string {
    return this.handles.toString(16).toUpperCase();
  }

  get full(): boolean {
    return this.text.length >= FLUSH_AT;
  }

  async flush(): Promise<void> {
    if (this.text === '') return;
    const bytes = this.bytes(this.text);
    this.text = '';
    this.flushed += bytes.length;
    await this.sink.write(bytes);
  }

  async close(): Promise<void> {
    await this.flush();
    await this.sink.close();
  }
}
