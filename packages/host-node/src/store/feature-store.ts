import { attributesFromJson, attributesToJson, type PlainValue, shownValue, type Value } from '@pontrel/core/model/value';
import type { Declarations, FieldDeclaration } from '@pontrel/core/model/field';
import { placedSymbol } from '@pontrel/core/symbology/placed-symbol';
import { deserialize, serialize } from 'node:v8';
import Database from 'better-sqlite3';
import { emptyLibrary, type SymbolLibrary, symbolKey } from '@pontrel/core/symbology/library';
import { type Bounds, emptyBounds, featureBounds, grow } from '@pontrel/core/geometry/bounds';
import { type FeatureBatch, KINDS } from '@pontrel/core/model/batch';
import { BatchBuilder } from '@pontrel/core/model/batch-builder';
import { compileFilter } from '@pontrel/core/filter/evaluate';
import { VALUES_TOLD } from '@pontrel/core/filter/expected';
import { Problem } from '@pontrel/core/model/problem';
import { boundsFromPages, type RecordBounds, writePages } from './bounds-pages';
import schema from './features.sql';
import { fences } from '@pontrel/core/placement/outliers';
import { packGeometry, unpackGeometry } from './geometry-blob';

interface Row {
  id: number;
  layer: string;
  entity: string;
  kind: number;
  place: number;
  geometry: Buffer;
  attributes: string;
}

/** How a list of records is ordered and cut. */
export interface RecordOrder {
  /** A field; the order of the file where there is none. */
  sort: string | null;
  descending: boolean;
  /** CQL2 as text. */
  where: string | null;
}

/** A record without its geometry. */
export interface RecordMark {
  id: number;
  layer: string;
  entity: string;
  kind: number;
  color: string | null;
}

/** A record as the store hands it to whoever shows it. */
export interface StoredRecord {
  id: number;
  layer: string;
  entity: string;
  kind: string;
  place: number;
  vertices: number;
  attributes: Record<string, PlainValue>;
  at: [number, number, number | null];
}

const COLUMNS = `f.id, l.name AS layer, e.name AS entity, f.kind, f.place, f.geometry, f.attributes
  FROM features f JOIN layers l ON l.id = f.layer JOIN entities e ON e.id = f.entity`;

/** Records that a filter looks at together. */
const JUDGED_AT_ONCE = 2000;
/** Records that are looked through for the values of a field. */
const LOOKED_THROUGH = 300_000;

/** The layout of a store that is written now; one of an earlier layout is made anew from its file. */
export const STORE_LAYOUT = 2;

/** What is made when all records are in. */
export const INDEX = 'CREATE INDEX features_by_layer ON features (layer, id)';

/** Writes the records of one source, or of one set of read-back files, with their bounds in an R-tree. */
export class FeatureStoreWriter {
  private readonly db: Database.Database;
  private readonly insert: Database.Statement;
  private readonly insertBounds: Database.Statement;
  private readonly insertBatch: Database.Statement;
  private readonly ids = new Map<string, number>();
  private readonly declared = new Set<string>();
  private next = 1;

  constructor(file: string) {
    this.db = new Database(file);
    // the file is renamed into place when it is complete, so a crash leaves nothing that is ever opened
    this.db.pragma('journal_mode = OFF');
    this.db.pragma('synchronous = OFF');
    this.db.exec(schema);
    this.db.exec('BEGIN');
    this.insert = this.db.prepare(
      'INSERT INTO features (id, layer, entity, kind, place, geometry, attributes) VALUES (?, ?, ?, ?, ?, ?, ?)',
    );
    this.insertBatch = this.db.prepare('INSERT INTO batches (first, count) VALUES (?, ?)');
    this.insertBounds = this.db.prepare('INSERT INTO bounds (id, minx, maxx, miny, maxy, layer) VALUES (?, ?, ?, ?, ?, ?)');
  }

  /** @param layer the layer's name, where it is not the batch's own */
  add(batch: FeatureBatch, layer = batch.layer): void {
    const layerId = this.idOf('layers', layer);
    this.insertBatch.run(this.next, batch.count);
    if (batch.declared && !this.declared.has(layer)) {
      this.declared.add(layer);
      this.db.prepare('INSERT INTO declared (layer, fields) VALUES (?, ?)').run(layerId, JSON.stringify([...batch.declared]));
    }
    const names = [...batch.columns.keys()];
    const columns = [...batch.columns.values()];
    const box: Bounds = emptyBounds();
    for (let i = 0; i < batch.count; i++) {
      // without a prototype, so that a field may be called __proto__
      const attributes = Object.create(null) as Record<string, Value>;
      for (let c = 0; c < names.length; c++) {
        const value = columns[c]![i]!;
        if (value !== null) attributes[names[c]!] = value;
      }
      const id = this.next++;
      this.insert.run(
        id,
        layerId,
        this.idOf('entities', batch.entities[i]!),
        batch.kinds[i],
        batch.locations[i],
        packGeometry(batch, i),
        attributesToJson(attributes),
      );
      featureBounds(batch, i, box);
      if (box[0] <= box[2] && box[1] <= box[3]) this.insertBounds.run(id, box[0], box[2], box[1], box[3], layerId);
    }
  }

  /** Keeps what the records are drawn with, and lets the bounds of placed blocks hold what they draw. To be called after the last record. */
  setLibrary(library: SymbolLibrary): void {
    this.db.prepare('INSERT INTO library (bytes) VALUES (?)').run(serialize(library));
    const drawn = [...library.blocks.values()].filter((b) => b.parts.count > 0);
    if (drawn.length === 0) return;
    const update = this.db.prepare('UPDATE bounds SET minx = ?, maxx = ?, miny = ?, maxy = ? WHERE id = ?');
    const page = this.db.prepare<[number], Row>(`SELECT ${COLUMNS} WHERE f.id > ? AND e.name = 'INSERT' ORDER BY f.id LIMIT 2000`);
    for (let rows = page.all(0); rows.length > 0; rows = page.all(rows.at(-1)!.id)) {
      for (const row of rows) {
        const builder = new BatchBuilder(row.layer);
        put(row, builder);
        const batch = builder.take();
        const symbol = library.blocks.get(symbolKey(String(batch.columns.get('block')?.[0] ?? '')));
        if (!symbol || symbol.parts.count === 0) continue;
        const { coords } = placedSymbol(batch, 0, symbol, library);
        const box: Bounds = [batch.coords[0]!, batch.coords[1]!, batch.coords[0]!, batch.coords[1]!];
        for (let k = 0; k < coords.length; k += 3) grow(box, coords[k]!, coords[k + 1]!);
        update.run(box[0], box[2], box[1], box[3], row.id);
      }
    }
  }

  close(): void {
    this.db.exec(INDEX);
    writePages(this.db);
    this.db.exec('COMMIT');
    this.db.close();
  }

  /** Leaves the file as it is; it is going to be deleted. */
  abandon(): void {
    this.db.close();
  }

  private idOf(table: 'layers' | 'entities', name: string): number {
    const key = `${table}\n${name}`;
    let id = this.ids.get(key);
    if (id === undefined) {
      id = Number(this.db.prepare(`INSERT INTO ${table} (name) VALUES (?)`).run(name).lastInsertRowid);
      this.ids.set(key, id);
    }
    return id;
  }
}

/** Reads what a {@link FeatureStoreWriter} wrote. */
export class FeatureStore {
  private readonly db: Database.Database;
  private kept: SymbolLibrary | null | undefined;

  constructor(file: string) {
    this.db = new Database(file, { readonly: true, fileMustExist: true });
  }

  close(): void {
    this.db.close();
  }

  /** What the records are drawn with; null where their format has no such thing. */
  library(): SymbolLibrary | null {
    if (this.kept === undefined) {
      // stores of the first versions have no such table
      const there = this.db.prepare("SELECT 1 FROM sqlite_master WHERE name = 'library'").get() !== undefined;
      const bytes = there ? this.db.prepare<[], Buffer>('SELECT bytes FROM library').pluck().get() : undefined;
      this.kept = bytes ? { ...emptyLibrary(), ...(deserialize(bytes) as Partial<SymbolLibrary>) } : null;
    }
    return this.kept;
  }

  /** Names of the fields that some record of a layer has. */
  fieldNames(layer: string): string[] {
    return this.db
      .prepare<[string], { key: string }>(
        'SELECT DISTINCT j.key FROM features f JOIN layers l ON l.id = f.layer, json_each(f.attributes) j WHERE l.name = ?',
      )
      .all(layer)
      .map((r) => r.key);
  }

  /** What the source declares of its fields, by layer. */
  private declarations(): ReadonlyMap<string, Declarations> {
    const rows = this.db
      .prepare<[], { name: string; fields: string }>('SELECT l.name, d.fields FROM declared d JOIN layers l ON l.id = d.layer')
      .all();
    return new Map(rows.map(({ name, fields }) => [name, new Map(JSON.parse(fields) as [string, FieldDeclaration][])]));
  }

  /** Every record in the order of reading, in the batches in which the reader gave them. */
  *batches(): Generator<FeatureBatch> {
    const rows = this.db.prepare<[], Row>(`SELECT ${COLUMNS} ORDER BY f.id`).iterate();
    const declared = this.declarations();
    try {
      for (const count of this.db.prepare<[], number>('SELECT count FROM batches ORDER BY first').pluck().all()) {
        let builder: BatchBuilder | undefined;
        for (let n = 0; n < count; n++) {
          const row = rows.next().value as Row;
          builder ??= new BatchBuilder(row.layer);
          put(row, builder);
        }
        if (builder) yield { ...builder.take(), declared: declared.get(builder.layer) };
      }
    } finally {
      rows.return?.();
    }
  }

  /** Bounds of the records that touch `box` (in the store's own coordinates, to single precision). */
  boundsIn(box: Bounds): RecordBounds[] {
    return (
      boundsFromPages(this.db, box) ??
      this.db
        .prepare<number[], RecordBounds>(
          'SELECT id, minx, maxx, miny, maxy, layer FROM bounds WHERE maxx >= ? AND minx <= ? AND maxy >= ? AND miny <= ?',
        )
        .all(box[0], box[2], box[1], box[3])
    );
  }

  /** What is needed of records that are drawn as dots: nothing of their geometry, and of their data the colour. */
  *marks(ids: readonly number[]): Generator<RecordMark> {
    const get = this.db.prepare<[number], RecordMark>(
      "SELECT f.id, l.name AS layer, e.name AS entity, f.kind, f.attributes ->> '$.color' AS color FROM features f JOIN layers l ON l.id = f.layer JOIN entities e ON e.id = f.entity WHERE f.id = ?",
    );
    for (const id of ids) {
      const mark = get.get(id);
      if (mark) yield mark;
    }
  }

  /**
   * Objects far from the rest: farther from the quartiles of all middles than many times what lies between them.
   * The sorting is the database's, on disk where it has to be.
   * @param unit the least spread that counts, in the store's numbers
   */
  outliers(
    unit: number,
    limit: number,
  ): { count: number; records: { id: number; layer: string; entity: string; at: [number, number] }[]; bounds: Bounds | null } {
    const { n } = this.db.prepare<[], { n: number }>('SELECT count(*) AS n FROM bounds').get()!;
    const fence = (low: string, high: string): [number, number] => {
      const at = (share: number): number =>
        this.db
          .prepare<[number], { v: number }>(`SELECT (${low} + ${high}) / 2 AS v FROM bounds ORDER BY v LIMIT 1 OFFSET ?`)
          .get(Math.min(n - 1, Math.floor(share * n)))!.v;
      return fences(at(0.25), at(0.75), unit);
    };
    if (n === 0) return { count: 0, records: [], bounds: null };
    const [x, y] = [fence('minx', 'maxx'), fence('miny', 'maxy')];
    const within = '(b.minx + b.maxx) / 2 BETWEEN ? AND ? AND (b.miny + b.maxy) / 2 BETWEEN ? AND ?';
    const edges = [...x, ...y];
    const rest = this.db
      .prepare<number[], { n: number; minx: number; miny: number; maxx: number; maxy: number }>(
        `SELECT count(*) AS n, min(minx) AS minx, min(miny) AS miny, max(maxx) AS maxx, max(maxy) AS maxy FROM bounds b WHERE ${within}`,
      )
      .get(...edges)!;
    const rows =
      rest.n === n
        ? []
        : this.db
            .prepare<number[], { id: number; layer: string; entity: string; x: number; y: number }>(
              `SELECT f.id, l.name AS layer, e.name AS entity, (b.minx + b.maxx) / 2 AS x, (b.miny + b.maxy) / 2 AS y
       FROM bounds b JOIN features f ON f.id = b.id JOIN layers l ON l.id = f.layer JOIN entities e ON e.id = f.entity WHERE NOT (${within}) ORDER BY f.id LIMIT ${limit}`,
            )
            .all(...edges);
    return {
      count: n - rest.n,
      records: rows.map((r) => ({ id: r.id, layer: r.layer, entity: r.entity, at: [r.x, r.y] })),
      bounds: rest.n > 0 ? [rest.minx, rest.miny, rest.maxx, rest.maxy] : null,
    };
  }

  /** A batch of the named records of one layer each; ids that are not there are passed over. */
  *byIds(ids: readonly number[]): Generator<{ batch: FeatureBatch; ids: number[] }> {
    const get = this.db.prepare<[number], Row>(`SELECT ${COLUMNS} WHERE f.id = ?`);
    const byLayer = new Map<string, { builder: BatchBuilder; ids: number[] }>();
    for (const id of ids) {
      const row = get.get(id);
      if (!row) continue;
      let entry = byLayer.get(row.layer);
      if (!entry) byLayer.set(row.layer, (entry = { builder: new BatchBuilder(row.layer), ids: [] }));
      put(row, entry.builder);
      entry.ids.push(id);
    }
    for (const { builder, ids: own } of byLayer.values()) yield { batch: builder.take(), ids: own };
  }

  /** Ids of one layer's records, evenly picked when there are more than `most`. */
  sampleIds(layer: string, most: number): number[] {
    // an odd step, so that what alternates in a drawing is not passed over
    const every = Math.ceil(this.count(layer) / most) | 1;
    return this.db
      .prepare<[string, number], number>(
        `SELECT id FROM (SELECT f.id AS id, row_number() OVER (ORDER BY f.id) AS k FROM features f JOIN layers l ON l.id = f.layer WHERE l.name = ?) WHERE k % ? = 0`,
      )
      .pluck()
      .all(layer, every);
  }

  /** Bounds of all records; null when none has geometry. */
  extent(): Bounds | null {
    const { minx, miny, maxx, maxy } = this.db
      .prepare<[], Record<'minx' | 'miny' | 'maxx' | 'maxy', number | null>>(
        'SELECT min(minx) AS minx, min(miny) AS miny, max(maxx) AS maxx, max(maxy) AS maxy FROM bounds',
      )
      .get()!;
    return minx === null ? null : [minx, miny!, maxx!, maxy!];
  }

  layerNames(): string[] {
    return this.db.prepare<[], string>('SELECT name FROM layers ORDER BY id').pluck().all();
  }

  record(id: number): StoredRecord | null {
    const row = this.db.prepare<[number], Row>(`SELECT ${COLUMNS} WHERE f.id = ?`).get(id);
    return row ? stored(row) : null;
  }

  page(layer: string, offset: number, limit: number): { total: number; records: StoredRecord[] } {
    const rows = this.db
      .prepare<[string, number, number], Row>(`SELECT ${COLUMNS} WHERE l.name = ? ORDER BY f.id LIMIT ? OFFSET ?`)
      .all(layer, limit, offset);
    return { total: this.count(layer), records: rows.map(stored) };
  }

  /**
   * Ids of a layer's records that a filter takes, by the values of a field; those without a value come last.
   * @param inFrame carries records into the frame, for filters that ask where they lie; null where their source has no place
   */
  list(layer: string, { sort, descending, where }: RecordOrder, inFrame: ((batch: FeatureBatch) => FeatureBatch) | null): Uint32Array {
    const taken = where === null ? null : this.takenBy(layer, where, inFrame);
    if (taken && sort === null) return Uint32Array.from(taken);
    const path = jsonPath(sort ?? '');
    const order = sort === null ? '' : `f.attributes ->> @path IS NULL, f.attributes ->> @path ${descending ? 'DESC' : ''}, `;
    const ids = this.db
      .prepare<Record<string, string>, number>(
        `SELECT f.id FROM features f WHERE f.layer = (SELECT id FROM layers WHERE name = @layer) ORDER BY ${order}f.id`,
      )
      .pluck()
      .all({ layer, ...(sort === null ? {} : { path }) });
    if (!taken) return Uint32Array.from(ids);
    const known = new Set(taken);
    return Uint32Array.from(ids.filter((id) => known.has(id)));
  }

  /** Ids of a layer's records that a filter takes, in the order of reading. @throws Problem for a filter that cannot be read */
  private takenBy(layer: string, where: string, inFrame: ((batch: FeatureBatch) => FeatureBatch) | null): number[] {
    const filter = compileFilter(where, { inFrame });
    if (typeof filter === 'string') throw new Problem('filter', filter);
    const out: number[] = [];
    const builder = new BatchBuilder(layer);
    let ids: number[] = [];
    const judge = (): void => {
      const takes = filter(builder.take());
      ids.forEach((id, i) => {
        if (takes(i)) out.push(id);
      });
      ids = [];
    };
    for (const row of this.db.prepare<[string], Row>(`SELECT ${COLUMNS} WHERE l.name = ? ORDER BY f.id`).iterate(layer)) {
      put(row, builder);
      ids.push(row.id);
      if (ids.length === JUDGED_AT_ONCE) judge();
    }
    judge();
    return out;
  }

  /** Different values of a field of a layer, the most frequent first, of the first records; only those that begin with a text, without regard to case. */
  values(layer: string, field: string, begin: string): { value: PlainValue; count: number }[] {
    const path = jsonPath(field);
    const rows = this.db
      .prepare<Record<string, string | number>, { value: string | number; type: string; count: number }>(
        `SELECT value, type, count(*) AS count FROM (SELECT f.attributes ->> @path AS value, json_type(f.attributes, @path) AS type FROM features f WHERE f.layer = (SELECT id FROM layers WHERE name = @layer) LIMIT ${LOOKED_THROUGH})
       WHERE value IS NOT NULL AND substr(lower(value), 1, length(@begin)) = lower(@begin) GROUP BY value, type ORDER BY count DESC, value LIMIT ${VALUES_TOLD}`,
      )
      .all({ layer, path, begin });
    return rows.map(({ value, type, count }) => ({ value: plainOf(value, type), count }));
  }

  /**
   * What the records of a layer have in a field.
   * @param ids the records that are asked about; null for all
   */
  statistics(layer: string, field: string, ids: Uint32Array | null): FieldStatistics {
    const own = `WITH own AS MATERIALIZED (SELECT f.attributes ->> @path AS value, json_type(f.attributes, @path) AS type FROM features f
      WHERE f.layer = (SELECT id FROM layers WHERE name = @layer)${ids ? ' AND f.id IN (SELECT value FROM json_each(@ids))' : ''})`;
    const about = { layer, path: jsonPath(field), ...(ids ? { ids: JSON.stringify([...ids]) } : {}) };
    const { lowest, highest, mean, ...counts } = this.db
      .prepare<
        object,
        Record<'records' | 'filled' | 'distinct' | 'count' | 'sum', number> & Record<'lowest' | 'highest' | 'mean', number | null>
      >(
        `${own} SELECT count(*) AS records, count(value) AS filled,
         (SELECT count(*) FROM (SELECT DISTINCT value, type FROM own WHERE value IS NOT NULL)) AS "distinct",
         count(*) FILTER (WHERE ${IS_NUMBER}) AS count, min(value) FILTER (WHERE ${IS_NUMBER}) AS lowest,
         max(value) FILTER (WHERE ${IS_NUMBER}) AS highest, avg(value) FILTER (WHERE ${IS_NUMBER}) AS mean,
         total(value) FILTER (WHERE ${IS_NUMBER}) AS sum FROM own`,
      )
      .get(about)!;
    const { records, filled, distinct, count, sum } = counts;
    const top = this.db
      .prepare<object, { value: string | number; type: string; count: number }>(
        `${own} SELECT value, type, count(*) AS count FROM own WHERE value IS NOT NULL GROUP BY value, type ORDER BY count DESC, value LIMIT ${TOP_TOLD}`,
      )
      .all(about)
      .map(({ value, type, count: n }) => ({ value: plainOf(value, type), count: n }));
    if (lowest === null || highest === null || mean === null) return { records, filled, distinct, numbers: null, top };
    const bins = new Array<number>(highest > lowest ? BINS : 1).fill(0);
    for (const { bin, n } of this.db
      .prepare<object, { bin: number; n: number }>(
        `${own} SELECT min(@last, CAST((value - @lowest) / @step AS INTEGER)) AS bin, count(*) AS n FROM own WHERE ${IS_NUMBER} GROUP BY bin`,
      )
      .all({ ...about, lowest, step: highest > lowest ? (highest - lowest) / BINS : 1, last: bins.length - 1 }))
      bins[bin] = n;
    return { records, filled, distinct, numbers: { count, lowest, highest, mean, sum, bins }, top };
  }

  /** The named records, in the order in which they are named. */
  named(ids: Iterable<number>): StoredRecord[] {
    return [...ids].flatMap((id) => this.record(id) ?? []);
  }

  private count(layer: string): number {
    return (
      this.db
        .prepare<[string], number>('SELECT count(*) FROM features f JOIN layers l ON l.id = f.layer WHERE l.name = ?')
        .pluck()
        .get(layer) ?? 0
    );
  }
}

/** Parts into which the range of a field's numbers is divided, and values of it that are told. */
const BINS = 24,
  TOP_TOLD = 8;
/** Whether a value is a number; whole ones beyond the exact ones are kept as texts within an object, and are none here. */
const IS_NUMBER = `type IN ('integer', 'real')`;

/** A value as it is shown, from what SQLite's JSON functions make of it. */
function plainOf(value: string | number, type: string): PlainValue {
  if (type === 'true' || type === 'false') return type === 'true';
  if (type !== 'object') return value;
  return shownValue(attributesFromJson(`{"value":${value}}`).value ?? null);
}

/** What records have in a field. */
export interface FieldStatistics {
  records: number;
  /** Records with a value. */
  filled: number;
  /** Different values. */
  distinct: number;
  /** Of the values that are numbers: of equal parts from the lowest to the highest, how many lie in each. Null where none is a number. */
  numbers: { count: number; lowest: number; highest: number; mean: number; sum: number; bins: number[] } | null;
  /** The most frequent values. */
  top: { value: PlainValue; count: number }[];
}

/** Where a field stands in the attributes of a record, as SQLite's JSON functions name it. */
const jsonPath = (field: string): string => `$."${field.replaceAll('"', '\\"')}"`;

function put(row: Row, builder: BatchBuilder): void {
  unpackGeometry(row.geometry, builder);
  const attributes = attributesFromJson(row.attributes);
  for (const name in attributes) builder.set(name, attributes[name]!);
  builder.endFeature(row.kind, row.entity, row.place);
}

function stored(row: Row): StoredRecord {
  const builder = new BatchBuilder(row.layer);
  put(row, builder);
  const batch = builder.take();
  const z = batch.coords[2] ?? NaN;
  return {
    id: row.id,
    layer: row.layer,
    entity: row.entity,
    kind: KINDS[row.kind]!,
    place: row.place,
    vertices: batch.coords.length / 3,
    attributes: Object.fromEntries(Object.entries(attributesFromJson(row.attributes)).map(([name, value]) => [name, shownValue(value)])),
    at: [batch.coords[0] ?? 0, batch.coords[1] ?? 0, Number.isNaN(z) ? null : z],
  };
}
