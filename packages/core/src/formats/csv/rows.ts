import { Problem } from '../../model/problem';

/** Characters that one value may have. */
const MOST_CHARACTERS = 1 << 27;

/**
 * Cuts text into rows of values as it comes. A value in quotes may hold separators, line ends, and quotes that stand twice.
 * Source: RFC 4180, section 2.
 */
export class RowCutter {
  private row: string[] = [];
  private value = '';
  private quoted = false;
  /** The last character was a quote within quotes, or a carriage return. */
  private closing = false;
  private wasReturn = false;
  private begun = false;
  /** Lines ended so far. */
  line = 1;

  constructor(
    private readonly file: string,
    private readonly separator: string,
    private readonly take: (row: string[], line: number) => void,
  ) {}

  push(text: string): void {
    let from = 0;
    const add = (to: number): void => {
      if (to > from) this.value += text.slice(from, to);
      if (this.value.length > MOST_CHARACTERS)
        throw new Problem(
          'csv-too-large',
          `${this.file}, line ${this.line}: one value is longer than ${MOST_CHARACTERS / 1024 / 1024} MB, which is not read. Check that its quotes are closed.`,
          { file: this.file, line: this.line },
        );
    };
    for (let i = 0; i < text.length; i++) {
      const c = text[i]!;
      if (this.quoted) {
        if (this.closing) {
          this.closing = false;
          if (c === '"') {
            this.value += '"';
            from = i + 1;
            continue;
          }
          this.quoted = false;
          from = i;
        } else if (c === '"') {
          add(i);
          this.closing = true;
          from = i + 1;
          continue;
        } else {
          if (c === '\n') this.line++;
          continue;
        }
      }
      if (c === '"' && !this.begun && this.value === '' && from === i) {
        this.quoted = true;
        this.begun = true;
        from = i + 1;
      } else if (c === this.separator) {
        add(i);
        this.endValue();
        from = i + 1;
      } else if (c === '\n' || c === '\r') {
        if (c === '\n' && this.wasReturn && i === from) {
          from = i + 1;
          this.wasReturn = false;
          continue;
        }
        add(i);
        this.endRow();
        from = i + 1;
        this.wasReturn = c === '\r';
        continue;
      }
      this.wasReturn = false;
    }
    add(text.length);
  }

  end(): void {
    if (this.quoted && !this.closing)
      throw new Problem(
        'csv-quote',
        `${this.file}: a quote is left open in the row that ends at line ${this.line}. Close it, or export the table again.`,
        { file: this.file, line: this.line },
      );
    if (this.value !== '' || this.row.length > 0 || this.begun) this.endRow();
  }

  private endValue(): void {
    this.row.push(this.value);
    this.value = '';
    this.quoted = this.closing = this.begun = false;
  }

  private endRow(): void {
    const wasQuoted = this.begun;
    this.endValue();
    const { row } = this;
    this.row = [];
    // a line without anything is no row
    if (row.length > 1 || row[0] !== '' || wasQuoted) this.take(row, this.line);
    this.line++;
  }
}

/** A value as it stands in a row. */
export function quotedValue(value: string, separator: string): string {
  return value.includes(separator) || /["\r\n]/.test(value) || value !== value.trim() ? `"${value.replaceAll('"', '""')}"` : value;
}

const SEPARATORS = [',', ';', '\t', '|'] as const;

/** Rows from which it is told how a text is cut. */
const LOOKED_AT = 20;

/** Numbers of values in the first rows of a text; null where it cannot be cut so. */
function widthsBy(separator: string, text: string): number[] | null {
  const widths: number[] = [];
  const cutter = new RowCutter('', separator, (row) => widths.push(row.length));
  try {
    cutter.push(text.slice(0, 20_000));
  } catch (error) {
    if (error instanceof Problem) return null;
    throw error;
  }
  return widths.slice(0, LOOKED_AT);
}

/** Words in one line from which a text of one column is prose. */
const PROSE = 4;

/** Whether a text is a table: rows of the same number of values, or of one value that is no sentence. */
export function isTable(text: string): boolean {
  const rows = widthsBy(separatorOf(text), text);
  if (rows === null || rows.length === 0) return false;
  const even = rows.filter((w) => w === rows[0]).length / rows.length;
  if (rows[0]! > 1) return even > (rows.length < LOOKED_AT / 2 ? 0.99 : 0.6);
  return !text
    .split(/\r?\n/)
    .slice(0, LOOKED_AT)
    .some((line) => line.trim().split(/\s+/).length >= PROSE);
}

/** The separator that cuts the first rows into the most columns, the same number in each. */
export function separatorOf(text: string): string {
  let best = ',',
    most = 0;
  for (const separator of SEPARATORS) {
    const rows = widthsBy(separator, text);
    if (rows === null) continue;
    const score = rows.length === 0 ? 0 : rows[0]! * (rows.filter((w) => w === rows[0]).length / rows.length);
    if ((rows[0] ?? 0) > 1 && score > most) [best, most] = [separator, score];
  }
  return best;
}
