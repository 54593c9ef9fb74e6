import { mkdir, rename, rm } from 'node:fs/promises';
import path from 'node:path';
import { writeDerived } from '@pontrel/core/crossing/derived-source';
import type { FeatureBatch } from '@pontrel/core/model/batch';
import type { PlacedIn } from '@pontrel/core/placement/route';
import { folderAt } from '@pontrel/host-node/files';
import { proofFailed } from './proof-failed';
import { mainFile, type ReadResult, readSource, type StoredFiles } from './read-source';
import { type Progress, watchOver } from './watch';

/** A folder of its own in that of a source, which is gone when `use` is done with it. */
export async function withOwnFolder<T>({ folder }: StoredFiles, use: (own: string) => Promise<T>): Promise<T> {
  const own = path.join(folder, 'work');
  await mkdir(own, { recursive: true });
  try {
    return await use(own);
  } finally {
    await rm(own, { recursive: true, force: true });
  }
}

/**
 * Writes records that were worked out as the file of a source, proved, and reads it like any other.
 * @param own an empty folder
 * @param what the records are called while they are written
 * @throws Problem when what was written is not what was worked out
 */
export async function storeDerived(
  files: StoredFiles,
  own: string,
  records: () => Iterable<FeatureBatch>,
  placed: PlacedIn | null,
  what: string,
  report: (progress: Progress) => void,
): Promise<ReadResult> {
  const out = path.join(own, 'out');
  await mkdir(out);
  const { proof, prepared } = await writeDerived('source', records, placed, folderAt(out), {
    writing: watchOver(report, `Writing ${what}`),
    proving: watchOver(report, `Proving ${what}`),
  });
  if (proof.status !== 'match') throw proofFailed(files.name, proof.differences);
  const [written] = prepared.format.features.write!.files(prepared.plan.sets, {
    stem: prepared.target.stem,
    options: prepared.target.options,
  });
  await rename(path.join(out, written!.name), mainFile(files));
  return readSource(files, report);
}
