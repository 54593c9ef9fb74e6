import type { Value } from '../../model/value';
import type { FolderSink } from '../../io/bytes';
import type { FeatureBatch } from '../../model/batch';
import type { FieldType } from '../../model/field';
import type { TargetField } from '../format';
import { BufferedSink } from '../../io/buffered-sink';

/** DBF field types. Source: dBASE III table format, as described in the Library of Congress format record fdd000325. */
const LETTERS: Partial<Record<FieldType, string>> = { text: 'C', integer: 'N', decimal: 'N', boolean: 'L', date: 'D' };

const BLANK = 32;
const encoder = new TextEncoder();

/** The bytes that a value is written as, before padding. */
export function dbfText(value: Value, field: TargetField): string {
  if (value === null) return field.type === 'boolean' ? '?' : '';
  if (field.type === 'text') return String(value);
  if (field.type === 'boolean') return value === true ? 'T' : value === false ? 'F' : '?';
  if (field.type === 'date') return String(value).replaceAll('-', '').slice(0, 8);
  return typeof value === 'number' ? (field.decimals === 0 ? String(value) : value.toFixed(field.decimals)) : String(value);
}

/** Writes the table of a shapefile, a row a record. */
export class DbfWriter {
  private records = 0;
  private readonly rowBytes: number;

  private constructor(
    private readonly out: BufferedSink,
    private readonly fields: readonly TargetField[],
  ) {
    this.rowBytes = 1 + fields.reduce((sum, f) => sum + f.width, 0);
    const header = this.header();
    out.reserve(header.length);
    out.bytes.set(header);
    out.at = header.length;
  }

  static async create(folder: FolderSink, name: string, fields: readonly TargetField[]): Promise<DbfWriter> {
    return new DbfWriter(new BufferedSink(await folder.create(name)), fields);
  }

  async append(batch: FeatureBatch, rows: Uint32Array, n: number): Promise<void> {
    const columns = this.fields.map((f) => batch.columns.get(f.from));
    const { out } = this;
    for (let k = 0; k < n; k++) {
      out.reserve(this.rowBytes);
      out.bytes.fill(BLANK, out.at, out.at + this.rowBytes);
      let at = out.at + 1;
      for (let c = 0; c < columns.length; c++) {
        const field = this.fields[c]!;
        const value = columns[c]?.[rows[k]!] ?? null;
        if (value !== null || field.type === 'boolean') this.put(dbfText(value, field), field, at);
        at += field.width;
      }
      out.at = at;
      if (out.full) await out.flush();
    }
    this.records += n;
  }

  async close(): Promise<void> {
    this.out.reserve(1);
    this.out.bytes[this.out.at++] = 0x1a;
    await this.out.close(this.header());
  }

  /** Text stands to the left of its field, numbers to the right; a text too long is cut at a whole character. */
  private put(text: string, field: TargetField, at: number): void {
    const { bytes } = this.out;
    const left = field.type === 'text' || field.type === 'boolean' || field.type === 'date';
    const length = text.length;
    if (length <= field.width) {
      const start = left ? at : at + field.width - length;
      let i = 0;
      for (; i < length; i++) {
        const c = text.charCodeAt(i);
        if (c > 127) break;
        bytes[start + i] = c;
      }
      if (i === length) return;
    }
    encoder.encodeInto(text, bytes.subarray(at, at + field.width));
  }

  private header(): Uint8Array {
    const bytes = new Uint8Array(32 + 32 * this.fields.length + 1);
    const view = new DataView(bytes.buffer);
    bytes[0] = 3;
    // the date of the last change is left at a fixed day, so that the same crossing gives the same bytes
    bytes.set([126, 1, 1], 1);
    view.setUint32(4, this.records, true);
    view.setUint16(8, bytes.length, true);
    view.setUint16(10, this.rowBytes, true);
    this.fields.forEach((field, i) => {
      const at = 32 + 32 * i;
      encoder.encodeInto(field.to, bytes.subarray(at, at + 10));
      bytes[at + 11] = LETTERS[field.type]!.charCodeAt(0);
      bytes[at + 16] = field.width;
      bytes[at + 17] = field.decimals;
    });
    bytes[bytes.length - 1] = 0x0d;
    return bytes;
  }
}
