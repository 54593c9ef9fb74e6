import type { ByteSource, Watch } from '../../io/bytes';
import { watched } from '../../io/watched';
import { type FeatureBatch, POINT, ROW, type Value } from '../../model/batch';
import { BATCH_RECORDS, BATCH_VERTICES, BatchBuilder } from '../../model/batch-builder';
import type { FieldType } from '../../model/field';
import type { Findings } from '../../model/finding';
import { Problem } from '../../model/problem';
import type { OpenSource, SourceFacts } from '../format';
import { prjBeside } from '../prj';
import { NotWkt, readWkt } from '../wkt';
import { coordinateOf, hasComma, numberOf, placeColumns, type PlaceColumns } from './columns';
import { RowCutter, separatorOf } from './rows';

/** What is known of a table beforehand, because it was written here. */
export interface KnownTable {
  places: PlaceColumns;
  separator: string;
  comma: boolean;
  /** Types of the columns, by name. */
  types: ReadonlyMap<string, FieldType>;
}

/** Rows from which columns are told. */
const LOOKED_AT = 200;
/** Bytes of the beginning that are looked at. */
const HEAD = 1 << 16;

/** Opens a table of text. @param known where it was written here */
export async function openCsv(source: ByteSource, known?: KnownTable): Promise<OpenSource> {
  const prj = await prjBeside(source);
  return {
    facts: (): SourceFacts => ({ crs: prj.crs, crsText: prj.text, unit: null, version: null }),
    async *read(findings, watch) {
      if (prj.error !== null) findings.add({ code: 'csv-prj-unread', severity: 'caution', message: prj.error, count: 1 });
      yield* readRows(source, findings, watch, known);
    },
  };
}

async function* readRows(source: ByteSource, findings: Findings, watch: Watch, known: KnownTable | undefined): AsyncGenerator<FeatureBatch> {
  const head = await source.read(0, HEAD);
  if (head.length === 0) throw new Problem('file-empty', `${source.name} is empty.`, { file: source.name, line: 1 });
  const encoding = encodingOf(head);
  const beginning = new TextDecoder(encoding).decode(head);
  const separator = known?.separator ?? separatorOf(beginning);
  const first: string[][] = [];
  const look = new RowCutter(source.name, separator, (row) => first.push(row));
  look.push(beginning);
  if (first.length === 0 || head.length >= source.size) look.end();
  const names = uniqueNames(first[0] ?? []);
  const rows = first.slice(1, LOOKED_AT + 1);
  const comma = known?.comma ?? hasComma(rows, separator);
  const places = known?.places ?? placeColumns(names, rows, comma);
  if (places.kind === 'none' && !known) findings.add({ code: 'csv-no-places', severity: 'info', message: `None of its columns tells where the records are (${names.slice(0, 8).join(', ')}${names.length > 8 ? ', ...' : ''}): they are records without a place. Two columns called x and y, easting and northing, or longitude and latitude, or one with geometries as WKT would place them.`, count: 1 });
  const reader = new TableReader(source.name, findings, names, places, comma, known?.types);
  let header = true;
  const cutter = new RowCutter(source.name, separator, (row, line) => {
    if (header) header = false;
    else reader.take(row, line);
  });
  const decoder = new TextDecoder(encoding);
  for await (const chunk of watched(source, watch)) {
    cutter.push(decoder.decode(chunk, { stream: true }));
    if (reader.full) yield reader.builder.take();
  }
  cutter.push(decoder.decode());
  cutter.end();
  reader.tell();
  if (reader.builder.count > 0) yield reader.builder.take();
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

function uniqueNames(row: readonly string[]): string[] {
  const taken = new Set<string>();
  return row.map((raw, k) => {
    const name = raw.trim() || `column_${k + 1}`;
    let unique = name;
    for (let n = 2; taken.has(unique); n++) unique = `${name}_${n}`;
    taken.add(unique);
    return unique;
  });
}

class TableReader {
  readonly builder: BatchBuilder;
  private readonly columns: { name: string; column: number; type: FieldType | undefined }[];
  private unplaced = 0;
  private long = 0;

  constructor(private readonly file: string, private readonly findings: Findings, names: readonly string[], private readonly places: PlaceColumns, private readonly comma: boolean, types: ReadonlyMap<string, FieldType> | undefined) {
    this.builder = new BatchBuilder(file.replace(/\.[^.]+$/, ''));
    this.columns = names.map((name, column) => ({ name, column, type: types?.get(name) })).filter(({ column }) => places.kind !== 'wkt' || column !== places.column).filter(({ name }) => !types || types.has(name));
    this.width = names.length;
  }

  private readonly width: number;

  get full(): boolean {
    return this.builder.count >= BATCH_RECORDS || this.builder.vertices >= BATCH_VERTICES;
  }

  take(row: readonly string[], line: number): void {
    const { builder, places } = this;
    if (row.length > this.width) this.long++;
    let what: { kind: number; type: string } | null;
    if (places.kind === 'wkt') {
      const text = row[places.column] ?? '';
      try {
        what = text.trim() === '' ? null : readWkt(text, builder);
      } catch (error) {
        if (!(error instanceof NotWkt)) throw error;
        throw new Problem('csv-geometry', `${this.file}, line ${line}: the geometry cannot be read: ${error.message}. Mend the row, or export the table again.`, { file: this.file, line });
      }
    } else if (places.kind === 'none') what = null;
    else {
      const x = coordinateOf(row[places.x] ?? '', this.comma), y = coordinateOf(row[places.y] ?? '', this.comma);
      what = Number.isFinite(x) && Number.isFinite(y) ? { kind: POINT, type: 'row' } : null;
      if (what) {
        builder.vertex(x, y, places.z === null ? NaN : coordinateOf(row[places.z] ?? '', this.comma));
        builder.endPart();
      }
    }
    if (!what) {
      if (places.kind !== 'none') this.unplaced++;
      what = { kind: ROW, type: 'row' };
    }
    for (const { name, column, type } of this.columns) builder.set(name, this.value(row[column] ?? '', type));
    builder.endFeature(what.kind, what.type, line);
  }

  private value(text: string, type: FieldType | undefined): Value {
    if (text === '') return null;
    if (type === 'text' || type === 'date') return text;
    if (type === 'boolean') return text === 'true';
    const trimmed = text.trim();
    // what begins with a nought or a plus is a mark, such as a number of a telephone or of a parcel
    if (type === undefined && /^(\+|-?0\d)/.test(trimmed)) return text;
    const number = numberOf(trimmed, this.comma);
    if (number === null) return type === undefined && /^(true|false)$/i.test(trimmed) ? trimmed.toLowerCase() === 'true' : text;
    // more digits than a number here can hold
    return type === undefined && trimmed.replace(/\D/g, '').length > 15 ? text : number;
  }

  tell(): void {
    if (this.unplaced > 0) this.findings.add({ code: 'csv-unplaced', severity: 'caution', message: 'A row has no coordinates: it is a record without a place.', count: this.unplaced });
    if (this.long > 0) this.findings.add({ code: 'csv-long-row', severity: 'caution', message: 'A row has more values than the table has columns; those beyond stay behind.', count: this.long });
  }
}
