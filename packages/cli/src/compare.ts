import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import path from 'node:path';
import type { RecordDifference } from '@pontrel/core/content/revisions/compare-revisions';
import { changesText } from '@pontrel/core/content/revisions/difference-records';
import { compareSources, type SourceComparison, USUAL_TOLERANCE_M } from '@pontrel/core/crossing/compare-sources';
import { type Crs, isOnEarth } from '@pontrel/core/crs/crs';
import { readPositions } from '@pontrel/core/crs/definitions/read-definition';
import { label } from '@pontrel/core/crs/transform';
import type { PlacedIn } from '@pontrel/core/placement/route';
import { openDatabase } from '@pontrel/host-node/sqlite';
import { findingText } from './account-json';
import { gatherAll, type GatheredSource } from './gathered';
import { type Result, Usage } from './result';
import { removedAtEnd } from './temporary';

/** The options of the command, as they were typed. */
export interface CompareOptions {
  key?: string;
  tolerance?: string;
  from?: string;
}

/** Records that are listed; more are counted only. */
const MOST_LISTED = 100_000,
  MOST_PRINTED = 20;

/** Compares two revisions of a file, record by record. */
export async function compare(files: readonly string[], { key, tolerance, from }: CompareOptions): Promise<Result> {
  if (files.length !== 2) throw new Usage('compare wants two files: the older one first.');
  const tolerance_m = tolerance === undefined ? USUAL_TOLERANCE_M : Number(tolerance);
  if (!(tolerance_m > 0)) throw new Usage(`--tolerance wants a length in metres, such as 0.001; "${tolerance}" is none.`);
  const told = from === undefined ? null : readPositions(from, '--from');
  return gatherAll(files, async ([old, next]) => {
    const folder = await mkdtemp(path.join(tmpdir(), 'pontrel-compare-'));
    const done = removedAtEnd(folder);
    const db = openDatabase(path.join(folder, 'revisions.sqlite'), false);
    try {
      const listed: RecordDifference[] = [];
      const report = await compareSources(
        db,
        { ...old!, placed: placedOf(old!, told) },
        { ...next!, placed: placedOf(next!, told) },
        { key, tolerance_m },
        (difference) => void (listed.length < MOST_LISTED && listed.push(difference)),
      );
      return resultOf(report, listed);
    } finally {
      db.close();
      await rm(folder, { recursive: true, force: true });
      done();
    }
  });
}

const placedOf = ({ facts, extent }: GatheredSource, told: Crs | null): PlacedIn | null => {
  const crs = told ?? facts.crs;
  return crs && { crs, parameters: { unit_m: facts.unit?.metres ?? null }, extent };
};

function resultOf({ counts, fields, findings, unit_m, placed }: SourceComparison, listed: readonly RecordDifference[]): Result {
  const records = listed.map(({ moved, ...record }) => ({
    ...record,
    ...(moved === undefined ? {} : { moved_m: moved === null ? null : Number((moved * unit_m).toPrecision(9)) }),
  }));
  const total = counts.added + counts.removed + counts.moved + counts.changed;
  const lines = records.slice(0, MOST_PRINTED).map((r) => {
    const at = r.at ? ` at ${r.at.map((v) => v.toFixed(3)).join(' ')}` : '';
    const where = r.new ?? r.old;
    const moved = r.moved_m === undefined ? '' : r.moved_m === null ? ', of another shape' : `, by ${r.moved_m.toPrecision(4)} m`;
    const values = changesText(r.changes ?? []);
    return `  ${r.status} ${r.layer} ${r.key ?? where}${at}${moved}${values === '' ? '' : `; ${values}`}`;
  });
  return {
    json: { ...counts, crs: placed && isOnEarth(placed.crs) ? label(placed.crs) : null, fields, records, listed: records.length, findings },
    text: [
      `${counts.added} added, ${counts.removed} removed, ${counts.moved} moved, ${counts.changed} changed, ${counts.same} the same`,
      ...fields.map(({ layer, added, removed }) =>
        [
          `  ${layer}:`,
          ...(added.length > 0 ? [`new fields ${added.join(', ')}`] : []),
          ...(removed.length > 0 ? [`without ${removed.join(', ')}`] : []),
        ].join(' '),
      ),
      ...lines,
      ...(total > lines.length ? [`  and ${total - lines.length} more, which --json lists`] : []),
      ...findings.filter((f) => f.severity !== 'info').map(findingText),
    ].join('\n'),
    exit: 0,
  };
}
