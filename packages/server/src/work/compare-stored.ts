import path from 'node:path';
import { differenceRecords, differenceSummary } from '@pontrel/core/content/revisions/difference-records';
import { compareSources, type ComparedSource } from '@pontrel/core/crossing/compare-sources';
import type { FeatureBatch } from '@pontrel/core/model/batch';
import type { Placement } from '@pontrel/core/placement/placement';
import { placedBy } from '@pontrel/core/placement/route';
import { openDatabase } from '@pontrel/host-node/sqlite';
import type { ReadResult, StoredFiles } from './read-source';
import { storeDerived, withOwnFolder } from './store-derived';
import { type StoredSource, withSources } from './stored-source';
import { type Progress, watchOver } from './watch';

/** Two sources that are compared, the older one first, and the files that their differences are to be. */
export interface CompareRequest {
  sources: [StoredSource, StoredSource];
  placements: [Placement | null, Placement | null];
  key: string | null;
  tolerance_m: number;
  files: StoredFiles;
}

/** Compares two sources, and reads their differences as a source of its own. */
export async function compareStored(
  { sources, placements, key, tolerance_m, files }: CompareRequest,
  report: (progress: Progress) => void,
): Promise<ReadResult> {
  const total = sources.reduce((n, s) => n + s.layers.reduce((m, l) => m + l.count, 0), 0);
  const watch = watchOver(report, 'Comparing');
  let done = 0;
  return withOwnFolder(files, async (own) => {
    const db = openDatabase(path.join(own, 'revisions.sqlite'), false);
    try {
      return await withSources(sources, async (opened) => {
        const [before, after] = opened.map((source, k): ComparedSource => ({
          ...source,
          placed: placements[k] ? placedBy(placements[k], source.extent) : null,
          async *records() {
            for await (const batch of source.records()) {
              watch.check();
              watch.progress((done += batch.count), total);
              yield batch;
            }
          },
        })) as [ComparedSource, ComparedSource];
        const { recordFields, placed, unit_m, findings } = await compareSources(
          db,
          before,
          after,
          { ...(key === null ? {} : { key }), tolerance_m },
          () => {},
        );
        const differences = function* (): Generator<FeatureBatch> {
          yield* differenceRecords(db, recordFields, unit_m);
          yield* differenceSummary(db);
        };
        const read = await storeDerived(files, own, differences, placed, 'the differences', report);
        // of these the differences know nothing: what stayed behind when the two were read is no record of theirs
        return { ...read, findings: [...findings.map(({ left: _left, ...f }) => f), ...read.findings] };
      });
    } finally {
      db.close();
    }
  });
}
