import type { Value } from '../model/value';
import type { FeatureBatch } from '../model/batch';
import { Join, type JoinTable, keyOf } from './join-table';
import { counted, type Operation } from './operation';

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

/** Keys that are told of each kind. */
const LISTED = 100;

/** Adds the fields of a table to the records whose key has a row in it. */
export const joined: Operation<Join, JoinReport, { join?: Join | undefined }> = {
  id: 'join',
  scope: 'crossing',
  schema: Join,
  parameters: (layer, rules) => rules[layer]?.join,
  sentence: ({ source, layer, key, to }) => `joined with ${layer} of ${source} where ${key} is ${to}`,
  tally: () => ({ joined: 0, unmatched: 0, unmatchedKeys: [], unused: 0, unusedKeys: [], doubles: 0 }),
  stage(join, { layer, tables }, tally) {
    const table = tables?.get(layer);
    const used = new Set<string>();
    if (!table) return { apply: (batch) => [batch] };
    return {
      apply: (batch) => [withJoin(batch, join, table, tally, used)],
      end: () => countUnused(table, tally, used),
    };
  },
  effects: (r) => [
    ...(r.joined > 0
      ? [{ effect: 'told' as const, code: 'joined', count: r.joined, message: `${r.joined} with the fields of a table` }]
      : []),
    ...(r.unmatched > 0
      ? [
          {
            effect: 'told' as const,
            code: 'join-unmatched',
            count: r.unmatched,
            message: `${r.unmatched} found no row in the table that is joined`,
          },
        ]
      : []),
    ...(r.unused > 0
      ? [
          {
            effect: 'told' as const,
            code: 'join-unused',
            count: r.unused,
            message: `${counted(r.unused, 'row')} of the table that is joined found no record`,
          },
        ]
      : []),
    ...(r.doubles > 0
      ? [
          {
            effect: 'told' as const,
            code: 'join-doubles',
            count: r.doubles,
            message: `${r.doubles} ${r.doubles === 1 ? 'row has' : 'rows have'} a key that another row of the table has: the first one counts`,
          },
        ]
      : []),
  ],
};

/** A batch with the fields of its records' rows. @param used gets the keys that found a record */
function withJoin(batch: FeatureBatch, join: Join, table: JoinTable, report: JoinReport, used: Set<string>): FeatureBatch {
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

/** Counts the rows that found no record, once all records have come. */
function countUnused(table: JoinTable, report: JoinReport, used: ReadonlySet<string>): void {
  report.doubles = table.doubles;
  for (const key of table.rows.keys()) {
    if (used.has(key)) continue;
    report.unused++;
    if (report.unusedKeys.length < LISTED) report.unusedKeys.push(key);
  }
}
