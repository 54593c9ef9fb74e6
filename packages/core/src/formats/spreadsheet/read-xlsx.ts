import type { ByteSource, Watch } from '../../io/bytes';
import { watched } from '../../io/watched';
import type { Findings } from '../../model/finding';
import { Problem } from '../../model/problem';
import type { Cell } from '../table/table-reader';
import { childOf, childrenOf, readXml, XmlReader, type XmlNode } from '../../io/xml';
import { entrySource, type ZipEntry } from '../zip/read';
import { dateOfSerial, isDateFormat } from './dates';
import { letterColumn, unescapedText } from './cells';

/** A sheet of a workbook, opened. */
export interface Sheet {
  name: string;
  /** What its cells have that is no value goes into `findings`. */
  rows(watch: Watch, findings: Findings): AsyncGenerator<{ row: Cell[]; line: number }[]>;
}

/** Texts that the sheets share are held in memory; more characters than these are refused. */
const MOST_SHARED = 1 << 27;
/** Columns that a sheet may have. Source: ECMA-376 part 1, section 18.3.1.13 (as letters: XFD). */
export const MOST_COLUMNS = 16_384;

/** The sheets of a workbook of Office Open XML, in its order. Source: ECMA-376 part 1 (5th edition), sections 18.2, 18.3, 18.4 and 18.8. */
export async function xlsxSheets(source: ByteSource, entries: readonly ZipEntry[], findings: Findings): Promise<Sheet[]> {
  const part = (name: string): ZipEntry | undefined => entries.find((e) => e.name.toLowerCase() === name.toLowerCase());
  const whole = async (name: string): Promise<XmlNode | null> => {
    const entry = part(name);
    return entry ? readXml(entry.name, await entrySource(source, entry).read(0, entry.bytes)) : null;
  };
  const workbook = await whole('xl/workbook.xml');
  if (!workbook)
    throw new Problem('xlsx-not', `${source.name} is an archive, but no workbook: xl/workbook.xml is not in it.`, { file: source.name });
  const relations = new Map(
    childrenOf((await whole('xl/_rels/workbook.xml.rels')) ?? undefined, 'Relationship').map((r) => [
      r.attributes.Id ?? '',
      r.attributes.Target ?? '',
    ]),
  );
  const from1904 = /^(1|true)$/.test(childOf(workbook, 'workbookPr')?.attributes.date1904 ?? '');
  const dates = dateStyles(await whole('xl/styles.xml'));
  const strings = part('xl/sharedStrings.xml');
  let shared: string[] | null = null;
  return childrenOf(childOf(workbook, 'sheets'), 'sheet').flatMap((sheet): Sheet[] => {
    const target = relations.get(sheet.attributes['r:id'] ?? '') ?? '';
    const entry = part(target.startsWith('/') ? target.slice(1) : `xl/${target}`);
    if (!entry) {
      findings.add({
        code: 'sheet-missing',
        severity: 'wrong',
        message: `The workbook lists the sheet ${sheet.attributes.name ?? target}, which is not in it.`,
        count: 1,
      });
      return [];
    }
    return [
      {
        name: sheet.attributes.name ?? 'sheet',
        async *rows(watch, told) {
          shared ??= strings ? await sharedStrings(entrySource(source, strings)) : [];
          yield* rowsOf(entrySource(source, entry), watch, {
            shared,
            dates,
            from1904,
            odd: odditiesOf(sheet.attributes.name ?? 'sheet', told),
          });
        },
      },
    ];
  });
}

/** Which of the cell styles show a number as a date. */
function dateStyles(styles: XmlNode | null): boolean[] {
  const formats = new Map(
    childrenOf(childOf(styles ?? undefined, 'numFmts'), 'numFmt').map((f) => [
      Number(f.attributes.numFmtId),
      f.attributes.formatCode ?? '',
    ]),
  );
  return childrenOf(childOf(styles ?? undefined, 'cellXfs'), 'xf').map((xf) => {
    const id = Number(xf.attributes.numFmtId ?? 0);
    return isDateFormat(id, formats.get(id));
  });
}

async function sharedStrings(source: ByteSource): Promise<string[]> {
  const out: string[] = [];
  let length = 0;
  const xml = new XmlReader(source.name, {
    open: (name) => name === 'si',
    close() {},
    text() {},
    whole(node) {
      const text = textOf(node);
      length += text.length;
      if (length > MOST_SHARED)
        throw new Problem(
          'xlsx-too-large',
          `The texts of ${source.name} are longer than ${MOST_SHARED / 1024 / 1024} MB together, which is not read. Save the table as CSV.`,
          { file: source.name },
        );
      out.push(text);
    },
  });
  for await (const chunk of source.stream()) xml.push(chunk);
  xml.end();
  return out;
}

/** A text, plain or of several runs; readings for it (phonetic runs) are none of it. Source: section 18.4.8. */
function textOf(node: XmlNode): string {
  const own = childOf(node, 't');
  return unescapedText(
    own
      ? own.text
      : childrenOf(node, 'r')
          .map((r) => childOf(r, 't')?.text ?? '')
          .join(''),
  );
}

interface Known {
  shared: readonly string[];
  dates: readonly boolean[];
  from1904: boolean;
  /** Is told of a cell that has no value though it has something. */
  odd(what: keyof typeof ODDITIES, at: string): void;
}

const ODDITIES = {
  'sheet-text-missing': 'A cell names a text that the workbook does not have',
  'sheet-error': 'A cell shows an error in the place of a value',
  'sheet-formula': 'A formula was saved without its result',
} as const;

/** Tells of cells of a sheet by what they have, the first of each by its name. */
function odditiesOf(sheet: string, findings: Findings): Known['odd'] {
  const first = new Map<string, string>();
  return (what, at) => {
    if (!first.has(what)) first.set(what, at);
    findings.add({
      code: what,
      severity: 'caution',
      message: `${ODDITIES[what]}, the first in ${first.get(what)}: it is left empty.`,
      count: 1,
      location: sheet,
    });
  };
}

async function* rowsOf(source: ByteSource, watch: Watch, known: Known): AsyncGenerator<{ row: Cell[]; line: number }[]> {
  let rows: { row: Cell[]; line: number }[] = [];
  let line = 0;
  let row: Cell[] = [];
  let filled = false;
  // cell by cell: a row of sixteen thousand of them is large as a whole
  const xml = new XmlReader(source.name, {
    open(name, attributes) {
      if (name === 'row') {
        line = Number(attributes.r ?? line + 1);
        row = [];
        filled = false;
      }
      return name === 'c';
    },
    close(name) {
      if (name === 'row' && filled) rows.push({ row, line });
    },
    text() {},
    whole(c) {
      const column = c.attributes.r === undefined ? row.length : letterColumn(c.attributes.r);
      if (column >= MOST_COLUMNS)
        throw new Problem(
          'xlsx-column',
          `${source.name}, row ${line}: the cell ${c.attributes.r} lies beyond the last column that a sheet has. Save the workbook again.`,
          { file: source.name, line },
        );
      // holes are left between: one stray cell in the last column is common
      const cell = (row[column] = cellOf(c, known));
      filled ||= cell !== null && cell !== '';
    },
  });
  for await (const chunk of watched(source, watch)) {
    xml.push(chunk);
    yield rows;
    rows = [];
  }
  xml.end();
  yield rows;
}

/** Source: section 18.18.11 (types of cells). */
function cellOf(c: XmlNode, { shared, dates, from1904, odd }: Known): Cell {
  const value = childOf(c, 'v')?.text;
  // an empty text, so that a row of nothing else is a row still
  const nothing = (what: keyof typeof ODDITIES): Cell => {
    odd(what, c.attributes.r ?? 'a cell without a name');
    return { text: '' };
  };
  if (value === undefined && childOf(c, 'f')) return nothing('sheet-formula');
  switch (c.attributes.t) {
    case 's':
      if (value === undefined) return null;
      return shared[Number(value)] === undefined ? nothing('sheet-text-missing') : { text: shared[Number(value)]! };
    case 'inlineStr':
      return { text: textOf(childOf(c, 'is') ?? c) };
    case 'str':
      return value === undefined ? null : { text: unescapedText(value) };
    case 'b':
      return value === '1';
    case 'e':
      return nothing('sheet-error');
    case 'd':
      return value === undefined ? null : { text: value };
    default: {
      if (value === undefined || value === '') return null;
      const number = Number(value);
      if (Number.isNaN(number)) return { text: value };
      return dates[Number(c.attributes.s ?? 0)] ? { text: dateOfSerial(number, from1904) } : number;
    }
  }
}
