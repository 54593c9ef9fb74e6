import { damagedLine, damagedText, textDecoding } from '../../io/text-decoding';
import type { ByteSource, Watch } from '../../io/bytes';
import { watched } from '../../io/watched';
import type { FeatureBatch } from '../../model/batch';
import type { Findings } from '../../model/finding';
import { Problem } from '../../model/problem';
import type { OpenSource, SourceFacts } from '../format';
import { prjBeside } from '../prj';
import type { Reading } from '../../model/reading';
import { type KnownTable, TableReader } from '../table/table-reader';
import { unguarded } from './formula-guard';
import { isTable, RowCutter, separatorOf } from './rows';

/** What is known of a file that was written here. */
export type KnownCsv = KnownTable & { separator: string; guards: boolean };

/** Bytes of the beginning that are looked at for the separator and the code page. */
const HEAD = 1 << 16;

/** Opens a table of text. @param known where it was written here */
export async function openCsv(source: ByteSource, reading?: Reading, known?: KnownCsv): Promise<OpenSource> {
  if (!known) await refuseProse(source);
  const prj = await prjBeside(source);
  let table: SourceFacts['table'];
  return {
    facts: (): SourceFacts => ({ crs: prj.crs, crsText: prj.text, unit: null, ...(table ? { table } : {}), version: null }),
    async *read(findings, watch) {
      if (prj.error !== null) findings.add({ code: 'csv-prj-unread', severity: 'caution', message: prj.error, count: 1 });
      yield* readRows(source, findings, watch, reading, known, (t) => (table = t));
    },
  };
}

/** @throws Problem for a .txt of prose: only its name says that it might be a table */
export async function refuseProse(source: ByteSource): Promise<void> {
  if (!/\.txt$/i.test(source.name)) return;
  const head = await source.read(0, HEAD);
  if (head.length > 0 && !isTable(textDecoding(encodingOf(head)).decode(head)))
    throw new Problem(
      'csv-no-table',
      `${source.name} is a text without columns, so there is no table in it. A table has a row a record, with commas, semicolons, tabs or bars between its values.`,
      { file: source.name },
    );
}

async function* readRows(
  source: ByteSource,
  findings: Findings,
  watch: Watch,
  reading: Reading | undefined,
  known: KnownCsv | undefined,
  state: (table: SourceFacts['table']) => void,
): AsyncGenerator<FeatureBatch> {
  const head = await source.read(0, HEAD);
  if (head.length === 0) throw new Problem('file-empty', `${source.name} is empty.`, { file: source.name, line: 1 });
  const encoding = reading?.codePage ?? encodingOf(head);
  const separator = known?.separator ?? separatorOf(textDecoding(encoding).decode(head));
  const reader = new TableReader({ file: source.name, layer: source.name.replace(/\.[^.]+$/, ''), findings, separator, known, reading });
  const guards = known?.guards ?? true;
  let guarded = 0;
  const cutter = new RowCutter(source.name, separator, (row, line) => {
    const plain = guards ? row.map(unguarded) : row;
    if (!known) for (let k = 0; k < row.length; k++) if (plain[k] !== row[k]) guarded++;
    reader.push(plain, line);
  });
  const decoder = textDecoding(encoding);
  let damagedAt: number | null = null;
  for await (const chunk of watched(source, watch)) {
    const text = decoder.decode(chunk, { stream: true });
    if (decoder.damaged > 0) damagedAt ??= damagedLine(text, cutter.line);
    cutter.push(text);
    if (reader.full) yield reader.builder.take();
  }
  cutter.push(decoder.decode());
  cutter.end();
  yield* reader.end();
  if (damagedAt !== null) findings.add(damagedText(source.name, decoder.damaged, `in line ${damagedAt}`));
  if (guarded > 0)
    findings.add({
      code: 'csv-formula-guarded',
      severity: 'info',
      message: 'A text has an apostrophe before it that keeps a spreadsheet from taking it for a formula; it is read without.',
      count: guarded,
      location: source.name,
    });
  state(reader.told);
}

/** Texts that are no UTF-8 are taken for the western code page. Common practice, no source. */
function encodingOf(head: Uint8Array): string {
  if (head[0] === 0xff && head[1] === 0xfe) return 'utf-16le';
  if (head[0] === 0xfe && head[1] === 0xff) return 'utf-16be';
  try {
    // the last character may be cut
    new TextDecoder('utf-8', { fatal: true }).decode(head, { stream: true });
    return 'utf-8';
  } catch {
    return 'windows-1252';
  }
}
