import type { Database, SqlRow } from '../../io/database';
import { type FeatureBatch, NO_GEOMETRY } from '../../model/batch';
import { BatchBuilder } from '../../model/batch-builder';
import { FreeNames } from '../../model/free-names';
import { attributesFromJson, type Value } from '../../model/value';
import type { RecordDifference } from './compare-revisions';
import { geometryOfBytes } from './same-geometry';

/**
 * The layers that differences lie in: which of them, in which of the two revisions their records are, and what they are drawn in: green
 * what came, red what went, amber what moved, grey where it was (common practice, no source).
 */
const LAYERS = [
  { layer: 'added', of: "status = 'added'", table: 'after', color: '#2c8a4b' },
  { layer: 'removed', of: "status = 'removed'", table: 'before', color: '#b3261e' },
  { layer: 'moved', of: "status = 'moved'", table: 'after', color: '#c77700' },
  { layer: 'changed', of: "status = 'changed'", table: 'after', color: '#2f6fb3' },
  { layer: 'moved from', of: 'hasMoved = 1', table: 'before', color: '#8a8f94' },
] as const;

/** What is said of each difference, as fields beside those of the record. */
const OWN_FIELDS = ['difference', 'of_layer', 'old_record', 'new_record', 'moved_m', 'changes'] as const;

/** What became of the values of a record, as people read it. */
export const changesText = (changes: NonNullable<RecordDifference['changes']>): string =>
  changes.map((c) => `${c.field}: ${c.old ?? 'nothing'} became ${c.new ?? 'nothing'}`).join('; ');

/**
 * The differences of two revisions as records: layers of what was added, removed, moved and changed, as it is in the new revision (what
 * was removed as it was in the old one), and of what has moved as it lay before.
 * @param db as {@link compareRevisions} leaves it
 * @param fields of both revisions
 * @param unit_m metres in one unit of their coordinates
 */
export function* differenceRecords(db: Database, fields: readonly string[], unit_m: number): Generator<FeatureBatch> {
  const free = new FreeNames(fields);
  const named = Object.fromEntries(OWN_FIELDS.map((name) => [name, free.take(name)])) as Record<(typeof OWN_FIELDS)[number], string>;
  for (const { layer, of, table, color } of LAYERS) {
    const out = new BatchBuilder(layer);
    let number = 0;
    const sql =
      'SELECT d.status, d.layer, d.moved, d.changes, o.location AS old_record, n.location AS new_record, r.kind, r.geometry, r.attributes ' +
      'FROM differences d LEFT JOIN before o ON o.id = d.old LEFT JOIN after n ON n.id = d.next ' +
      `JOIN ${table} r ON r.id = ${table === 'before' ? 'd.old' : 'd.next'} WHERE d.${of} ORDER BY d.id`;
    for (const row of db.rows(sql)) {
      addGeometry(out, row);
      for (const [name, value] of Object.entries(attributesFromJson(row.attributes as string))) out.set(name, value);
      const changes =
        row.changes === null ? null : changesText(JSON.parse(row.changes as string) as NonNullable<RecordDifference['changes']>);
      const own: Record<(typeof OWN_FIELDS)[number], Value> = {
        difference: row.status as string,
        of_layer: row.layer as string,
        old_record: row.old_record as number | null,
        new_record: row.new_record as number | null,
        moved_m: row.moved === null ? null : (row.moved as number) * unit_m,
        changes,
      };
      for (const name of OWN_FIELDS) out.set(named[name], own[name]);
      // of what it was drawn with, the table of changes tells
      out.put('color', color);
      out.endFeature(row.kind as number, row.status as string, ++number);
      if (out.full) yield out.take();
    }
    if (out.count > 0) yield out.take();
  }
}

/** The layer that sums the others up. */
const SUMMARY_LAYER = 'summary';

/** Records of each fate of a layer; what was told of no record is in both, and the same. */
const SUMMARY = `
  SELECT layer, sum(added) AS added, sum(removed) AS removed, sum(moved) AS moved, sum(changed) AS changed,
    sum(paired) - sum(moved) - sum(changed) AS same
  FROM (
    SELECT layer, status = 'added' AS added, status = 'removed' AS removed, status = 'moved' AS moved, status = 'changed' AS changed, 0 AS paired
      FROM differences
    UNION ALL
    SELECT layer, 0, 0, 0, 0, partner IS NOT NULL FROM before
  ) GROUP BY layer ORDER BY layer`;

/** A row for each layer of two revisions: how many of its records were added, removed, moved, changed, and are the same. */
export function* differenceSummary(db: Database): Generator<FeatureBatch> {
  const out = new BatchBuilder(SUMMARY_LAYER);
  for (const row of db.rows(SUMMARY)) {
    for (const [name, value] of Object.entries(row)) out.set(name, value);
    out.endFeature(NO_GEOMETRY, 'row', out.count + 1);
    if (out.full) yield out.take();
  }
  if (out.count > 0) yield out.take();
}

function addGeometry(out: BatchBuilder, row: SqlRow): void {
  const { parts, vertices } = geometryOfBytes(row.geometry as Uint8Array, row.kind as number);
  let k = 0;
  for (const n of parts) {
    for (const end = k + 5 * n; k < end; k += 5)
      out.vertex(vertices[k]!, vertices[k + 1]!, vertices[k + 2]!, vertices[k + 3]!, vertices[k + 4]!);
    out.endPart();
  }
}
