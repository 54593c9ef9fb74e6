import { type CountedDecoding, textDecoding } from '../../io/text-decoding';
import { Problem } from '../../model/problem';
import { Remainder } from '../../io/remainder';
import type { TagHandler, Tags } from './tags';
import { groupText } from './text';

/**
 * How the value of a group is stored in a binary drawing. Source: DXF Reference, "Binary DXF files" and "Group code value types".
 * Strings end with a zero; chunks begin with their length.
 */
const STRING = 0,
  DOUBLE = 1,
  INT16 = 2,
  INT32 = 3,
  INT64 = 4,
  BYTE = 5,
  CHUNK = 6;

const RANGES: readonly [number, number, number][] = [
  [10, 59, DOUBLE],
  [60, 79, INT16],
  [90, 99, INT32],
  [110, 149, DOUBLE],
  [160, 169, INT64],
  [170, 179, INT16],
  [210, 239, DOUBLE],
  [270, 289, INT16],
  [290, 299, BYTE],
  [310, 319, CHUNK],
  [370, 389, INT16],
  [400, 409, INT16],
  [420, 429, INT32],
  [440, 459, INT32],
  [460, 469, DOUBLE],
  [1004, 1004, CHUNK],
  [1010, 1059, DOUBLE],
  [1060, 1070, INT16],
  [1071, 1071, INT32],
];
const TYPES = new Uint8Array(1072);
for (const [first, last, type] of RANGES) TYPES.fill(type, first, last + 1);
const SIZES: Record<number, number> = { [DOUBLE]: 8, [INT16]: 2, [INT32]: 4, [INT64]: 8, [BYTE]: 1 };

/** The first line ends with these bytes, after the words "Binary DXF". */
const SENTINEL_BYTES = 22;
/** In the one-byte form a code from 255 on stands in two bytes behind this one. */
const EXTENDED = 255;

/** Cuts a binary drawing into its groups as the bytes come. Codes are two bytes, or one in the oldest form; the first group tells which. */
export class BinaryTagStream implements Tags {
  /** Groups begun so far, from 1: what a line is in the other form. */
  line = 1;
  damaged = 0;
  private readonly rest: Remainder;
  private decoder: CountedDecoding = textDecoding('utf-8');
  private started = false;
  private short = false;

  constructor(
    private readonly file: string,
    private readonly handle: TagHandler,
  ) {
    this.rest = new Remainder(file);
  }

  setEncoding(encoding: string): void {
    this.decoder = textDecoding(encoding);
  }

  push(chunk: Uint8Array): void {
    const bytes = this.rest.with(chunk);
    if (bytes) this.take(bytes);
  }

  private take(bytes: Uint8Array): void {
    let at = 0;
    if (!this.started) {
      if (bytes.length < SENTINEL_BYTES + 4) {
        this.rest.keep(bytes);
        return;
      }
      at = SENTINEL_BYTES;
      // the first group is 0 SECTION: its second byte is a letter in the one-byte form
      this.short = bytes[at + 1] !== 0;
      this.started = true;
    }
    this.rest.keep(bytes.subarray(this.cut(bytes, at)));
  }

  /** A drawing that ends within a group has lost its end mark too, which the reader tells. */
  end(): void {
    const rest = this.rest.all();
    if (rest.length > 0) this.take(rest);
  }

  /** @returns where the group begins that is not complete yet */
  private cut(bytes: Uint8Array, start: number): number {
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
    let at = start;
    for (;;) {
      let v = at;
      if (v + 3 > bytes.length) return at;
      let code: number;
      if (!this.short) {
        code = view.getInt16(v, true);
        v += 2;
      } else if (bytes[v] === EXTENDED) {
        code = view.getInt16(v + 1, true);
        v += 3;
      } else code = bytes[v++]!;
      if (code < -5 || code > 1071) throw this.broken(code);
      const type = code < 0 ? STRING : TYPES[code]!;
      if (type === STRING) {
        const end = bytes.indexOf(0, v);
        if (end < 0) return at;
        const before = this.decoder.damaged;
        const text = this.decoder.decode(bytes.subarray(v, end));
        if (this.decoder.damaged > before) this.damaged++;
        this.handle(code, groupText(code, text), 0, this.line);
        at = end + 1;
      } else if (type === CHUNK) {
        if (v >= bytes.length || v + 1 + bytes[v]! > bytes.length) return at;
        at = v + 1 + bytes[v]!;
      } else {
        const size = SIZES[type]!;
        if (v + size > bytes.length) return at;
        const value =
          type === DOUBLE
            ? view.getFloat64(v, true)
            : type === INT16
              ? view.getInt16(v, true)
              : type === INT32
                ? view.getInt32(v, true)
                : type === BYTE
                  ? view.getUint8(v)
                  : Number(view.getBigInt64(v, true));
        if (!Number.isFinite(value)) {
          throw new Problem(
            'dxf-number',
            `${this.file}, group ${this.line}: what stands behind group code ${code} is no number. The file is damaged there; export it again.`,
            { file: this.file, line: this.line },
          );
        }
        this.handle(code, '', value, this.line);
        at = v + size;
      }
      this.line++;
    }
  }

  private broken(code: number): Problem {
    return new Problem(
      'dxf-group-code',
      `${this.file}, group ${this.line}: ${code} is no group code. The file is damaged there; export it again.`,
      { file: this.file, line: this.line },
    );
  }
}
