import { parseInteger, type Value } from '../../model/value';
import { type FeatureBatch, POINT, NO_GEOMETRY } from '../../model/batch';
import { BatchBuilder } from '../../model/batch-builder';
import type { FieldType } from '../../model/field';
import type { Findings } from '../../model/finding';
import { Problem } from '../../model/problem';
import type { SourceFacts } from '../format';
import type { Reading } from '../../model/reading';
import { tellClosedRings } from '../closed-rings';
import { NotWkt, readWkt } from '../wkt';
import { coordinateOf, hasComma, numberOf, placeColumns, type PlaceColumns, uniqueNames } from './columns';
import { Corners } from './corners';

/** A value as it stands in a table: a text that may be anything, or one whose type the table says. */
export type Cell = string | number | boolean | null | { text: string };

/** What is known of a table beforehand, because it was written here. */
export interface KnownTable {
  places: PlaceColumns;
  comma: boolean;
  /** Types of the columns, by name. */
  types: ReadonlyMap<string, FieldType>;
}

/** A table as it is to be read. */
export interface TableFile {
  file: string;
  layer: string;
  findings: Findings;
  /** What lies between values where that may also be a decimal mark; "" elsewhere. */
  separator: string;
  known?: KnownTable | undefined;
  reading?: Reading | undefined;
  /** Whether it is one of several tables of the file, to which what is chosen for all may not apply. */
  oneOfSeveral?: boolean;
}

/** Rows from which columns are told. */
const LOOKED_AT = 200;

const textOf = (cell: Cell | undefined): string =>
  cell === null || cell === undefined ? '' : typeof cell === 'object' ? cell.text : String(cell);

/** Makes records of the rows of a table. The first rows are kept until it is told from them where the records are. */
export class TableReader {
  readonly builder: BatchBuilder;
  private waiting: { row: readonly Cell[]; line: number }[] | null = [];
  private names: string[] = [];
  private places: PlaceColumns = { kind: 'none' };
  private columns: { name: string; column: number; type: FieldType | undefined }[] = [];
  private corners: Corners | null = null;
  private comma = false;
  private unplaced = 0;
  /** Rows whose coordinates are no numbers, and what stands in the first of them. */
  private readonly bad = { count: 0, first: '' };
  private long = 0;

  constructor(private readonly table: TableFile) {
    this.builder = new BatchBuilder(table.layer);
  }

  /** Its columns, and those that say where the records are; once its first rows are known. */
  get told(): NonNullable<SourceFacts['table']> {
    const { names, places } = this;
    return {
      columns: names,
      places:
        places.kind === 'xy'
          ? { kind: 'xy', x: names[places.x]!, y: names[places.y]!, ...(places.z === null ? {} : { z: names[places.z]! }) }
          : places.kind === 'wkt'
            ? { kind: 'wkt', column: names[places.column]! }
            : { kind: 'none' },
    };
  }

  get full(): boolean {
    return this.builder.full;
  }

  /** @param line where it stands in the file */
  push(row: readonly Cell[], line: number): void {
    if (!this.waiting) return this.take(row, line);
    this.waiting.push({ row, line });
    if (this.waiting.length > LOOKED_AT) this.settle();
  }

  /** The last records. @throws Problem where nothing was in the table */
  *end(): Generator<FeatureBatch> {
    if (this.waiting) this.settle();
    const { findings, layer } = this.table;
    if (this.corners) {
      for (const _ of this.corners.put(this.builder, findings)) if (this.full) yield this.builder.take();
    }
    if (this.unplaced > 0)
      findings.add({
        code: 'table-unplaced',
        severity: 'caution',
        message: 'A row has no coordinates: it is a record without a place.',
        count: this.unplaced,
        location: layer,
      });
    if (this.bad.count > 0)
      findings.add({
        code: 'table-bad-coordinate',
        severity: 'caution',
        message: `A coordinate is no number, so that its row is a record without a place. The first is ${this.bad.first}.`,
        count: this.bad.count,
        location: layer,
      });
    if (this.long > 0)
      findings.add({
        code: 'table-long-row',
        severity: 'caution',
        message: 'A row has more values than the table has columns; those beyond stay behind.',
        count: this.long,
        location: layer,
      });
    if (this.builder.count > 0) yield this.builder.take();
    tellClosedRings(this.builder, findings);
  }

  private settle(): void {
    const rows = this.waiting!;
    this.waiting = null;
    const { known, findings, layer, separator } = this.table;
    if (rows.length === 0) return;
    // a row may have holes
    const head = Array.from(rows[0]!.row, textOf);
    // a table whose first row is made of numbers has no names
    const bare =
      !known &&
      head.length > 0 &&
      head.every((c) => c.trim() !== '' && Number.isFinite(coordinateOf(c, separator !== ',' && /^[^.]*,[^.]*$/.test(c))));
    this.names = uniqueNames(bare ? head.map(() => '') : head);
    const reading = this.applies() ? this.table.reading : undefined;
    const values = (bare ? rows : rows.slice(1)).map((r) => Array.from(r.row, textOf));
    this.comma = known?.comma ?? hasComma(values, separator);
    this.places = known?.places ?? (reading?.places ? this.chosen(reading.places) : placeColumns(this.names, values, this.comma));
    const { places, names } = this;
    if (bare)
      findings.add({
        code: 'table-no-names',
        severity: 'info',
        message: 'Its first row is made of numbers: it is taken for a record, and the columns are called column_1, column_2 ...',
        count: 1,
        location: layer,
      });
    if (places.kind === 'none' && !known && !reading?.places)
      findings.add({
        code: 'table-no-places',
        severity: 'info',
        message: `None of its columns tells where the records are (${names.slice(0, 8).join(', ')}${names.length > 8 ? ', ...' : ''}): they are records without a place. Choose its columns in Gather, if some do.`,
        count: 1,
        location: layer,
      });
    this.columns = names
      .map((name, column) => ({ name, column, type: known?.types.get(name) }))
      .filter(({ column }) => places.kind !== 'wkt' || column !== places.column)
      .filter(({ name }) => !known || known.types.has(name));
    if (reading?.make && reading.make !== 'points' && places.kind === 'xy') {
      this.corners = new Corners({
        file: this.table.file,
        layer,
        make: reading.make,
        group: reading.group ?? null,
        order: reading.order ?? null,
      });
      this.columns = this.columns.filter(({ column }) => column !== places.x && column !== places.y && column !== places.z);
      for (const name of [reading.group, reading.order]) if (name !== undefined) this.column(name);
    }
    for (const { row, line } of bare ? rows : rows.slice(1)) this.take(row, line);
  }

  /** Whether what was chosen names columns of this table. */
  private applies(): boolean {
    const { reading, oneOfSeveral } = this.table;
    if (!oneOfSeveral || !reading?.places || reading.places.kind === 'none') return true;
    const { places } = reading;
    return (places.kind === 'wkt' ? [places.column] : [places.x, places.y]).every((name) => this.names.includes(name));
  }

  private chosen(places: NonNullable<Reading['places']>): PlaceColumns {
    if (places.kind === 'none') return places;
    if (places.kind === 'wkt') return { kind: 'wkt', column: this.column(places.column) };
    return { kind: 'xy', x: this.column(places.x), y: this.column(places.y), z: places.z === undefined ? null : this.column(places.z) };
  }

  private column(name: string): number {
    const at = this.names.indexOf(name);
    if (at >= 0) return at;
    throw new Problem(
      'table-no-column',
      `${this.table.file} has no column ${name} (its columns are ${this.names.slice(0, 30).join(', ')}). Choose its columns again.`,
      { file: this.table.file, line: 1 },
    );
  }

  private take(row: readonly Cell[], line: number): void {
    const { builder, places, corners } = this;
    if (row.length > this.names.length) this.long++;
    let what: { kind: number; type: string } | null = null;
    if (places.kind === 'wkt') {
      const text = textOf(row[places.column]);
      try {
        what = text.trim() === '' ? null : readWkt(text, builder);
      } catch (error) {
        if (!(error instanceof NotWkt)) throw error;
        throw new Problem(
          'csv-geometry',
          `${this.table.file}, line ${line}: the geometry cannot be read: ${error.message}. Mend the row, or export the table again.`,
          { file: this.table.file, line },
        );
      }
    } else if (places.kind === 'xy') {
      const x = this.coordinate(row[places.x]),
        y = this.coordinate(row[places.y]);
      const z = places.z === null ? NaN : this.coordinate(row[places.z]);
      if (Number.isFinite(x) && Number.isFinite(y)) {
        if (corners)
          return corners.add(
            [x, y, z],
            this.columns.map(({ name, column, type }) => [name, this.value(row[column], type)]),
            line,
          );
        builder.vertex(x, y, z);
        builder.endPart();
        what = { kind: POINT, type: 'row' };
      }
    }
    if (!what) {
      if (places.kind === 'xy' && this.isBad(row, line)) this.bad.count++;
      else if (places.kind !== 'none') this.unplaced++;
      what = { kind: NO_GEOMETRY, type: 'row' };
    }
    for (const { name, column, type } of this.columns) builder.set(name, this.value(row[column], type));
    builder.endFeature(what.kind, what.type, line);
  }

  /** Whether something stands where a coordinate should, and is none. */
  private isBad(row: readonly Cell[], line: number): boolean {
    const { places } = this;
    if (places.kind !== 'xy') return false;
    const column = [places.x, places.y].find((c) => textOf(row[c]).trim() !== '' && !Number.isFinite(this.coordinate(row[c])));
    if (column === undefined) return false;
    if (this.bad.first === '')
      this.bad.first = `"${textOf(row[column]).trim().slice(0, 40)}" in line ${line}, column ${this.names[column]}`;
    return true;
  }

  private coordinate(cell: Cell | undefined): number {
    return typeof cell === 'number' ? cell : coordinateOf(textOf(cell), this.comma);
  }

  private value(cell: Cell | undefined, type: FieldType | undefined): Value {
    if (cell === null || cell === undefined || cell === '') return null;
    if (typeof cell === 'object') return cell.text;
    if (typeof cell !== 'string') return type === 'text' ? String(cell) : cell;
    if (type === 'text' || type === 'date') return cell;
    if (type === 'boolean') return cell === 'true';
    const trimmed = cell.trim();
    // what begins with a nought or a plus is a mark, such as a number of a telephone or of a parcel
    if (type === undefined && /^(\+|-?0\d)/.test(trimmed)) return cell;
    // whole numbers are exact, whatever their length
    const whole = trimmed.length > 15 ? parseInteger(trimmed) : null;
    if (whole !== null) return whole;
    const number = numberOf(trimmed, this.comma);
    if (number === null) return type === undefined && /^(true|false)$/i.test(trimmed) ? trimmed.toLowerCase() === 'true' : cell;
    // more digits than a number here can hold
    return type === undefined && trimmed.replace(/\D/g, '').length > 15 ? cell : number;
  }
}
