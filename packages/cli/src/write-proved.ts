import { cp, mkdir, mkdtemp, readdir, rename, rm } from 'node:fs/promises';
import path from 'node:path';
import type { Plan } from '@pontrel/core/content/features/plan';
import { type Proof, proveDeliverable } from '@pontrel/core/content/features/prove';
import { type Feed, runDeliverable, type RunResult, type RunTarget } from '@pontrel/core/content/features/write';
import type { Format } from '@pontrel/core/formats/format';
import { UNWATCHED } from '@pontrel/core/io/bytes';
import { folderAt } from '@pontrel/host-node/files';

export interface Written {
  run: RunResult;
  proof: Proof;
  files: { path: string; sets: number[] }[];
}

/** Writes a deliverable beside its folder, proves it, and only then puts its files in their place, over older ones of the same names. */
export async function writeProved(
  format: Format,
  plan: Plan,
  feeds: readonly Feed[],
  goal: RunTarget,
  folder: string,
  total: number,
): Promise<Written> {
  await mkdir(folder, { recursive: true });
  const partial = await mkdtemp(path.join(folder, '.pontrel-'));
  try {
    const run = await runDeliverable(format, plan, feeds, goal, folderAt(partial), UNWATCHED, total);
    const proof = await proveDeliverable(format, plan, feeds, run.lost, goal, folderAt(partial), UNWATCHED, total);
    const files = format.write!.files(plan.sets, { stem: goal.stem, options: goal.options });
    // a set may be in more files than were forecast
    for (const name of await readdir(partial))
      await rename(path.join(partial, name), path.join(folder, name)).catch(() => cp(path.join(partial, name), path.join(folder, name)));
    return { run, proof, files: files.filter((f) => f.sets.length > 0).map((f) => ({ path: path.join(folder, f.name), sets: f.sets })) };
  } finally {
    await rm(partial, { recursive: true, force: true });
  }
}
