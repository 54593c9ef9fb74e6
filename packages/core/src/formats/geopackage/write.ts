import type { Value } from '../../model/value';
import { lookupCrs } from '../../crs/registry/registry';
import { type Bounds, emptyBounds, featureBounds, isEmpty, join } from '../../geometry/bounds';
import { type Database, quotedName, quotedText, type SqlValue } from '../../io/database';
import type { FolderSink } from '../../io/bytes';
import { type FeatureBatch, hasHeight, hasMeasure } from '../../model/batch';
import type { FieldType } from '../../model/field';
import type { DeliverableWriter, TargetField, TargetSet, WriteContext } from '../format';
import { ByteWriter, writeWkb } from '../wkb';
import { putHeader } from './geometry-header';
import { hasSheet, sldOf } from '../styles';
import { createContainer, openContainer, GEOMETRY, indexName, indexTriggers, KEY, putStyles, srsIdOf } from './schema';

/** Types of columns. Source: OGC 12-128r18, table 1. */
const COLUMN_TYPES: Record<FieldType, string> = {
  text: 'TEXT',
  integer: 'INTEGER',
  decimal: 'DOUBLE',
  boolean: 'BOOLEAN',
  date: 'DATE',
  time: 'TEXT',
  datetime: 'DATETIME',
  bytes: 'BLOB',
};

/** The type of a column, with the length that the source declares of a text. */
const columnType = (f: TargetField): string =>
  f.type === 'text' && f.declared?.width !== undefined ? `TEXT(${Math.max(f.declared.width, f.width)})` : COLUMN_TYPES[f.type];

const GEOMETRY_TYPES = { point: 'POINT', text: 'POINT', line: 'LINESTRING', polygon: 'POLYGON', mixed: 'GEOMETRY', none: '' } as const;

/** The type that all geometries of a set have. */
const geometryType = (set: TargetSet): string => (set.several && set.kind !== 'mixed' ? 'MULTI' : '') + GEOMETRY_TYPES[set.kind];

/** Writes one container with a table a set. */
export async function createGeoPackage(
  folder: FolderSink,
  sets: readonly TargetSet[],
  { crs, stem, libraries, base }: WriteContext,
): Promise<DeliverableWriter> {
  const db = await folder.database(`${stem}.gpkg`, base);
  if (base)
    openContainer(
      db,
      crs,
      base.name,
      sets.map((s) => s.name),
    );
  else createContainer(db, crs, lookupCrs('EPSG:4326')!);
  putStyles(
    db,
    sets.filter(hasSheet).map((set) => ({ table: set.name, sld: sldOf(set, { crs, libraries }) })),
  );
  db.execute('BEGIN');
  const tables = sets.map((set) => new TableWriter(db, set, srsIdOf(crs)));
  return {
    append(set, batch, rows, n) {
      tables[set]!.append(batch, rows, n);
      return Promise.resolve();
    },
    close() {
      for (const table of tables) table.close();
      db.execute('COMMIT');
      db.close();
      return Promise.resolve();
    },
  };
}

class TableWriter {
  private readonly insert: { run(...values: SqlValue[]): void };
  private readonly insertBounds: { run(...values: SqlValue[]): void } | null;
  private readonly bytes = new ByteWriter();
  private readonly extent: Bounds = emptyBounds();
  private records = 0;

  constructor(
    private readonly db: Database,
    private readonly set: TargetSet,
    private readonly srs: number,
  ) {
    const { name, fields } = set;
    const type = geometryType(set);
    const columns = fields.map((f) => `, ${quotedName(f.to)} ${columnType(f)}`).join('');
    // Source: OGC 12-128r18, section 2.4, for tables without geometries
    if (set.kind === 'none')
      db.execute(`CREATE TABLE ${quotedName(name)} (${quotedName(KEY)} INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL${columns});
      INSERT INTO gpkg_contents (table_name, data_type, identifier) VALUES (${quotedText(name)}, 'attributes', ${quotedText(name)});`);
    else
      db.execute(`CREATE TABLE ${quotedName(name)} (${quotedName(KEY)} INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL, ${quotedName(GEOMETRY)} ${type}${columns});
      INSERT INTO gpkg_contents (table_name, data_type, identifier, srs_id) VALUES (${quotedText(name)}, 'features', ${quotedText(name)}, ${srs});
      INSERT INTO gpkg_geometry_columns VALUES (${quotedText(name)}, ${quotedText(GEOMETRY)}, ${quotedText(type)}, ${srs}, ${set.heights ? 2 : 0}, ${set.measures ? 2 : 0});
      CREATE VIRTUAL TABLE ${quotedName(indexName(name))} USING rtree(id, minx, maxx, miny, maxy);`);
    this.insert = db.statement(
      `INSERT INTO ${quotedName(name)} VALUES (?${set.kind === 'none' ? '' : ', ?'}${', ?'.repeat(fields.length)})`,
    );
    this.insertBounds = set.kind === 'none' ? null : db.statement(`INSERT INTO ${quotedName(indexName(name))} VALUES (?, ?, ?, ?, ?)`);
  }

  append(batch: FeatureBatch, rows: Uint32Array, n: number): void {
    const columns = this.set.fields.map((f) => batch.columns.get(f.from));
    const box = emptyBounds();
    for (let k = 0; k < n; k++) {
      const i = rows[k]!;
      const id = ++this.records;
      const values = columns.map((c) => stored(c?.[i] ?? null));
      if (!this.insertBounds) {
        this.insert.run(id, ...values);
        continue;
      }
      featureBounds(batch, i, box);
      this.insert.run(id, this.geometry(batch, i, box), ...values);
      if (isEmpty(box)) continue;
      join(this.extent, box);
      this.insertBounds.run(id, box[0], box[2], box[1], box[3]);
    }
  }

  private geometry(batch: FeatureBatch, i: number, box: Bounds): Uint8Array {
    const { bytes, set } = this;
    bytes.at = 0;
    putHeader(bytes, this.srs, set.kind === 'point' || set.kind === 'text' ? null : box);
    writeWkb(bytes, batch, i, set.heights && hasHeight(batch, i), set.measures && hasMeasure(batch, i), set.several);
    return bytes.bytes.slice(0, bytes.at);
  }

  close(): void {
    const { name } = this.set;
    if (!isEmpty(this.extent))
      this.db
        .statement('UPDATE gpkg_contents SET min_x = ?, min_y = ?, max_x = ?, max_y = ? WHERE table_name = ?')
        .run(...this.extent, name);
    if (this.insertBounds) this.db.execute(indexTriggers(name));
  }
}

const stored = (value: Value): SqlValue => (typeof value === 'boolean' ? (value ? 1 : 0) : value);
