import type { Join } from '../crossing/recipe';
import type { FeatureBatch, Value } from '../model/batch';
import { Problem } from '../model/problem';

/** The rows of a table by their key, and the names that its fields get in a layer. */
export interface JoinTable {
  rows: ReadonlyMap<string, readonly Value[]>;
  fields: readonly { from: string; to: string }[];
  /** Rows whose key another row had before. */
  doubles: number;
}

/** What a join did, for people. */
export interface JoinReport {
  joined: number;
  /** Records of the layer without a row, and the first of their keys. */
  unmatched: number;
  unmatchedKeys: string[];
  /** Rows of the table without a record, and the first of their keys. */
  unused: number;
  unusedKeys: string[];
  doubles: number;
}

/** Rows that a table may have to be joined, since all of them are held. */
const MOST_ROWS = 2_000_000;
const LISTED = 100;

/** Two values are one key when they are written alike: 7 and "7" are, "07" is another. */
const keyOf = (value: Value): string | null => (value === null ? null : String(value).trim());

/**
 * Takes a table in by its key.
 * @param own names that fields of the layer have already; a field of the table that has one of them gets the table's name before it
 */
export async function joinTable(
  join: Join,
  own: ReadonlySet<string>,
  read: () => AsyncIterable<FeatureBatch> | Iterable<FeatureBatch>,
): Promise<JoinTable> {
  const rows = new Map<string, Value[]>();
  const names: string[] = [];
  let doubles = 0,
    seen = false;
  for await (const batch of read()) {
    if (batch.layer !== join.layer) continue;
    seen = true;
    for (const name of batch.columns.keys()) if (name !== join.to && !names.includes(name)) names.push(name);
    const keys = batch.columns.get(join.to);
    const columns = names.map((name) => batch.columns.get(name));
    for (let i = 0; i < batch.count; i++) {
      const key = keyOf(keys?.[i] ?? null);
      if (key === null) continue;
      if (rows.has(key)) {
        doubles++;
        continue;
      }
      if (rows.size >= MOST_ROWS)
        throw new Problem(
          'join-too-large',
          `${join.layer} of ${join.source} has more than ${MOST_ROWS} rows, which are not joined. Take fewer of them.`,
        );
      rows.set(
        key,
        columns.map((c) => c?.[i] ?? null),
      );
    }
  }
  if (!seen) throw new Problem('join-missing', `There is no table ${join.layer} in ${join.source} to join. Choose another one in Shape.`);
  return { rows, doubles, fields: names.map((from) => ({ from, to: own.has(from) ? `${join.layer}_${from}` : from })) };
}

export const noJoin = (): JoinReport => ({ joined: 0, unmatched: 0, unmatchedKeys: [], unused: 0, unusedKeys: [], doubles: 0 });

/** A batch with the fields of its records' rows. @param used gets the keys that found a record */
export function withJoin(batch: FeatureBatch, join: Join, table: JoinTable, report: JoinReport, used: Set<string>): FeatureBatch {
  const keys = batch.columns.get(join.key);
  const added = table.fields.map((): Value[] => new Array<Value>(batch.count).fill(null));
  for (let i = 0; i < batch.count; i++) {
    const key = keyOf(keys?.[i] ?? null);
    const row = key === null ? undefined : table.rows.get(key);
    if (!row) {
      report.unmatched++;
      if (report.unmatchedKeys.length < LISTED) report.unmatchedKeys.push(key ?? '(none)');
      continue;
    }
    report.joined++;
    used.add(key!);
    // a column that came up late is not in the first rows
    for (let f = 0; f < added.length; f++) added[f]![i] = row[f] ?? null;
  }
  const columns = new Map(batch.columns);
  table.fields.forEach(({ to }, f) => columns.set(to, added[f]!));
  return { ...batch, columns };
}

/** Tells which rows found no record, once all records have come. */
export function closeJoin(table: JoinTable, report: JoinReport, used: ReadonlySet<string>): void {
  report.doubles = table.doubles;
  for (const key of table.rows.keys()) {
    if (used.has(key)) continue;
    report.unused++;
    if (report.unusedKeys.length < LISTED) report.unusedKeys.push(key);
  }
}
