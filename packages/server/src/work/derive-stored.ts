import path from 'node:path';
import { writeFile } from 'node:fs/promises';
import type { DerivedFacts } from '@pontrel/contract/crossing';
import { derivationById } from '@pontrel/core/content/derived/derivations';
import type { Fault } from '@pontrel/core/content/derived/fault';
import { deriveRecords, type DerivationSource } from '@pontrel/core/crossing/derive-records';
import { BatchBuilder } from '@pontrel/core/model/batch-builder';
import type { FeatureBatch } from '@pontrel/core/model/batch';
import { NO_GEOMETRY } from '@pontrel/core/model/batch';
import { elevationPoints } from '@pontrel/core/content/surfaces/elevation-points';
import { Findings } from '@pontrel/core/model/finding';
import { fileImage } from '@pontrel/host-node/file-image';
import { crsOf, placedBy } from '@pontrel/core/placement/route';
import type { Placement } from '@pontrel/core/placement/placement';
import type { ReadResult, StoredFiles } from './read-source';
import { storeDerived, withOwnFolder } from './store-derived';
import { fileImages, type StoredPictures, type StoredSource, withSources } from './stored-source';
import { type Progress, watchOver } from './watch';

/** What is to be worked out of sources that are placed, and the files that it is to be. */
export interface DeriveOrder {
  wanted: Omit<DerivedFacts, 'figures' | 'faults'>;
  sources: StoredSource[];
  placements: Placement[];
  /** Elevation models that have a role as well, and where each lies. */
  models: { pictures: StoredPictures; placement: Placement }[];
  /** The plane that is worked in, as a recipe has it. */
  frame: string;
  files: StoredFiles;
}

/** The file in the folder of a source that holds its faults. */
export const FAULTS_FILE = 'faults.json';

/** Works records out of layers, and reads them as a source of their own. */
export async function deriveStored(order: DeriveOrder, report: (progress: Progress) => void): Promise<ReadResult> {
  const { wanted, sources, placements, models, frame, files } = order;
  const derivation = derivationById(wanted.operation)!;
  const watch = watchOver(report, 'Reading');
  const total = sources.reduce((n, s) => n + s.layers.reduce((m, l) => m + l.count, 0), 0);
  let done = 0;
  return withOwnFolder(files, (own) =>
    withSources(sources, async (opened) => {
      const from = [
        ...opened.map((source, k): DerivationSource => ({ ...source, placed: placedBy(placements[k]!, source.extent)! })),
        ...models.map(modelSource),
      ];
      const { name, roles, settings } = wanted;
      const { records, figures, faults, findings } = await deriveRecords(
        derivation,
        from,
        { roles, settings, name, crs: crsOf(frame)! },
        (count) => {
          watch.check();
          watch.progress((done += count), Math.max(done, total));
        },
      );
      const placed = { crs: crsOf(frame)!, parameters: { unit_m: null }, extent: null };
      const read = await storeDerived(files, own, () => orSummary(records(), name, figures), placed, 'what came of it', report);
      await writeFile(path.join(files.folder, FAULTS_FILE), JSON.stringify(faults));
      const derived: DerivedFacts = { ...wanted, figures, faults: countsOf(faults) };
      return { ...read, facts: { ...read.facts, derived }, findings: [...findings, ...read.findings] };
    }),
  );
}

/** An elevation model as a source of points, one a pixel. */
const modelSource = ({ pictures, placement }: DeriveOrder['models'][number]): DerivationSource => ({
  name: pictures.files.name,
  layers: [],
  findings: [],
  placed: placedBy(placement, null)!,
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

/** The records, or where there is none a table of the figures: that nothing is at fault is a result as well. */
function* orSummary(records: Iterable<FeatureBatch>, name: string, figures: Readonly<Record<string, number>>): Generator<FeatureBatch> {
  let some = false;
  for (const batch of records) {
    if (batch.count > 0) some = true;
    yield batch;
  }
  if (some) return;
  const builder = new BatchBuilder(name);
  for (const [n, [figure, value]] of Object.entries(figures).entries()) {
    builder.set('figure', figure);
    builder.set('value', value);
    builder.endFeature(NO_GEOMETRY, 'Figure', n + 1);
  }
  yield builder.take();
}
