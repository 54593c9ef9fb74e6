import { textDecoding } from '../../io/text-decoding';
import { Problem } from '../../model/problem';

const QUOTE = 34,
  BACKSLASH = 92,
  OPEN = 123,
  CLOSE = 125,
  OPEN_LIST = 91,
  CLOSE_LIST = 93,
  COMMA = 44,
  COLON = 58;
/** White space of JSON, the mark before a text of a sequence (RFC 8142), and the byte order mark. */
const BLANK = new Set([32, 9, 10, 13, 0x1e, 0xef, 0xbb, 0xbf]);
/** Bytes that one feature may have: half of the longest text that a program of this kind can hold. */
export const MOST_BYTES = 1 << 28;
/** Members of a collection besides its features. */
const MOST_MEMBERS = 1 << 22;

/** What a scan of a text tells as it goes on. */
export interface JsonEvents {
  /** One element of the list of features, as text. */
  feature(json: string): void;
  /** A whole text that is no collection of features; several come from a file of one text a line. */
  text(json: string): void;
  /** The members of a collection besides its features; called at its end. */
  members(json: string): void;
}

/**
 * Cuts a JSON file into features as its bytes come, by the depth of its braces: one text with a list of features, or one
 * text after the other. What it hands on is still to be parsed.
 *
 * Source: RFC 8259 (JSON), RFC 8142 (sequences), RFC 7946 section 3.3 (FeatureCollection).
 */
export class JsonScanner {
  private bytes = new Uint8Array(1 << 16);
  private length = 0;
  /** Where scanning goes on. */
  private at = 0;
  /** Where the value that is being collected begins; -1 between values. */
  private from = -1;
  private depth = 0;
  private inText = false;
  private escaped = false;
  /** Within the list of features. */
  private listed = false;
  private key: [number, number] | null = null;
  private textFrom = 0;
  private coming = '';
  private head = '';
  private readonly decoder = textDecoding('utf-8');
  /** Bytes that were no letters, so far. */
  get damaged(): number {
    return this.decoder.damaged;
  }

  /** Features and texts so far. */
  count = 0;

  constructor(
    private readonly file: string,
    private readonly events: JsonEvents,
  ) {}

  push(chunk: Uint8Array): void {
    this.keep(chunk);
    this.scan();
  }

  /** @throws Problem when the file ends within a value */
  end(): void {
    if (this.depth > 0 || this.inText)
      throw new Problem(
        'json-cut',
        `${this.file} breaks off ${this.listed ? `inside or after feature ${this.count + 1}` : 'before its end'}: brackets are left open. Ask for the file again.`,
        { file: this.file, record: this.count + 1 },
      );
  }

  /** Appends the bytes; those that are done with make room first. */
  private keep(chunk: Uint8Array): void {
    const first = this.from < 0 ? this.at : this.from;
    if (this.length + chunk.length > this.bytes.length) {
      const held = this.length - first;
      if (held > MOST_BYTES)
        throw new Problem(
          'json-too-large',
          `${this.file}: ${this.listed ? `feature ${this.count + 1}` : 'one value'} is longer than ${MOST_BYTES / 1024 / 1024} MB, which is not read. Split it.`,
          { file: this.file, record: this.count + 1 },
        );
      const target = held + chunk.length > this.bytes.length / 2 ? new Uint8Array(2 * (held + chunk.length)) : this.bytes;
      if (target === this.bytes) this.bytes.copyWithin(0, first, this.length);
      else target.set(this.bytes.subarray(first, this.length));
      this.bytes = target;
      this.length = held;
      this.at -= first;
      this.textFrom -= first;
      if (this.key) this.key = [this.key[0] - first, this.key[1] - first];
      if (this.from >= 0) this.from = 0;
    }
    this.bytes.set(chunk, this.length);
    this.length += chunk.length;
  }

  private slice(from: number, to: number): string {
    return this.decoder.decode(this.bytes.subarray(from, to));
  }

  private scan(): void {
    const { bytes, length } = this;
    let i = this.at;
    for (; i < length; i++) {
      const c = bytes[i]!;
      if (this.inText) {
        if (this.escaped) this.escaped = false;
        else if (c === BACKSLASH) this.escaped = true;
        else if (c === QUOTE) {
          this.inText = false;
          if (this.depth === 1) this.key = [this.textFrom, i];
        }
        continue;
      }
      if (c === QUOTE) {
        if (this.depth === 0) throw this.strange(c);
        this.inText = true;
        this.textFrom = i + 1;
      } else if (c === OPEN || c === OPEN_LIST) this.opened(c, i);
      else if (c === CLOSE || c === CLOSE_LIST) this.closed(c, i);
      else if (this.depth === 1 && !this.listed) {
        if (c === COLON && this.key) this.coming = this.slice(...this.key);
        else if (c === COMMA) this.coming = '';
      } else if (this.depth === 0 && !BLANK.has(c)) throw this.strange(c);
    }
    this.at = i;
  }

  private opened(c: number, i: number): void {
    if (this.depth === 0) {
      if (c !== OPEN) throw this.strange(c);
      this.from = i;
      this.key = null;
      this.coming = '';
    } else if (this.depth === 1 && c === OPEN_LIST && this.coming === 'features' && !this.listed) {
      // the members before it are kept, the features themselves are handed on one by one
      this.head = this.slice(this.from, this.key![0] - 1);
      this.listed = true;
      this.from = -1;
    } else if (this.depth === 2 && this.listed) this.from = i;
    this.depth++;
  }

  private closed(c: number, i: number): void {
    this.depth--;
    if (this.depth < 0) throw this.strange(c);
    if (this.listed && this.depth === 2 && this.from >= 0) {
      this.count++;
      this.events.feature(this.slice(this.from, i + 1));
      this.from = -1;
    } else if (this.listed && this.depth === 1 && c === CLOSE_LIST) {
      this.listed = false;
      this.from = i + 1;
      this.coming = '';
      // what follows belongs to the members
      this.head += '"features":[]';
    } else if (this.depth === 0) {
      const text = this.head + this.slice(this.from, i + 1);
      if (text.length > MOST_BYTES)
        throw new Problem('json-too-large', `${this.file}: one value is longer than ${MOST_BYTES / 1024 / 1024} MB, which is not read.`, {
          file: this.file,
        });
      if (this.head !== '') {
        if (text.length > MOST_MEMBERS)
          throw new Problem(
            'json-too-large',
            `${this.file}: its members besides the features are longer than ${MOST_MEMBERS / 1024 / 1024} MB.`,
            { file: this.file },
          );
        this.events.members(text);
      } else {
        this.count++;
        this.events.text(text);
      }
      this.head = '';
      this.from = -1;
    }
  }

  private strange(c: number): Problem {
    return new Problem(
      'json-broken',
      `${this.file}: "${String.fromCharCode(c)}" stands ${this.count === 0 ? 'at the beginning' : `after ${this.count} ${this.count === 1 ? 'feature' : 'features'}`}, where a JSON object in braces is expected. Check that the file has the right name.`,
      { file: this.file },
    );
  }
}
