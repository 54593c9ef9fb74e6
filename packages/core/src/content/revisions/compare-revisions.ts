import type { Database, SqlRow } from '../../io/database';
import type { FeatureBatch } from '../../model/batch';
import { type Finding, Findings } from '../../model/finding';
import { attributesFromJson, attributesToJson, equalValues, type PlainValue, shownValue, type Value } from '../../model/value';
import { distanceBetween, geometryOfBytes, type LooseGeometry, storedGeometry } from './same-geometry';

/** One of two revisions of the same data. */
export interface Revision {
  layers: readonly { name: string; fields: readonly string[] }[];
  /** Its records, those of both revisions in one system and unit. */
  read(): AsyncIterable<FeatureBatch> | Iterable<FeatureBatch>;
}

/** What became of a record between two revisions. One that has moved and has other values counts as changed. */
export type RecordFate = 'added' | 'removed' | 'moved' | 'changed' | 'same';

/** A record that is not the same in both. */
export interface RecordDifference {
  status: Exclude<RecordFate, 'same'>;
  /** Its layer in the new revision; in the old one where it was removed. */
  layer: string;
  key?: PlainValue;
  /** Where it stands in each file: a line, a record, a feature number. */
  old: number | null;
  new: number | null;
  /** Where it lies, in the system of the old revision; null where it lies nowhere. */
  at: [number, number] | null;
  /** How far it has moved, in units of the coordinates; null where its parts or vertices are others. Absent where it has not. */
  moved?: number | null;
  changes?: { field: string; old: PlainValue; new: PlainValue }[];
}

/** What a comparison of two revisions says. */
export interface RevisionReport {
  counts: Record<RecordFate, number>;
  /** Fields that only one of them has, by layer. They count as no change of a record. */
  fields: { layer: string; added: string[]; removed: string[] }[];
  findings: Finding[];
}

/** How two revisions are compared. */
export interface RevisionOptions {
  /** The field by which records are one; by where they lie when absent. */
  key?: string;
  /** Distance up to which a record has not moved, in units of the coordinates. */
  tolerance: number;
}

/** Fields that files give anew whenever they are written: no change by themselves. */
const RENUMBERED: ReadonlySet<string> = new Set(['handle', 'fid', 'ogc_fid']);

/** The layers of the new revision by those of the old one: by name, or the only one of each. */
function pairedLayers(old: Revision, next: Revision): Map<string, string> {
  const named = new Map(next.layers.map((l) => [l.name.toLowerCase(), l.name]));
  const pairs = new Map(old.layers.flatMap((l) => (named.has(l.name.toLowerCase()) ? [[l.name, named.get(l.name.toLowerCase())!]] : [])));
  if (pairs.size === 0 && old.layers.length === 1 && next.layers.length === 1) pairs.set(old.layers[0]!.name, next.layers[0]!.name);
  return pairs;
}

const TABLES = ['before', 'after'] as const;

/** Stands before the name of a layer that only the new revision has, so that it is none of the old one. */
const ONLY_NEW = '\u0001';

/**
 * Of a record: the cell of its lowest corner, what of its values is compared, a digest of that and of its geometry, and the record of the
 * other table that it is, or {@link SAME}. Of the new revision only what is not the same to the byte is there.
 */
const COLUMNS = [
  'id INTEGER PRIMARY KEY, layer TEXT, kind INTEGER, n INTEGER, cx REAL, cy REAL, key TEXT, geometry BLOB, attributes TEXT',
  'location REAL, x REAL, y REAL, said TEXT, digest INTEGER, partner INTEGER',
].join(', ');

/** The partner of a record that is in the new revision just as it was. */
const SAME = 0;

/**
 * Compares two revisions record by record. The records of both lie in the database meanwhile, so that memory does not grow with them.
 * @param db an empty database, which holds the differences afterwards for {@link differenceRecords}
 * @param different gets every record that is not the same in both
 */
export async function compareRevisions(
  db: Database,
  old: Revision,
  next: Revision,
  { key, tolerance }: RevisionOptions,
  different: (difference: RecordDifference) => void,
): Promise<RevisionReport> {
  const findings = new Findings();
  const pairs = pairedLayers(old, next);
  const back = new Map([...pairs].map(([a, b]) => [b, a]));
  const fieldsOf = (revision: Revision, layer: string | undefined): readonly string[] =>
    revision.layers.find((l) => l.name === layer)?.fields ?? [];
  // all at once: nobody else sees the database, and thousands of statements are not worth a commit each
  db.execute('BEGIN');
  for (const table of TABLES) db.execute(`CREATE TABLE ${table} (${COLUMNS})`);
  // layers of both revisions go by the name in the old one
  const common = new Map([...pairs].map(([a, b]) => [a, new Set(fieldsOf(old, a).filter((f) => fieldsOf(next, b).includes(f)))]));
  const isCompared = (layer: string, name: string): boolean =>
    common.get(layer)?.has(name) === true && (name === key || !RENUMBERED.has(name.toLowerCase()));
  const rows = (revision: Revision, nameOf: (layer: string) => string): AsyncGenerator<Row[]> =>
    rowsOf(revision, nameOf, isCompared, key, tolerance);
  const insert = inserting(db, 'before');
  for await (const some of rows(old, (layer) => layer)) for (const row of some) insert(row);
  const counts: Record<RecordFate, number> = { added: 0, removed: 0, moved: 0, changed: 0, same: 0 };
  db.execute(
    'CREATE TABLE differences (id INTEGER PRIMARY KEY, status TEXT, layer TEXT, old INTEGER, next INTEGER, moved REAL, hasMoved INTEGER, changes TEXT)',
  );
  const list = db.statement('INSERT INTO differences (status, layer, old, next, moved, hasMoved, changes) VALUES (?, ?, ?, ?, ?, ?, ?)');
  const matcher = new Matcher(db, isCompared, tolerance, key, (difference, fate, [before, after], count = 1) => {
    counts[fate] += count;
    if (!difference) return;
    const { status, layer, moved, changes } = difference;
    list.run(status, layer, before, after, moved ?? null, moved === undefined ? 0 : 1, changes ? JSON.stringify(changes) : null);
    different(difference);
  });
  const after = rows(next, (layer) => back.get(layer) ?? `${ONLY_NEW}${layer}`);
  if (key !== undefined) await matcher.byKey(after, findings);
  else await matcher.byPlace(after);
  matcher.rest((layer) => (layer.startsWith(ONLY_NEW) ? layer.slice(1) : layer));
  db.execute('COMMIT');
  const fields = [...pairs].flatMap(([a, b]) => {
    const [before, after] = [fieldsOf(old, a), fieldsOf(next, b)];
    const [added, removed] = [after.filter((f) => !before.includes(f)), before.filter((f) => !after.includes(f))];
    return added.length + removed.length > 0 ? [{ layer: b, added, removed }] : [];
  });
  return { counts, fields, findings: findings.list() };
}

/** A record on its way into a table. */
interface Row {
  layer: string;
  key: string | null;
  kind: number;
  geometry: Uint8Array;
  said: string;
  digest: number;
  /** All values of the row but its id and partner, as the columns stand. */
  values: (string | number | Uint8Array | null)[];
}

/** The records of a revision, a batch at a time. */
async function* rowsOf(
  revision: Revision,
  nameOf: (layer: string) => string,
  isCompared: (layer: string, name: string) => boolean,
  key: string | undefined,
  tolerance: number,
): AsyncGenerator<Row[]> {
  for await (const batch of revision.read()) {
    const names = [...batch.columns.keys()].sort();
    const layer = nameOf(batch.layer);
    const compared = names.filter((name) => isCompared(layer, name));
    const all = compared.length === names.length;
    const columns = names.map((name) => ({ name, column: batch.columns.get(name)!, isCompared: compared.includes(name) }));
    const keys = key === undefined ? undefined : batch.columns.get(key);
    const rows: Row[] = [];
    for (let i = 0; i < batch.count; i++) {
      const { bytes: geometry, numbers, corner } = storedGeometry(batch, i);
      const [x, y] = corner;
      const kind = batch.kinds[i]!;
      const attributes: Record<string, Value> = {};
      const own: Record<string, Value> = all ? attributes : {};
      for (const { name, column, isCompared: counts } of columns) {
        const value = column[i] ?? null;
        if (value === null) continue;
        attributes[name] = value;
        if (counts) own[name] = value;
      }
      const said = attributesToJson(own);
      const known = keys?.[i] ?? null;
      const [named, digest] = [known === null ? null : String(shownValue(known)), digestOf(geometry, said)];
      const values = [
        layer,
        kind,
        numbers,
        // cells wider than the tolerance: what lies as near as that is in the same cell or in the next
        Number.isNaN(x) ? 0 : Math.floor(x / (2 * tolerance)),
        Number.isNaN(y) ? 0 : Math.floor(y / (2 * tolerance)),
        named,
        geometry,
        all ? said : attributesToJson(attributes),
        batch.locations[i]!,
        Number.isNaN(x) ? null : x,
        Number.isNaN(y) ? null : y,
        said,
        digest,
      ];
      rows.push({ layer, key: named, kind, geometry, said, digest, values });
    }
    yield rows;
  }
}

/** Puts records into a table. @returns what puts one in, and gives its id */
function inserting(db: Database, table: (typeof TABLES)[number]): (row: Row) => number {
  const insert = db.statement(
    `INSERT INTO ${table} (id, layer, kind, n, cx, cy, key, geometry, attributes, location, x, y, said, digest) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)`,
  );
  let id = 0;
  return ({ values }) => {
    insert.run(++id, ...values);
    return id;
  };
}

/** A number that two records have in common when they are the same; others hardly ever do. Source: FNV-1a, 32 bits, over words, twice. */
function digestOf(geometry: Uint8Array, said: string): number {
  const words = new Uint32Array(geometry.buffer, geometry.byteOffset, geometry.byteLength / 4);
  let [a, b] = [0x811c9dc5, 0x01000193];
  for (const word of words) {
    a = Math.imul(a ^ word, 0x01000193);
    b = Math.imul(b ^ (word >>> 7) ^ a, 0x85ebca6b);
  }
  for (let k = 0; k < said.length; k++) a = Math.imul(a ^ said.charCodeAt(k), 0x01000193);
  // as many bits as a number holds exactly
  return (b & 0x1fffff) * 2 ** 32 + (a >>> 0);
}

/** A record as it lies in its table. */
interface Kept {
  id: number;
  layer: string;
  key: string | null;
  geometry: LooseGeometry;
  attributes: Record<string, Value>;
  location: number;
  at: [number, number] | null;
}

/** Where a record stands, and what it is called. */
const standingOf = (row: SqlRow): Pick<Kept, 'layer' | 'key' | 'location' | 'at'> => ({
  layer: row.layer as string,
  key: row.key as string | null,
  location: row.location as number,
  at: row.x === null ? null : [row.x as number, row.y as number],
});

const keptOf = (row: SqlRow): Kept => ({
  ...standingOf(row),
  id: row.id as number,
  geometry: geometryOfBytes(row.geometry as Uint8Array, row.kind as number),
  attributes: attributesFromJson(row.attributes as string),
});

/** Records that are looked at between two looks at the tables. */
const AT_ONCE = 2000;

/** Finds the records of the two tables that are one, and tells what became of each. */
class Matcher {
  private readonly settle: Record<(typeof TABLES)[number], { run(...values: (number | string)[]): void }>;

  constructor(
    private readonly db: Database,
    private readonly isCompared: (layer: string, name: string) => boolean,
    private readonly tolerance: number,
    private readonly key: string | undefined,
    /** @param rows of the two tables, null where it is in one of them only */
    private readonly tell: (
      difference: RecordDifference | null,
      fate: RecordFate,
      rows: [number | null, number | null],
      count?: number,
    ) => void,
  ) {
    this.settle = {
      before: db.statement('UPDATE before SET partner = ? WHERE id = ?'),
      after: db.statement('UPDATE after SET partner = ? WHERE id = ?'),
    };
  }

  /** Records of one key are one. */
  async byKey(after: AsyncIterable<Row[]>, findings: Findings): Promise<void> {
    const count = (sql: string): number => Number(this.db.query(sql).all()[0]!.n);
    const without = (table: (typeof TABLES)[number]): number => count(`SELECT count(*) AS n FROM ${table} WHERE key IS NULL`);
    const twice = (table: string): number =>
      count(`SELECT coalesce(sum(c - 1), 0) AS n FROM (SELECT count(*) AS c FROM ${table} GROUP BY layer, key HAVING c > 1)`);
    this.db.execute('CREATE INDEX before_open ON before (key, layer) WHERE partner IS NULL AND key IS NOT NULL');
    const told = { old: { without: without('before'), twice: twice('before WHERE partner IS NULL AND key IS NOT NULL') } };
    await this.pairAlike(after, 'key');
    // those of the new revision that are the same are known by the records that they are
    const inNew = 'SELECT layer, key FROM before WHERE partner IS NOT NULL UNION ALL SELECT layer, key FROM after WHERE partner IS NULL';
    const all = { ...told, new: { without: without('after'), twice: twice(`(${inNew}) WHERE key IS NOT NULL`) } };
    for (const [which, { without: lacking, twice: again }] of Object.entries(all)) {
      if (lacking > 0)
        findings.add({
          code: 'key-missing',
          severity: 'caution',
          message: `Records of the ${which} revision have no ${this.key}: they count as ${which === 'old' ? 'removed' : 'added'}.`,
          count: lacking,
        });
      if (again > 0)
        findings.add({
          code: 'key-twice',
          severity: 'caution',
          message: `Records of the ${which} revision have the ${this.key} of one before: they are compared in their order.`,
          count: again,
        });
    }
  }

  /**
   * Records that lie in one place are one: first those that are the same in all, then those with other values. Of the rest, records whose
   * values are the same, and the same as those of no other, are one that has moved.
   */
  async byPlace(after: AsyncIterable<Row[]>): Promise<void> {
    this.db.execute('CREATE INDEX before_open ON before (digest) WHERE partner IS NULL');
    await this.pairAlike(after, 'digest');
    // of what is left, which is little as a rule
    for (const table of TABLES) this.db.execute(`CREATE INDEX ${table}_place ON ${table} (layer, kind, n, cx, cy) WHERE partner IS NULL`);
    const near = this.db.query(
      'SELECT * FROM before WHERE layer = ? AND kind = ? AND n = ? AND cx BETWEEN ? AND ? AND cy BETWEEN ? AND ? AND partner IS NULL ORDER BY id',
    );
    const inPlace = (record: Kept): Kept[] => {
      const { kind, vertices } = record.geometry;
      const [x, y] = record.at ?? [0, 0];
      const cell = (v: number): number => (record.at ? Math.floor(v / (2 * this.tolerance)) : 0);
      return near
        .all(record.layer, kind, vertices.length, cell(x) - 1, cell(x) + 1, cell(y) - 1, cell(y) + 1)
        .map(keptOf)
        .filter((other) => distanceBetween(record.geometry, other.geometry, this.tolerance) <= this.tolerance);
    };
    this.each((record) => {
      const twin = inPlace(record).find((other) => this.changes(other, record).length === 0);
      if (twin) this.pair(twin, record, 0, []);
    });
    this.each((record) => {
      // what lies nowhere is told apart by its values alone
      const other = record.at && inPlace(record)[0];
      if (other) this.pair(other, record, 0);
    });
    this.byValues();
  }

  private byValues(): void {
    // what nothing is said of cannot be known again
    const alone = (table: (typeof TABLES)[number]): string =>
      `(SELECT layer, kind, said, min(id) AS id FROM ${table} WHERE partner IS NULL AND said <> '{}' GROUP BY layer, kind, said HAVING count(*) = 1)`;
    this.db.execute(
      `CREATE TABLE moved AS SELECT b.id AS old, a.id AS next FROM ${alone('before')} b JOIN ${alone('after')} a USING (layer, kind, said)`,
    );
    this.pairAll('moved');
  }

  /**
   * Records with the same key, or with the same digest and just the same in all, are one: the first with the first, the second with the second.
   * Most records of two revisions are the same to the byte, and of these nothing more is kept.
   * @param after the records of the new revision, of which the others are put into their table
   */
  private async pairAlike(after: AsyncIterable<Row[]>, by: 'key' | 'digest'): Promise<void> {
    this.db.execute('CREATE TABLE changed (old INTEGER, next INTEGER)');
    const open = this.db.query(
      `SELECT id, kind = ? AND geometry = ? AND said = ? AS same FROM before
        WHERE layer = ? AND ${by} = ? AND partner IS NULL ${by === 'key' ? 'AND key IS NOT NULL ' : ''}ORDER BY id LIMIT 1`,
    );
    const change = this.db.statement('INSERT INTO changed VALUES (?, ?)');
    const insert = inserting(this.db, 'after');
    let same = 0;
    const take = (row: Row): void => {
      const wanted = row[by];
      const [found] = wanted === null ? [] : open.all(row.kind, row.geometry, row.said, row.layer, wanted);
      if (found?.same === 1) {
        this.settle.before.run(SAME, found.id as number);
        same++;
        return;
      }
      const id = insert(row);
      // two digests may be one by chance, two keys are not
      if (!found || by === 'digest') return;
      this.settle.before.run(id, found.id as number);
      change.run(found.id!, id);
    };
    for await (const rows of after) for (const row of rows) take(row);
    this.tell(null, 'same', [null, null], same);
    this.pairAll('changed');
  }

  /** Pairs the records that a table names. */
  private pairAll(table: 'moved' | 'changed'): void {
    const some = this.db.query(`SELECT rowid AS n, old, next FROM ${table} WHERE rowid > ? ORDER BY rowid LIMIT ?`);
    const one = (of: (typeof TABLES)[number]): ((id: SqlRow[string]) => Kept) => {
      const query = this.db.query(`SELECT * FROM ${of} WHERE id = ?`);
      return (id) => keptOf(query.all(id)[0]!);
    };
    const [before, after] = [one('before'), one('after')];
    for (let rows = some.all(0, AT_ONCE); rows.length > 0; rows = some.all(rows.at(-1)!.n!, AT_ONCE))
      for (const { old, next } of rows) this.pair(before(old!), after(next!));
  }

  /** What has no partner was removed, or added. */
  rest(nameOf: (layer: string) => string): void {
    for (const [table, status] of [
      ['before', 'removed'],
      ['after', 'added'],
    ] as const)
      for (const row of this.lonely(table)) {
        const { layer, key, location, at } = standingOf(row);
        const id = row.id as number;
        this.tell(
          {
            status,
            layer: nameOf(layer),
            ...(key === null ? {} : { key }),
            old: status === 'removed' ? location : null,
            new: status === 'added' ? location : null,
            at,
          },
          status,
          status === 'removed' ? [id, null] : [null, id],
        );
      }
  }

  /** The rows without a partner, some at a time: what is told of them is written down meanwhile. */
  private *lonely(table: (typeof TABLES)[number]): Generator<SqlRow> {
    const some = this.db.query(`SELECT id, layer, key, location, x, y FROM ${table} WHERE id > ? AND partner IS NULL ORDER BY id LIMIT ?`);
    for (let rows = some.all(0, AT_ONCE); rows.length > 0; rows = some.all(rows.at(-1)!.id as number, AT_ONCE)) yield* rows;
  }

  /** Goes through the records of the new revision that have no partner yet. */
  private each(work: (record: Kept) => void): void {
    const next = this.db.query('SELECT * FROM after WHERE id > ? AND partner IS NULL ORDER BY id LIMIT ?');
    for (let rows = next.all(0, AT_ONCE); rows.length > 0; rows = next.all(rows.at(-1)!.id as number, AT_ONCE))
      for (const row of rows) work(keptOf(row));
  }

  /** Those values of a record that are compared. */
  private compared(layer: string, attributes: Record<string, Value>): Record<string, Value> {
    return Object.fromEntries(Object.entries(attributes).filter(([name]) => this.isCompared(layer, name)));
  }

  private changes(old: Kept, next: Kept): NonNullable<RecordDifference['changes']> {
    const [a, b] = [this.compared(old.layer, old.attributes), this.compared(old.layer, next.attributes)];
    return [...new Set([...Object.keys(a), ...Object.keys(b)])].flatMap((field) => {
      const [before, after] = [a[field] ?? null, b[field] ?? null];
      return equalValues(before, after) ? [] : [{ field, old: shownValue(before), new: shownValue(after) }];
    });
  }

  /** Two records are one. @param apart how far they are apart; nothing where that is within the tolerance @param changes of their values */
  private pair(
    old: Kept,
    next: Kept,
    apart = distanceBetween(old.geometry, next.geometry, this.tolerance),
    changes = this.changes(old, next),
  ): void {
    this.settle.before.run(next.id, old.id);
    this.settle.after.run(old.id, next.id);
    const hasMoved = apart > this.tolerance;
    const status = changes.length > 0 ? 'changed' : hasMoved ? 'moved' : 'same';
    this.tell(
      status === 'same'
        ? null
        : {
            status,
            layer: old.layer,
            ...(next.key === null ? {} : { key: next.key }),
            old: old.location,
            new: next.location,
            at: next.at,
            ...(hasMoved ? { moved: Number.isFinite(apart) ? apart : null } : {}),
            ...(changes.length > 0 ? { changes } : {}),
          },
      status,
      [old.id, next.id],
    );
  }
}
