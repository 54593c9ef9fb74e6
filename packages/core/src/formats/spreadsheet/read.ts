import type { ByteSource, Watch } from '../../io/bytes';
import type { FeatureBatch } from '../../model/batch';
import type { Findings } from '../../model/finding';
import type { OpenSource, SourceFacts } from '../format';
import { prjBeside } from '../prj';
import type { Reading } from '../../model/reading';
import { type KnownTable, TableReader } from '../table/table-reader';
import { zipEntries } from '../zip/read';
import { odsRows } from './read-ods';
import { xlsxSheets } from './read-xlsx';

/** The one sheet that is wanted, and what is known of it, where the file was written here. */
export interface KnownSheet {
  sheet: string;
  table: KnownTable;
}

/** Opens a workbook: each sheet with rows is a layer. */
export async function openSpreadsheet(source: ByteSource, reading?: Reading, known?: KnownSheet): Promise<OpenSource> {
  const prj = await prjBeside(source);
  let table: SourceFacts['table'];
  return {
    facts: (): SourceFacts => ({ crs: prj.crs, crsText: prj.text, unit: null, ...(table ? { table } : {}), version: null }),
    async *read(findings, watch) {
      if (prj.error !== null) findings.add({ code: 'sheet-prj-unread', severity: 'caution', message: prj.error, count: 1 });
      const told: TableReader[] = [];
      yield* readSheets(source, findings, watch, reading, known, told);
      // the columns of all sheets, and the places of the first one that has some
      table = {
        columns: [...new Set(told.flatMap((t) => t.told.columns))],
        places: told.find((t) => t.told.places?.kind !== 'none')?.told.places ?? { kind: 'none' },
      };
    },
  };
}

async function* readSheets(
  source: ByteSource,
  findings: Findings,
  watch: Watch,
  reading: Reading | undefined,
  known: KnownSheet | undefined,
  readers: TableReader[],
): AsyncGenerator<FeatureBatch> {
  const entries = await zipEntries(source);
  const tableOf = (layer: string): TableReader => {
    const reader = new TableReader({ file: source.name, layer, findings, separator: '', known: known?.table, reading, oneOfSeveral: true });
    readers.push(reader);
    return reader;
  };
  if (entries.some((e) => e.name === 'content.xml')) {
    let at = null as { sheet: string; reader: TableReader } | null;
    for await (const rows of odsRows(source, entries, watch)) {
      for (const { sheet, row, line } of rows) {
        if (known && sheet !== known.sheet) continue;
        if (at?.sheet !== sheet) {
          if (at) yield* at.reader.end();
          at = { sheet, reader: tableOf(sheet) };
        }
        at.reader.push(row, line);
        if (at.reader.full) yield at.reader.builder.take();
      }
    }
    if (at) yield* at.reader.end();
    return;
  }
  for (const sheet of await xlsxSheets(source, entries, findings)) {
    if (known && sheet.name !== known.sheet) continue;
    const reader = tableOf(sheet.name);
    for await (const rows of sheet.rows(watch, findings)) {
      for (const { row, line } of rows) {
        reader.push(row, line);
        if (reader.full) yield reader.builder.take();
      }
    }
    yield* reader.end();
  }
}
