import { writeFile } from 'node:fs/promises';
import path from 'node:path';
import type { MadeFacts } from '@pontrel/contract/crossing';
import type { Fault } from '@pontrel/core/content/derived/fault';
import { elevationPoints } from '@pontrel/core/content/surfaces/elevation-points';
import type { ComparedSource } from '@pontrel/core/crossing/compare-sources';
import { workOut } from '@pontrel/core/crossing/work-out';
import type { WorkedOut } from '@pontrel/core/crossing/worked-out';
import { Findings } from '@pontrel/core/model/finding';
import type { Placement } from '@pontrel/core/placement/placement';
import { placedBy } from '@pontrel/core/placement/route';
import { fileImage } from '@pontrel/host-node/file-image';
import { openDatabase } from '@pontrel/host-node/sqlite';
import type { ReadResult, StoredFiles } from './read-source';
import { storeDerived, withOwnFolder } from './store-derived';
import { fileImages, type StoredPictures, type StoredSource, withSources } from './stored-source';
import { type Progress, watchOver } from './watch';

/** What is to be worked out of sources, and the files that it is to be. */
export interface WorkOrder {
  rule: WorkedOut;
  /** With where each lies; null where nothing says so. */
  sources: { source: StoredSource; placement: Placement | null }[];
  /** Elevation models that have a role as well. */
  models: { pictures: StoredPictures; placement: Placement | null }[];
  /** A mark of the files and placements that it is made of. */
  inputs: string;
  files: StoredFiles;
}

/** The file in the folder of a source that holds its faults. */
export const FAULTS_FILE = 'faults.json';

/** What a person calls the records while they are written. */
const CALLED = { comparison: 'the differences', operation: 'what came of it' } as const;

/** Works records out of sources, and reads them as a source of their own. */
export async function workOutStored(order: WorkOrder, report: (progress: Progress) => void): Promise<ReadResult> {
  const { rule, sources, models, files, inputs } = order;
  const watch = watchOver(report, rule.by === 'comparison' ? 'Comparing' : 'Reading');
  const total = sources.reduce((n, { source }) => n + source.layers.reduce((m, l) => m + l.count, 0), 0);
  let done = 0;
  return withOwnFolder(files, async (own) => {
    const db = openDatabase(path.join(own, 'work.sqlite'), false);
    try {
      return await withSources(
        sources.map((s) => s.source),
        async (opened) => {
          const from = opened.map((source, k): ComparedSource => ({ ...source, placed: placedAs(sources[k]!.placement, source.extent) }));
          const { records, placed, figures, faults, findings } = await workOut(rule, [...from, ...models.map(modelSource)], db, (count) => {
            watch.check();
            watch.progress((done += count), Math.max(done, total));
          });
          const read = await storeDerived(files, own, records, placed, CALLED[rule.by], report);
          await writeFile(path.join(files.folder, FAULTS_FILE), JSON.stringify(faults));
          const made: MadeFacts = { figures, faults: countsOf(faults), inputs };
          return { ...read, facts: { ...read.facts, made }, findings: [...findings, ...read.findings] };
        },
      );
    } finally {
      db.close();
    }
  });
}

const placedAs = (placement: Placement | null, extent: ComparedSource['extent']): ComparedSource['placed'] =>
  placement && placedBy(placement, extent);

/** An elevation model as a source of points, one a pixel. */
const modelSource = ({ pictures, placement }: WorkOrder['models'][number]): ComparedSource => ({
  name: pictures.files.name,
  layers: [],
  unit: null,
  extent: null,
  findings: [],
  library: null,
  placed: placedAs(placement, null),
  async *records() {
    for (const image of fileImages([pictures])) {
      const opened = await fileImage(image).open(new Findings());
      try {
        yield* elevationPoints(opened, pictures.files.name);
      } finally {
        await opened.close();
      }
    }
  },
});

function countsOf(faults: readonly Fault[]): Record<string, number> {
  const counts: Record<string, number> = {};
  for (const { kind } of faults) counts[kind] = (counts[kind] ?? 0) + 1;
  return counts;
}
