import type { ByteSource, Watch } from '../../io/bytes';
import { watched } from '../../io/watched';
import { Problem } from '../../model/problem';
import type { Cell } from '../table/table-reader';
import { XmlReader, type XmlNode } from '../../io/xml';
import { entrySource, type ZipEntry } from '../zip/read';
import { MOST_COLUMNS } from './read-xlsx';

/** Rows that are said to be repeated more often than this are the empty rest of a sheet. */
const MOST_REPEATED = 100_000;

/**
 * The rows of an OpenDocument spreadsheet, sheet after sheet as they come.
 * Source: "Open Document Format for Office Applications" 1.3, part 3, sections 9.1 to 9.4 and 19.385 (types of values).
 */
export async function* odsRows(
  source: ByteSource,
  entries: readonly ZipEntry[],
  watch: Watch,
): AsyncGenerator<{ sheet: string; row: Cell[]; line: number }[]> {
  const entry = entries.find((e) => e.name === 'content.xml');
  if (!entry)
    throw new Problem('ods-not', `${source.name} is an archive, but no spreadsheet: content.xml is not in it.`, { file: source.name });
  let out: { sheet: string; row: Cell[]; line: number }[] = [];
  let sheet = '',
    line = 0;
  const xml = new XmlReader(
    source.name,
    {
      open(name, attributes) {
        if (name === 'table') [sheet, line] = [attributes['table:name'] ?? 'sheet', 0];
        // what changed in the past, and what is remembered of other files, are no rows of a sheet
        return name === 'table-row' || name === 'tracked-changes' || name === 'table-source';
      },
      close() {},
      text() {},
      whole(node) {
        if (node.name !== 'table-row') return;
        const times = Number(node.attributes['table:number-rows-repeated'] ?? 1);
        const row = cellsOf(node, source.name, line + 1);
        if (row.some((c) => c !== null && c !== '')) {
          if (times > MOST_REPEATED)
            throw new Problem(
              'ods-repeated',
              `${source.name}, row ${line + 1} of ${sheet}: a row with values is said to stand ${times} times, which is not read.`,
              { file: source.name, line: line + 1 },
            );
          for (let k = 0; k < times; k++) out.push({ sheet, row, line: line + 1 + k });
        }
        line += times;
      },
    },
    true,
  );
  for await (const chunk of watched(entrySource(source, entry), watch)) {
    xml.push(chunk);
    yield out;
    out = [];
  }
  xml.end();
  yield out;
}

function cellsOf(node: XmlNode, file: string, line: number): Cell[] {
  const row: Cell[] = [];
  for (const c of node.children) {
    if (c.name !== 'table-cell' && c.name !== 'covered-table-cell') continue;
    const cell = c.name === 'covered-table-cell' ? null : cellOf(c);
    const times = Number(c.attributes['table:number-columns-repeated'] ?? 1);
    // the empty rest of a row
    if (cell === null && c === node.children.at(-1)) break;
    if (row.length + times > MOST_COLUMNS)
      throw new Problem('ods-column', `${file}, row ${line}: it has more than ${MOST_COLUMNS} cells, which is not read.`, { file, line });
    for (let k = 0; k < times; k++) row.push(cell);
  }
  return row;
}

function cellOf({ attributes, children }: XmlNode): Cell {
  const value = attributes['office:value'];
  switch (attributes['office:value-type']) {
    case undefined:
      return null;
    case 'float':
    case 'percentage':
    case 'currency':
      return value === undefined ? null : Number(value);
    case 'boolean':
      return attributes['office:boolean-value'] === 'true';
    case 'date':
      return { text: (attributes['office:date-value'] ?? '').replace(/T00:00:00(\.0+)?$/, '') };
    case 'time':
      return { text: attributes['office:time-value'] ?? '' };
    default: {
      const text =
        attributes['office:string-value'] ??
        children
          .filter((c) => c.name === 'p')
          .map(paragraph)
          .join('\n');
      return text === '' ? null : { text };
    }
  }
}

/** The text of a paragraph with what stands for blanks in it. Source: section 6.1. */
function paragraph(node: XmlNode): string {
  return (
    node.pieces
      ?.map((piece) =>
        typeof piece === 'string'
          ? piece
          : piece.name === 's'
            ? ' '.repeat(Number(piece.attributes['text:c'] ?? 1))
            : piece.name === 'tab'
              ? '\t'
              : piece.name === 'line-break'
                ? '\n'
                : piece.name === 'annotation'
                  ? ''
                  : paragraph(piece),
      )
      .join('') ?? node.text
  );
}
