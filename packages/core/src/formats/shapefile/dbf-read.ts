import { parseInteger, type Value } from '../../model/value';
import type { ByteSource } from '../../io/bytes';
import { Problem } from '../../model/problem';
import type { Declarations, Field, FieldType } from '../../model/field';

interface Column extends Field {
  at: number;
  width: number;
}

const TYPES: Record<string, FieldType> = { C: 'text', N: 'decimal', F: 'decimal', L: 'boolean', D: 'date' };

/** Encodings by the language byte of the header (offset 29). Common practice, no source. */
const LANGUAGES: Record<number, string> = {
  0x03: 'windows-1252',
  0x57: 'windows-1252',
  0x58: 'windows-1252',
  0xc8: 'windows-1250',
  0xc9: 'windows-1251',
  0xcb: 'windows-1253',
  0x13: 'shift_jis',
  0x4d: 'gbk',
  0x4f: 'big5',
  0x4e: 'euc-kr',
};

/** The mark of a row that is deleted: an asterisk. */
const DELETED = 0x2a;

/** A .dbf table, opened. Rows are read a block at a time. */
export class DbfReader {
  /** Texts with bytes that are none in the code page. */
  damaged = 0;

  private constructor(
    private readonly source: ByteSource,
    readonly fields: readonly Field[],
    readonly count: number,
    private readonly columns: readonly Column[],
    private readonly headerBytes: number,
    private readonly rowBytes: number,
    private readonly decoder: TextDecoder,
  ) {}

  /** @param codePage the content of the .cpg file, or null @throws Problem when the header makes no sense */
  static async open(source: ByteSource, codePage: string | null): Promise<DbfReader> {
    const head = await source.read(0, 32);
    if (head.length < 32) throw new Problem('dbf-cut', `${source.name} is too short for a DBF table.`, { file: source.name });
    const view = new DataView(head.buffer, head.byteOffset, head.length);
    const count = view.getUint32(4, true);
    const headerBytes = view.getUint16(8, true);
    const rowBytes = view.getUint16(10, true);
    const descriptors = await source.read(32, headerBytes - 32);
    const decoder = new TextDecoder(encodingFor(codePage, head[29]!));
    const columns: Column[] = [];
    let at = 1;
    for (let i = 0; i + 32 <= descriptors.length && descriptors[i] !== 0x0d; i += 32) {
      const d = descriptors.subarray(i, i + 32);
      const stop = d.indexOf(0);
      const letter = String.fromCharCode(d[11]!);
      const decimals = d[17]!;
      const type = TYPES[letter] ?? 'text';
      columns.push({
        name: decoder.decode(d.subarray(0, stop < 0 || stop > 11 ? 11 : stop)),
        type: letter === 'N' && decimals === 0 ? 'integer' : type,
        at,
        width: d[16]!,
        ...(letter === 'N' || letter === 'F' ? { decimals } : {}),
      });
      at += d[16]!;
    }
    if (at > rowBytes)
      throw new Problem(
        'dbf-broken',
        `${source.name}: its fields take ${at} bytes a row, its header says ${rowBytes}. The table is damaged.`,
        { file: source.name },
      );
    return new DbfReader(
      source,
      columns.map(({ name, type }) => ({ name, type })),
      count,
      columns,
      headerBytes,
      rowBytes,
      decoder,
    );
  }

  /** What the table declares of its fields. */
  declared(): Declarations {
    return new Map(
      this.columns.map(({ name, type, width, decimals }) => [name, { type, width, ...(decimals === undefined ? {} : { decimals }) }]),
    );
  }

  /** Values of rows [first, first + n), a column at a time. Deleted rows are not skipped: shapes are counted with them. */
  async rows(first: number, n: number): Promise<Map<string, Value[]>> {
    const bytes = await this.source.read(this.headerBytes + first * this.rowBytes, n * this.rowBytes);
    if (bytes.length < n * this.rowBytes) {
      const record = first + Math.floor(bytes.length / this.rowBytes) + 1;
      throw new Problem('dbf-cut', `${this.source.name} breaks off at record ${record} of ${this.count}. Ask for the file again.`, {
        file: this.source.name,
        record,
      });
    }
    const out = new Map<string, Value[]>();
    for (const column of this.columns) {
      const values: Value[] = new Array<Value>(n);
      for (let r = 0, at = column.at; r < n; r++, at += this.rowBytes) {
        // a value is often that of the row before: then it is not made again
        values[r] = r > 0 && sameBytes(bytes, at, at - this.rowBytes, column.width) ? values[r - 1]! : this.value(bytes, at, column);
      }
      out.set(column.name, values);
    }
    return out;
  }

  /** Which of the rows [first, first + n) are marked as deleted. Source: dBASE III, the first byte of a row. */
  async deleted(first: number, n: number): Promise<boolean[]> {
    const bytes = await this.source.read(this.headerBytes + first * this.rowBytes, n * this.rowBytes);
    return Array.from({ length: n }, (_, r) => bytes[r * this.rowBytes] === DELETED);
  }

  private value(bytes: Uint8Array, start: number, column: Column): Value {
    let end = start + column.width;
    while (end > start && (bytes[end - 1] === 32 || bytes[end - 1] === 0)) end--;
    if (end === start) return null;
    if (column.type === 'text') return this.text(bytes, start, end);
    const text = this.text(bytes, start, end).trim();
    if (column.type === 'boolean') return /^[TtYy]$/.test(text) ? true : /^[FfNn]$/.test(text) ? false : null;
    // a date that is not known is written as zeros
    if (column.type === 'date')
      return /^\d{8}$/.test(text) && text !== '00000000' ? `${text.slice(0, 4)}-${text.slice(4, 6)}-${text.slice(6)}` : null;
    const whole = column.type === 'integer' ? parseInteger(text) : null;
    if (whole !== null) return whole;
    const number = Number(text);
    return Number.isNaN(number) ? null : number;
  }

  private decoded(bytes: Uint8Array): string {
    const text = this.decoder.decode(bytes);
    if (text.includes('\ufffd')) this.damaged++;
    return text;
  }

  private text(bytes: Uint8Array, start: number, end: number): string {
    if (end - start > 24) return this.decoded(bytes.subarray(start, end));
    let out = '';
    for (let i = start; i < end; i++) {
      if (bytes[i]! > 127) return this.decoded(bytes.subarray(start, end));
      out += String.fromCharCode(bytes[i]!);
    }
    return out;
  }
}

function sameBytes(bytes: Uint8Array, a: number, b: number, n: number): boolean {
  for (let i = 0; i < n; i++) if (bytes[a + i] !== bytes[b + i]) return false;
  return true;
}

function encodingFor(codePage: string | null, language: number): string {
  const named = codePage
    ?.trim()
    .toLowerCase()
    .replace(/^(ansi |cp)?(125\d|874)$/, 'windows-$2');
  for (const label of [named, LANGUAGES[language], 'utf-8']) {
    if (!label) continue;
    try {
      return new TextDecoder(label).encoding;
    } catch {
      continue; // a name that nobody knows: the language byte decides
    }
  }
  return 'utf-8';
}
