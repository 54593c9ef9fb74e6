import type { FieldProfile } from '@pontrel/core/content/features/profile';
import type { FieldType } from '@pontrel/core/model/field';

/** A column of a table of records. */
export interface FieldColumn {
  name: string;
  /** Whether its values are numbers, which stand on the right. */
  number: boolean;
  /** As wide as its name and its values need, within bounds, pixels. */
  width: number;
}

const NUMBERS: ReadonlySet<FieldType> = new Set<FieldType>(['integer', 'decimal']);

/** Pixels of a letter of the table, and of all that stands beside the text of a cell. */
const LETTER = 7,
  BESIDE = 40;
const NARROWEST = 64,
  WIDEST = 280;

/** The columns of some fields, in their order. */
export const fieldColumns = (fields: readonly FieldProfile[]): FieldColumn[] =>
  fields.map((f) => {
    const number = NUMBERS.has(f.type);
    const longest = number ? f.whole + (f.decimals > 0 ? f.decimals + 1 : 0) : f.maxBytes;
    return {
      name: f.name,
      number,
      width: Math.round(Math.min(WIDEST, Math.max(NARROWEST, Math.max(f.name.length, longest) * LETTER + BESIDE))),
    };
  });

/** A table for a spreadsheet: a head, and rows of cells with tabs between. Source: IANA, text/tab-separated-values. */
export function asTable(head: readonly string[], rows: readonly (readonly unknown[])[]): string {
  const cell = (value: unknown): string => (value === null || value === undefined ? '' : String(value).replace(/[\t\r\n]+/g, ' '));
  return [head, ...rows].map((row) => row.map(cell).join('\t')).join('\n');
}
