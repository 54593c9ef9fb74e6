import { cp, mkdir, mkdtemp, readdir, rename, rm } from 'node:fs/promises';
import path from 'node:path';
import type { FolderSink, FolderSource, Watch } from '@pontrel/core/io/bytes';
import { folderAt } from '@pontrel/host-node/files';
import { progressBar } from './progress';
import { removedAtEnd } from './temporary';

/**
 * Runs a deliverable beside its folder, and puts its files in their place only when they could be read back, over older ones of the
 * same names.
 * @param name of the deliverable, for its progress
 * @param run writes into a folder, and is told where that lies
 * @returns the report, and the names of the files that were put in their place
 */
export async function runInPlace<R extends { proof: { status: string } }>(
  name: string,
  folder: string,
  run: (partial: FolderSink & FolderSource, watches: { writing: Watch; proving: Watch }, folder: string) => Promise<R>,
): Promise<{ report: R; names: string[] }> {
  await mkdir(folder, { recursive: true });
  const partial = await mkdtemp(path.join(folder, '.pontrel-'));
  const done = removedAtEnd(partial);
  const bars = { writing: progressBar(`Writing ${name}`), proving: progressBar(`Proving ${name}`) };
  try {
    const report = await run(folderAt(partial), { writing: bars.writing.watch, proving: bars.proving.watch }, partial);
    // there may be more files than were forecast
    const names = report.proof.status === 'failed' ? [] : await readdir(partial);
    for (const file of names)
      await rename(path.join(partial, file), path.join(folder, file)).catch(() => cp(path.join(partial, file), path.join(folder, file)));
    return { report, names };
  } finally {
    bars.writing.stop();
    bars.proving.stop();
    await rm(partial, { recursive: true, force: true });
    done();
  }
}
