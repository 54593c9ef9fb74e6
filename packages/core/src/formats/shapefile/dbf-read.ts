import { parseInteger, type Value } from '../../model/value';
import type { ByteSource } from '../../io/bytes';
import { type CodePage, codePageOf } from '../../io/code-pages';
import { type CountedDecoding, textDecoding } from '../../io/text-decoding';
import type { Finding } from '../../model/finding';
import { Problem } from '../../model/problem';
import type { Declarations, Field, FieldType } from '../../model/field';

interface Column extends Field {
  at: number;
  width: number;
}

const TYPES: Record<string, FieldType> = { C: 'text', N: 'decimal', F: 'decimal', L: 'boolean', D: 'date' };

/** Types whose values are not in the table, or not as text. Source of M and B: dBASE IV; the others are common practice, no source. */
const NOT_READ: Record<string, string> = {
  M: 'memos, whose texts lie in another file',
  B: 'binary values',
  G: 'embedded objects',
  P: 'pictures',
  W: 'binary values',
  V: 'values of varying length',
  Q: 'binary values',
  I: 'binary whole numbers',
  O: 'binary numbers',
  Y: 'amounts of money',
  T: 'binary moments',
  '@': 'binary moments',
  '+': 'counters',
};

/** Code pages by the language byte of the header (offset 29), page by page. Common practice, no source; the values are from memory. */
const LANGUAGES: ReadonlyMap<number, string> = new Map(
  (
    [
      [437, 0x01, 0x09, 0x0b, 0x0d, 0x0f, 0x11, 0x15, 0x18, 0x19, 0x1b],
      [850, 0x02, 0x0a, 0x0e, 0x10, 0x12, 0x14, 0x16, 0x1a, 0x1d, 0x25, 0x37],
      [1252, 0x03, 0x57, 0x58, 0x59],
      [10000, 0x04],
      [865, 0x08, 0x17, 0x66],
      [932, 0x13, 0x7b],
      [863, 0x1c, 0x6c],
      [852, 0x1f, 0x22, 0x23, 0x40, 0x64, 0x87],
      [860, 0x24],
      [866, 0x26, 0x65],
      [936, 0x4d, 0x7a],
      [949, 0x4e, 0x79],
      [950, 0x4f, 0x78],
      [874, 0x50, 0x7c],
      [861, 0x67],
      [895, 0x68],
      [620, 0x69],
      [737, 0x6a, 0x86],
      [857, 0x6b, 0x88],
      [10007, 0x96],
      [10029, 0x97],
      [10006, 0x98],
      [1250, 0xc8],
      [1251, 0xc9],
      [1254, 0xca],
      [1253, 0xcb],
      [1257, 0xcc],
      [1255, 0x7d],
      [1256, 0x7e],
    ] as const
  ).flatMap(([page, ...bytes]) => bytes.map((byte) => [byte, String(page)] as const)),
);

/** The mark of a row that is deleted: an asterisk. */
const DELETED = 0x2a;

/** A name that no column before has, with a number where one has it. */
function freeName(name: string, columns: readonly { name: string }[]): string {
  let free = name;
  for (let n = 2; columns.some((c) => c.name === free); n++) free = `${name}_${n}`;
  return free;
}

/** A .dbf table, opened. Rows are read a block at a time. */
export class DbfReader {
  /** Texts with bytes that are none in the code page. */
  private damaged = 0;
  /** Values that are none of their field's type, by the name of the field, and the first of them. */
  private readonly unread = new Map<string, { count: number; first: string; record: number; what: string }>();

  private constructor(
    private readonly source: ByteSource,
    readonly fields: readonly Field[],
    readonly count: number,
    private readonly columns: readonly Column[],
    private readonly headerBytes: number,
    private readonly rowBytes: number,
    private readonly decoder: CountedDecoding,
    private readonly stated: StatedPage,
    private readonly told: readonly Finding[],
  ) {}

  /** @param codePage the content of the .cpg file, or null @throws Problem when the header makes no sense */
  static async open(source: ByteSource, codePage: string | null): Promise<DbfReader> {
    const head = await source.read(0, 32);
    if (head.length < 32) throw new Problem('dbf-cut', `${source.name} is too short for a DBF table.`, { file: source.name });
    const view = new DataView(head.buffer, head.byteOffset, head.length);
    const count = view.getUint32(4, true);
    const headerBytes = view.getUint16(8, true);
    const rowBytes = view.getUint16(10, true);
    const broken = (what: string): Problem =>
      new Problem('dbf-broken', `${source.name}: ${what}. The table is damaged.`, { file: source.name });
    if (headerBytes < 33 || headerBytes > source.size) throw broken(`its header says that it is ${headerBytes} bytes long`);
    const descriptors = await source.read(32, headerBytes - 32);
    const told: Finding[] = [];
    const page = pageOf(codePage, head[29]!);
    const decoder = textDecoding(page.page.id);
    const columns: Column[] = [];
    let at = 1;
    for (let i = 0; i + 32 <= descriptors.length && descriptors[i] !== 0x0d; i += 32) {
      const d = descriptors.subarray(i, i + 32);
      const stop = d.indexOf(0);
      const letter = String.fromCharCode(d[11]!);
      const decimals = d[17]!;
      const type = TYPES[letter] ?? 'text';
      const stated = decoder.decode(d.subarray(0, stop < 0 || stop > 11 ? 11 : stop)).trim() || `field_${i / 32 + 1}`;
      const name = freeName(stated, columns);
      if (name !== stated)
        told.push({
          code: 'dbf-field-twice',
          severity: 'info',
          message: `${source.name} has the field ${stated} twice: the second is called ${name} here.`,
          count: 1,
        });
      if (NOT_READ[letter] !== undefined) {
        told.push({
          code: 'dbf-field-not-read',
          severity: 'caution',
          message: `The field ${name} of ${source.name} is of type ${letter}: ${NOT_READ[letter]}, which are not read and stay behind.`,
          count,
        });
        at += d[16]!;
        continue;
      }
      columns.push({
        name,
        type: letter === 'N' && decimals === 0 ? 'integer' : type,
        at,
        width: d[16]!,
        ...(letter === 'N' || letter === 'F' ? { decimals } : {}),
      });
      at += d[16]!;
    }
    // rows may be longer than their fields, where the file has them
    if (at > rowBytes || (at < rowBytes && headerBytes + count * rowBytes > source.size))
      throw broken(`its fields take ${at} bytes a row, its header says ${rowBytes}`);
    if (at < rowBytes)
      told.push({
        code: 'dbf-row-width',
        severity: 'caution',
        message: `Rows of ${source.name} are ${rowBytes} bytes long, its fields ${at}: what stands behind them is not read.`,
        count,
      });
    return new DbfReader(
      source,
      columns.map(({ name, type }) => ({ name, type })),
      count,
      columns,
      headerBytes,
      rowBytes,
      decoder,
      page,
      told,
    );
  }

  /** What a person should know of its texts, complete once all rows were read. */
  findings(): Finding[] {
    const { page, unknown } = this.stated;
    const own: Finding[] = [...this.told];
    if (unknown !== null)
      own.push({
        code: 'dbf-code-page-unknown',
        severity: 'caution',
        message: `${this.source.name} names the code page ${unknown}, which is not known here: its texts are read as ${page.name}. Choose the code page in Gather.`,
        count: 1,
      });
    if (this.damaged > 0)
      own.push({
        code: 'dbf-code-page',
        severity: 'caution',
        message: `Texts of ${this.source.name} hold characters that its code page, ${page.name}, does not have. Choose the code page in Gather.`,
        count: this.damaged,
      });
    for (const [name, { count, first, record, what }] of this.unread)
      own.push({
        code: 'dbf-value-not-read',
        severity: 'caution',
        message: `Values of ${name} in ${this.source.name} are no ${what}, the first "${first}" in record ${record}: they are left empty.`,
        count,
      });
    return own;
  }

  /** What the table declares of its fields. */
  declared(): Declarations {
    return new Map(
      this.columns.map(({ name, type, width, decimals }) => [name, { type, width, ...(decimals === undefined ? {} : { decimals }) }]),
    );
  }

  /**
   * Values of rows [first, first + n), a column at a time, and which rows are marked as deleted: shapes are counted with them. Null where
   * none is. Source: dBASE III, the first byte of a row.
   */
  async rows(first: number, n: number): Promise<{ columns: Map<string, Value[]>; deleted: boolean[] | null }> {
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
        values[r] =
          r > 0 && values[r - 1] !== null && sameBytes(bytes, at, at - this.rowBytes, column.width)
            ? values[r - 1]!
            : this.value(bytes, at, column, first + r + 1);
      }
      out.set(column.name, values);
    }
    let deleted: boolean[] | null = null;
    for (let r = 0; r < n; r++) if (bytes[r * this.rowBytes] === DELETED) (deleted ??= new Array<boolean>(n).fill(false))[r] = true;
    return { columns: out, deleted };
  }

  private value(bytes: Uint8Array, start: number, column: Column, record: number): Value {
    let end = start + column.width;
    while (end > start && (bytes[end - 1] === 32 || bytes[end - 1] === 0)) end--;
    if (end === start) return null;
    if (column.type === 'text') return this.text(bytes, start, end);
    const text = this.text(bytes, start, end).trim();
    if (column.type === 'boolean') {
      // a question mark is what has not been said. Source: dBASE III
      if (/^[TtYy]$/.test(text)) return true;
      return /^[FfNn]$/.test(text) ? false : text === '?' ? null : this.notRead(column, text, record, 'logical values');
    }
    // a date that is not known is written as zeros
    if (column.type === 'date')
      return text === '00000000' ? null : (dayOf(text) ?? this.notRead(column, text, record, 'days of the calendar'));
    const whole = column.type === 'integer' ? parseInteger(text) : null;
    if (whole !== null) return whole;
    const number = text === '' ? NaN : Number(text);
    return Number.isFinite(number) && /^[-+.\deE]+$/.test(text) ? number : this.notRead(column, text, record, 'numbers');
  }

  private notRead({ name }: Column, text: string, record: number, what: string): null {
    const known = this.unread.get(name);
    if (known) known.count++;
    else this.unread.set(name, { count: 1, first: text.slice(0, 40), record, what });
    return null;
  }

  private decoded(bytes: Uint8Array): string {
    const before = this.decoder.damaged;
    const text = this.decoder.decode(bytes);
    if (this.decoder.damaged > before) this.damaged++;
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

/** A day as ISO 8601 writes it, of eight digits; null for one that there is not. */
function dayOf(text: string): string | null {
  const [, year, month, day] = /^(\d{4})(\d{2})(\d{2})$/.exec(text) ?? [];
  if (year === undefined) return null;
  const date = new Date(Date.UTC(Number(year), Number(month) - 1, Number(day)));
  return date.getUTCMonth() + 1 === Number(month) && date.getUTCDate() === Number(day) ? `${year}-${month}-${day}` : null;
}

function sameBytes(bytes: Uint8Array, a: number, b: number, n: number): boolean {
  for (let i = 0; i < n; i++) if (bytes[a + i] !== bytes[b + i]) return false;
  return true;
}

/** The code page of a table, and what was said of it that is not known here. */
interface StatedPage {
  page: CodePage;
  unknown: string | null;
}

/** What the .cpg beside a table says goes before the language byte of its header; where neither says anything it is UTF-8. */
function pageOf(cpg: string | null, language: number): StatedPage {
  const [, byNumber] = /^LDID\W*(\d+)$/i.exec(cpg?.trim() ?? '') ?? [];
  const labels = [byNumber === undefined ? cpg?.trim() : LANGUAGES.get(Number(byNumber)), LANGUAGES.get(language)].flatMap((l) => l || []);
  const known = labels.map(codePageOf).find((p) => p !== null);
  const unknown = labels[0] !== undefined && codePageOf(labels[0]) === null ? labels[0].slice(0, 40) : null;
  return { page: known ?? codePageOf('utf-8')!, unknown };
}
