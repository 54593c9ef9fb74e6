import { Remainder } from '../../io/remainder';
import { type CountedDecoding, textDecoding } from '../../io/text-decoding';
import { Problem } from '../../model/problem';
import { parseReal } from './number';
import { groupText } from './text';

/**
 * What follows a group code. Source: DXF Reference, "Group code value types".
 * 0 text, 1 real, 2 integer, 3 not wanted.
 */
const TEXT_VALUE = 0;
const REAL_VALUE = 1;
const INTEGER_VALUE = 2;
const UNWANTED = 3;

const RANGES: readonly [number, number, number][] = [
  [10, 59, REAL_VALUE],
  [60, 99, INTEGER_VALUE],
  [110, 149, REAL_VALUE],
  [160, 179, INTEGER_VALUE],
  [210, 239, REAL_VALUE],
  [270, 299, INTEGER_VALUE],
  [370, 389, INTEGER_VALUE],
  [400, 409, INTEGER_VALUE],
  [420, 429, INTEGER_VALUE],
  [440, 459, INTEGER_VALUE],
  [460, 469, REAL_VALUE],
  [1010, 1059, REAL_VALUE],
  [1060, 1071, INTEGER_VALUE],
];

/** Codes that nothing here reads: subclass markers, owners, most pointers, proxy bytes; 350 and 360 name the entries of a dictionary. */
const UNREAD: readonly [number, number][] = [
  [100, 100],
  [102, 102],
  [310, 329],
  [341, 349],
  [351, 359],
  [361, 369],
  [390, 399],
];

const TYPES = new Uint8Array(1072);
for (const [first, last, type] of RANGES) TYPES.fill(type, first, last + 1);
for (const [first, last] of UNREAD) TYPES.fill(UNWANTED, first, last + 1);

/** Whether a group holds a number and no text. */
export function isNumberCode(code: number): boolean {
  return code >= 0 && code < TYPES.length && (TYPES[code] === REAL_VALUE || TYPES[code] === INTEGER_VALUE);
}

/** The code of a handle: hexadecimal, and never twice the same, so that keeping it would be of no use. */
const HANDLE = 5;

function ascii(bytes: Uint8Array, start: number, end: number): string {
  let text = '';
  for (let i = start; i < end; i++) if (bytes[i]! > 32) text += String.fromCharCode(bytes[i]!);
  return text;
}

/** Gets every group of the file, in order. Exactly one of `text` and `number` matters, by the code's type. */
export type TagHandler = (code: number, text: string, number: number, line: number) => void;

/** What cuts a drawing into its groups, whichever form it has. */
export interface Tags {
  /** Where it is: lines or groups begun so far, from 1. */
  line: number;
  /** Different texts with bytes that are no letter in the encoding. */
  damaged: number;
  setEncoding(encoding: string): void;
  push(chunk: Uint8Array): void;
  end(): void;
}

/**
 * Cuts an ASCII drawing into its groups (a code on one line, a value on the next) as the bytes come. Lines end in LF,
 * CR LF or CR. Values of codes that nothing reads are skipped.
 */
export class TagStream implements Tags {
  /** Lines begun so far, from 1. */
  line = 1;
  damaged = 0;
  private readonly rest: Remainder;
  private decoder: CountedDecoding = textDecoding('utf-8');
  private interned = new Map<number, { bytes: Uint8Array; text: string }>();

  constructor(
    private readonly file: string,
    private readonly handle: TagHandler,
  ) {
    this.rest = new Remainder(file);
  }

  /** Sets how bytes above 127 are read, once the header has said so. */
  setEncoding(encoding: string): void {
    this.decoder = textDecoding(encoding);
    this.interned.clear();
  }

  push(chunk: Uint8Array): void {
    const bytes = this.rest.with(chunk);
    if (bytes) this.rest.keep(bytes.subarray(this.cut(bytes, bytes.length, false)));
  }

  /** Takes what is left when the file ends without a line end. */
  end(): void {
    const rest = this.rest.all();
    if (rest.length === 0) return;
    const bytes = new Uint8Array(rest.length + 1);
    bytes.set(rest);
    bytes[rest.length] = 10;
    this.cut(bytes, bytes.length, true);
  }

  private cut(bytes: Uint8Array, length: number, last: boolean): number {
    let at = 0;
    for (;;) {
      // code line
      let e = at;
      let code = 0;
      let seen = false;
      let negative = false;
      let strange = false;
      let c = 0;
      for (; e < length; e++) {
        c = bytes[e]!;
        if (c >= 48 && c <= 57) {
          code = code * 10 + c - 48;
          seen = true;
        } else if (c === 10 || c === 13) break;
        else if (c === 45 && !seen) negative = true;
        else if (c !== 32 && c !== 9 && !(this.line === 1 && c >= 0xbb)) strange = true;
      }
      if (e >= length) return at;
      let next = e + 1;
      if (c === 13) {
        if (next >= length && !last) return at;
        if (bytes[next] === 10) next++;
      }
      if (!seen || strange) {
        // blanks at the very end are the beginning of a code that was cut off
        if (last && !strange && e === length - 1) return length;
        throw this.broken(bytes, at, e);
      }
      if (negative) code = -code;
      // value line
      const v = next;
      let f = v;
      while (f < length && (c = bytes[f]!) !== 10 && c !== 13) f++;
      if (f >= length) return at;
      let after = f + 1;
      if (c === 13) {
        if (after >= length && !last) return at;
        if (bytes[after] === 10) after++;
      }
      const type = code < 0 || code > 1071 ? TEXT_VALUE : TYPES[code]!;
      if (type === TEXT_VALUE)
        this.handle(code, code === HANDLE ? ascii(bytes, v, f) : groupText(code, this.text(bytes, v, f)), 0, this.line);
      else if (type !== UNWANTED) {
        const number = parseReal(bytes, v, f);
        if (Number.isNaN(number)) {
          throw new Problem(
            'dxf-number',
            `${this.file}, line ${this.line + 1}: "${this.text(bytes, v, f).slice(0, 40)}" stands where group code ${code} wants a number. The file is damaged there; export it again.`,
            { file: this.file, line: this.line + 1 },
          );
        }
        this.handle(code, '', number, this.line);
      }
      this.line += 2;
      at = after;
    }
  }

  private broken(bytes: Uint8Array, start: number, end: number): Problem {
    const found = this.text(bytes, start, Math.min(end, start + 40)).replace(/[^\x20-\x7e]/g, '?');
    return this.line === 1
      ? new Problem(
          'dxf-not-a-drawing',
          `${this.file} is not a DXF drawing: it begins with "${found}" where a group code is expected. Check that the file has the right name, or export it again as DXF.`,
          { file: this.file, line: 1 },
        )
      : new Problem(
          'dxf-group-code',
          `${this.file}, line ${this.line}: "${found}" stands where a group code (a whole number) is expected. The file is damaged there; export it again.`,
          { file: this.file, line: this.line },
        );
  }

  private decoded(bytes: Uint8Array): string {
    const before = this.decoder.damaged;
    const text = this.decoder.decode(bytes);
    if (this.decoder.damaged > before) this.damaged++;
    return text;
  }

  /** Short texts come again and again (layers, types, colours); the same bytes give the same string object. */
  private text(bytes: Uint8Array, start: number, end: number): string {
    const length = end - start;
    if (length === 0) return '';
    if (length > 40) return this.decoded(bytes.subarray(start, end));
    let hash = length;
    for (let i = start; i < end; i++) hash = (Math.imul(hash, 31) + bytes[i]!) | 0;
    const known = this.interned.get(hash);
    if (known && known.bytes.length === length) {
      let i = 0;
      while (i < length && known.bytes[i] === bytes[start + i]) i++;
      if (i === length) return known.text;
    }
    const own = bytes.slice(start, end);
    const text = this.decoded(own);
    if (this.interned.size > 20_000) this.interned.clear();
    this.interned.set(hash, { bytes: own, text });
    return text;
  }
}
