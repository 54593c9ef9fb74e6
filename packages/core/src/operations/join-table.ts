import type { Value } from '../model/value';
import { z } from 'zod';
import type { FeatureBatch } from '../model/batch';
import { Problem } from '../model/problem';

/** A table whose fields go to the records of a layer, by a key. */
export const Join = z.object({
  source: z.string(),
  layer: z.string(),
  /** The field of the layer, and that of the table, that hold the same. */
  key: z.string(),
  to: z.string(),
});
export type Join = z.infer<typeof Join>;

/** The rows of a table by their key, and the names that its fields get in a layer. */
export interface JoinTable {
  rows: ReadonlyMap<string, readonly Value[]>;
  fields: readonly { from: string; to: string }[];
  /** Rows whose key another row had before. */
  doubles: number;
}

/** Rows that a table may have to be joined, since all of them are held. */
const MOST_ROWS = 2_000_000;

/** Two values are one key when they are written alike: 7 and "7" are, "07" is another. */
export const keyOf = (value: Value): string | null => (value === null ? null : String(value).trim());

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
