import type { Declarations, FieldDeclaration, FieldType } from '../../model/field';
import { type Value, wholeValue } from '../../model/value';
import { type Crs, isOnEarth } from '../../crs/crs';
import { lengthUnit } from '../../symbology/sizes';
import { sameSystem } from '../../crs/registry/identify';
import { compileTransform, label, type Transform } from '../../crs/transform';
import type { ByteSource, Watch } from '../../io/bytes';
import { type Database, quotedName, type SqlRow, type SqlValue } from '../../io/database';
import { type FeatureBatch, NO_GEOMETRY } from '../../model/batch';
import { BatchBuilder } from '../../model/batch-builder';
import type { Findings } from '../../model/finding';
import { messageOf, Problem } from '../../model/problem';
import { emptyLibrary, type SymbolLibrary, symbolKey } from '../../symbology/library';
import { saysStyle } from '../../symbology/layer-style';
import { looksBy, type ReadSheet, readSld, withLooks } from '../../symbology/sld-read';
import { tellClosedRings } from '../closed-rings';
import type { OpenSource, SourceFacts } from '../format';
import { NotWkb, WkbReader } from '../wkb';
import { plainTables, systemOf } from './container';
import { skipHeader } from './geometry-header';

interface Table {
  name: string;
  /** Null for a table of records without places. */
  geometry: string | null;
  srs: number;
  /** The column that numbers the rows; null where there is none. */
  key: string | null;
  columns: { name: string; type: string }[];
  /** What its rows are read from, as it stands in a statement. */
  relation: string;
  count: number;
}

interface Found {
  crs: Crs | null;
  crsText: string | null;
}

/** Names of a key that say nothing of the record. Common practice, no source. */
const PLAIN_KEYS = new Set(['fid', 'ogc_fid', 'rowid']);

/** Types of columns and what they are here. Source: OGC 12-128r18, table 1. */
const TYPES: Record<string, FieldType> = {
  BOOLEAN: 'boolean',
  TINYINT: 'integer',
  SMALLINT: 'integer',
  MEDIUMINT: 'integer',
  INT: 'integer',
  INTEGER: 'integer',
  FLOAT: 'decimal',
  DOUBLE: 'decimal',
  REAL: 'decimal',
  TEXT: 'text',
  BLOB: 'bytes',
  DATE: 'date',
  DATETIME: 'datetime',
};

/** What a table declares of its columns; of a type that the standard does not know nothing is taken from. */
function declaredBy(columns: Table['columns']): Declarations {
  return new Map(
    columns.flatMap(({ name, type }): [string, FieldDeclaration][] => {
      const [, word, size] = /^([A-Z]+)(?:\((\d+)\))?$/.exec(type) ?? [];
      const known = TYPES[word ?? ''];
      return known ? [[name, { type: known, ...(size === undefined ? {} : { width: Number(size) }) }]] : [];
    }),
  );
}

/** A container that is open. */
interface Opened {
  db: Database;
  /** Tables whose rows stand in the file, and are not reckoned by what it defines for itself. */
  plain: ReadonlySet<string>;
}

function opened(source: ByteSource): Opened {
  const db = databaseOf(source);
  try {
    return { db, plain: plainTables(db) };
  } catch (error) {
    db.close();
    throw broken(source, error);
  }
}

const broken = (source: ByteSource, error: unknown): Problem =>
  new Problem('gpkg-broken', `${source.name} is damaged: ${messageOf(error)}. Ask for it again.`, { file: source.name });

/** Opens the file as a database. @throws Problem */
function databaseOf(source: ByteSource): Database {
  if (!source.database)
    throw new Problem('gpkg-not-here', `${source.name} is an SQLite container, which cannot be opened in this place.`, {
      file: source.name,
    });
  try {
    return source.database();
  } catch (error) {
    throw new Problem('gpkg-broken', `${source.name} cannot be opened as an SQLite database (${messageOf(error)}). Ask for it again.`, {
      file: source.name,
    });
  }
}

/** Opens a container with all that it holds. */
export const openGeoPackage = (source: ByteSource): OpenSource =>
  openTables(
    source,
    undefined,
    () => opened(source),
    ({ db }) => db.close(),
  );

/** Opens some tables of a container, each to be read by itself, over one connection, which `close` ends. */
export function openEachTable(source: ByteSource, names: readonly string[]): { tables: OpenSource[]; close(): void } {
  let shared: Opened | null = null;
  const connect = (): Opened => (shared ??= opened(source));
  return { tables: names.map((name) => openTables(source, name, connect, () => {})), close: () => shared?.db.close() };
}

/** @param only the one table that is wanted; all when absent */
function openTables(source: ByteSource, only: string | undefined, connect: () => Opened, disconnect: (file: Opened) => void): OpenSource {
  let found: Found = { crs: null, crsText: null };
  let library: SymbolLibrary | null = null;
  return {
    facts: (): SourceFacts => ({ ...found, unit: null, version: null }),
    library: () => library,
    async *read(findings, watch) {
      const file = connect();
      try {
        const container = new Container(source, file, findings, only, (f) => (found = f));
        yield* container.read(watch);
        library = container.library;
      } catch (error) {
        if (error instanceof Problem || (error instanceof Error && error.name === 'Cancelled')) throw error;
        throw broken(source, error);
      } finally {
        disconnect(file);
      }
    },
  };
}

class Container {
  private readonly wkb = new WkbReader();
  private readonly db: Database;
  private readonly plain: ReadonlySet<string>;
  private crs: Crs | null = null;
  /** Patterns of lines that its styles draw with. */
  library: SymbolLibrary | null = null;
  /** The first geometry of a table that cannot be read, and why. */
  private readonly firstBroken = new Map<string, string>();
  private readonly transforms = new Map<number, Transform | null>();

  constructor(
    private readonly source: ByteSource,
    { db, plain }: Opened,
    private readonly findings: Findings,
    private readonly only: string | undefined,
    private readonly state: (found: Found) => void,
  ) {
    this.db = db;
    this.plain = plain;
  }

  async *read(watch: Watch): AsyncGenerator<FeatureBatch> {
    const { source } = this;
    const tables = this.tables();
    const total = tables.reduce((n, t) => n + t.count, 0);
    let done = 0;
    // the system of most records is that of the source
    const main = tables.filter((t) => t.geometry !== null).sort((a, b) => b.count - a.count)[0];
    if (main) this.settle(main.srs);
    for (const table of tables) {
      const move = table.geometry === null ? null : this.into(table);
      const sheet = this.styleOf(table);
      for (const plain of this.records(table)) {
        watch.check();
        // one table alone is read back as it stands
        const batch = !sheet ? plain : this.only === undefined ? withLooks(plain, sheet) : { ...plain, symbology: looksBy(plain, sheet) };
        move?.apply(batch.coords, 0, batch.coords.length / 3, 3);
        yield batch;
        done += batch.count;
        watch.progress(Math.round((source.size * done) / Math.max(1, total)), source.size);
        await Promise.resolve();
      }
    }
  }

  /** The tables with geometries, as the container lists them; what else it holds is told. */
  private tables(): Table[] {
    const { db, findings, source } = this;
    if (!this.plain.has('gpkg_contents'))
      throw new Problem('gpkg-not', `${source.name} is an SQLite database, but no GeoPackage: it has no table gpkg_contents.`, {
        file: source.name,
      });
    const tables: Table[] = [];
    const listed =
      this.only === undefined
        ? db.rows('SELECT table_name, data_type FROM gpkg_contents ORDER BY rowid')
        : db.rows('SELECT table_name, data_type FROM gpkg_contents WHERE table_name = ?', this.only);
    for (const { table_name, data_type } of [...listed]) {
      const name = String(table_name);
      const known = [...db.rows("SELECT name FROM sqlite_master WHERE type IN ('table', 'view') AND name = ?", name)];
      if (!this.plain.has(name) && known.length === 0) {
        findings.add({
          code: 'gpkg-table-missing',
          severity: 'caution',
          message: `The container lists the table ${name}, which is not in it.`,
          count: 1,
        });
        continue;
      }
      const attributes = data_type === 'attributes';
      if (data_type !== 'features' && !attributes) {
        findings.add({
          code: 'gpkg-not-features',
          severity: 'caution',
          message: `The table ${name} holds ${data_type === 'tiles' ? 'tiles of an image' : String(data_type)}, which stay behind.`,
          count: this.plain.has(name) ? this.countOf(quotedName(name)) : 1,
          location: name,
        });
        continue;
      }
      const [geometry] =
        !attributes && this.plain.has('gpkg_geometry_columns')
          ? [...db.rows('SELECT column_name, srs_id FROM gpkg_geometry_columns WHERE table_name = ?', name)]
          : [];
      if (!geometry && !attributes) {
        findings.add({
          code: 'gpkg-no-geometry-column',
          severity: 'caution',
          message: `The table ${name} names no column with geometries, and stays behind.`,
          count: 1,
          location: name,
        });
        continue;
      }
      const relation = this.plain.has(name) ? quotedName(name) : (db.settled?.(name) ?? null);
      if (relation === null) {
        findings.add({
          code: 'gpkg-view-endless',
          severity: 'wrong',
          message: `The rows of ${name} are reckoned by the container itself, which failed, or took too long or too much room: it stays behind. Export it as a table.`,
          count: 1,
          location: name,
          left: true,
        });
        continue;
      }
      const columns = [...db.rows(`SELECT name, type, pk FROM pragma_table_xinfo(?)`, name)].map((r) => ({
        name: String(r.name),
        type: String(r.type).toUpperCase(),
        key: r.pk === 1,
      }));
      const key = columns.find((c) => c.key)?.name ?? null;
      tables.push({
        name,
        geometry: geometry ? String(geometry.column_name) : null,
        srs: Number(geometry?.srs_id ?? 0),
        key,
        columns: columns.filter((c) => c.name !== geometry?.column_name && !(c.key && PLAIN_KEYS.has(c.name.toLowerCase()))),
        relation,
        count: this.countOf(relation),
      });
    }
    return tables;
  }

  private countOf(relation: string): number {
    return Number([...this.db.rows(`SELECT count(*) AS n FROM ${relation}`)][0]!.n);
  }

  /** What the styles in the container say of a table. */
  private styleOf({ name: table, srs }: Table): ReadSheet | null {
    const { db, findings } = this;
    if (!['gpkgext_styles', 'gpkgext_stylesheets'].every((name) => this.plain.has(name))) return null;
    const [row] = [
      ...db.rows(
        "SELECT s.stylesheet FROM gpkgext_stylesheets s JOIN gpkgext_styles n ON n.id = s.style_id WHERE n.style = ? AND s.format LIKE '%sld%'",
        table,
      ),
    ];
    if (!row) return null;
    try {
      const sheet = readSld(
        `the style of ${table}`,
        typeof row.stylesheet === 'string' ? row.stylesheet : new TextDecoder().decode(row.stylesheet as Uint8Array),
        this.lengthUnit(srs),
      );
      for (const what of sheet.left)
        findings.add({
          code: 'sld-left',
          severity: 'caution',
          message: `Its style has ${what}, which ${/s$/.test(what) ? 'are' : 'is'} not carried.`,
          count: 1,
          location: table,
        });
      for (const [key, line] of sheet.library.lines) (this.library ??= emptyLibrary()).lines.set(key, line);
      if (saysStyle(sheet.style)) (this.library ??= emptyLibrary()).styles.set(symbolKey(table), sheet.style);
      return sheet;
    } catch (error) {
      if (!(error instanceof Problem)) throw error;
      findings.add({ code: 'gpkg-style-unread', severity: 'caution', message: error.message, count: 1, location: table });
      return null;
    }
  }

  /** Where no system is stated, lengths are taken for metres. */
  private lengthUnit(srs: number): number {
    const { crs } = this.system(srs);
    return crs ? lengthUnit(crs) : 1;
  }

  private settle(srs: number): void {
    const { crs, text } = this.system(srs);
    this.crs = crs;
    this.state({ crs, crsText: text });
  }

  private system(srs: number): { crs: Crs | null; text: string | null } {
    return systemOf(this.db, this.plain, srs, this.findings);
  }

  /** How the records of a table get into the system of the source; null where they are in it. */
  private into(table: Table): Transform | null {
    const known = this.transforms.get(table.srs);
    if (known !== undefined) return known;
    const { crs } = this.system(table.srs);
    let move: Transform | null = null;
    if (crs && this.crs && !sameSystem(crs, this.crs) && isOnEarth(crs) && isOnEarth(this.crs)) {
      move = compileTransform(crs, this.crs);
      this.findings.add({
        code: 'gpkg-second-system',
        severity: 'caution',
        message: `${table.name} is in ${label(crs)}, the container's other records in ${label(this.crs)}: it was carried over${move.path.accuracy_m === null ? '' : `, within ±${Number(move.path.accuracy_m.toPrecision(2))} m`}.`,
        count: table.count,
        location: table.name,
      });
    } else if (this.crs && !(crs && sameSystem(crs, this.crs)))
      this.findings.add({
        code: 'gpkg-second-system',
        severity: 'caution',
        message: `${table.name} ${crs ? `is in ${crs.name}, from which nothing leads there` : 'states no system'}; its numbers are taken for ${label(this.crs)}, as the others of the container.`,
        count: table.count,
        location: table.name,
      });
    this.transforms.set(table.srs, move);
    return move;
  }

  private *records(table: Table): Generator<FeatureBatch> {
    const builder = new BatchBuilder(table.name);
    builder.declare(declaredBy(table.columns));
    let row = 0;
    for (const record of this.db.exactRows(`SELECT * FROM ${table.relation}`)) {
      row++;
      this.record(table, record, row, builder);
      if (builder.full) yield builder.take();
    }
    if (builder.count > 0) yield builder.take();
    tellClosedRings(builder, this.findings);
  }

  private record(table: Table, record: SqlRow, row: number, builder: BatchBuilder): void {
    const blob = table.geometry === null ? null : record[table.geometry];
    const place = table.key !== null && typeof record[table.key] === 'bigint' ? Number(record[table.key]) : row;
    const values = (): void => {
      for (const { name, type: declared } of table.columns) builder.set(name, this.value(record[name] ?? null, declared));
    };
    try {
      const begin = blob instanceof Uint8Array ? skipHeader(blob) : null;
      let pieces = 0;
      if (begin !== null) {
        this.wkb.read(blob as Uint8Array, begin, builder, (kind, type) => {
          pieces++;
          values();
          builder.endFeature(kind, type, place);
        });
      }
      if (pieces === 0) {
        if (table.geometry !== null)
          this.findings.add({
            code: 'gpkg-no-geometry',
            severity: 'info',
            message: 'A record has no geometry: it is a record without a place.',
            count: 1,
            location: table.name,
          });
        values();
        builder.endFeature(NO_GEOMETRY, table.geometry === null ? 'row' : 'Null', place);
      } else if (pieces > 1)
        this.findings.add({
          code: 'gpkg-collection',
          severity: 'info',
          message: 'A collection of geometries is as many records, each with the data of the record.',
          count: 1,
          location: table.name,
        });
    } catch (error) {
      if (!(error instanceof NotWkb)) throw error;
      builder.abandon();
      this.firstBroken.set(table.name, this.firstBroken.get(table.name) ?? `record ${place}: ${error.message}`);
      this.findings.add({
        code: 'gpkg-geometry',
        severity: 'wrong',
        message: `A geometry cannot be read, the first of ${this.firstBroken.get(table.name)}: it is a record without a place. Export it again.`,
        count: 1,
        location: table.name,
      });
      values();
      builder.endFeature(NO_GEOMETRY, 'Null', place);
    }
  }

  private value(value: SqlValue, declared: string): Value {
    if (value === null || typeof value === 'string') return value;
    if (declared === 'BOOLEAN') return Number(value) !== 0;
    if (typeof value === 'number') return value;
    if (typeof value === 'bigint') return wholeValue(value);
    return value;
  }
}
