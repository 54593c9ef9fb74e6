import { mkdir, rename, rm } from 'node:fs/promises';
import path from 'node:path';
import { differenceRecords, differenceSummary } from '@pontrel/core/content/revisions/difference-records';
import { compareSources, type ComparedSource } from '@pontrel/core/crossing/compare-sources';
import { writeDerived } from '@pontrel/core/crossing/derived-source';
import type { Placement } from '@pontrel/core/placement/placement';
import { placedBy } from '@pontrel/core/placement/route';
import { folderAt } from '@pontrel/host-node/files';
import { openDatabase } from '@pontrel/host-node/sqlite';
import { proofFailed } from './proof-failed';
import { mainFile, type ReadResult, readSource, type StoredFiles } from './read-source';
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
  const own = path.join(files.folder, 'comparison');
  const out = path.join(own, 'out');
  await mkdir(out, { recursive: true });
  const db = openDatabase(path.join(own, 'revisions.sqlite'), false);
  const total = sources.reduce((n, s) => n + s.layers.reduce((m, l) => m + l.count, 0), 0);
  const watch = watchOver(report, 'Comparing');
  let done = 0;
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
      const { proof, prepared } = await writeDerived(
        'source',
        function* () {
          yield* differenceRecords(db, recordFields, unit_m);
          yield* differenceSummary(db);
        },
        placed,
        folderAt(out),
        { writing: watchOver(report, 'Writing the differences'), proving: watchOver(report, 'Proving the differences') },
      );
      if (proof.status !== 'match') throw proofFailed(files.name, proof.differences);
      const [written] = prepared.format.features.write!.files(prepared.plan.sets, {
        stem: prepared.target.stem,
        options: prepared.target.options,
      });
      await rename(path.join(out, written!.name), mainFile(files));
      const read = await readSource(files, report);
      // of these the differences know nothing: what stayed behind when the two were read is no record of theirs
      return { ...read, findings: [...findings.map(({ left: _left, ...f }) => f), ...read.findings] };
    });
  } finally {
    db.close();
    await rm(own, { recursive: true, force: true });
  }
}
