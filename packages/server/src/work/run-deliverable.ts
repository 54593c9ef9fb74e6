import { mkdir, readdir, stat } from 'node:fs/promises';
import path from 'node:path';
import { makeCarrier } from '@pontrel/core/content/features/transform-batch';
import { northUp } from '@pontrel/core/crs/crs';
import { crsOf, placedFor, routeTo } from '@pontrel/core/placement/route';
import { prepare, type PreparedSource } from '@pontrel/core/crossing/prepare';
import { type Proof, proveDeliverable } from '@pontrel/core/content/features/prove';
import type { Deliverable, Recipe } from '@pontrel/core/crossing/recipe';
import { type Feed, runDeliverable as runInto } from '@pontrel/core/content/features/write';
import { Problem } from '@pontrel/core/model/problem';
import { reshaped } from '@pontrel/core/operations/reshape';
import { fileSource, folderAt } from '@pontrel/host-node/files';
import { FeatureStore, FeatureStoreWriter } from '@pontrel/host-node/store/feature-store';
import { mainFile, storedFiles } from './read-source';
import { contextOf, regionFrom, shapedSource } from './shape-source';
import { type Line, watchOver } from './watch';

export interface RunRequest {
  recipe: Recipe;
  deliverable: Deliverable;
  sources: (PreparedSource & { store: string })[];
  /** An empty folder of the run's own. */
  folder: string;
}

export interface RunResult {
  files: { name: string; bytes: number }[];
  proof: Proof;
}

export const FILES_FOLDER = 'files';
export const READ_BACK_FILE = 'readback.sqlite';

/** Writes a deliverable's files and proves them; nothing outside the given folder is touched. */
export async function runDeliverable(request: RunRequest, line: Line): Promise<RunResult> {
  const { recipe, deliverable } = request;
  const storeOf = Object.fromEntries(request.sources.map((s) => [s.name, s.store]));
  const region = await regionFrom(recipe, deliverable.area, storeOf);
  const sources = await Promise.all(request.sources.map((s) => shapedSource(recipe, s, deliverable.area, region, storeOf)));
  const { format, target, plan, forecast, total } = prepare(recipe, deliverable, sources);
  if (forecast.blocked.length > 0)
    throw new Problem('deliverable-blocked', `${deliverable.name} cannot run yet. ${forecast.blocked.join(' ')}`);
  const frame = recipe.frame ? crsOf(recipe.frame.crs) : null;
  const drawn = frame && northUp(frame);
  const taken = new Set(plan.sets.flatMap((s) => s.members.map((m) => m.source)));
  const stores: FeatureStore[] = [];
  const feeds = await Promise.all(
    sources
      .filter((s) => taken.has(s.name))
      .map(async (s): Promise<Feed> => {
        const placed = placedFor(recipe, s.name, s.layers, target.crs)!;
        const store = new FeatureStore(s.store);
        stores.push(store);
        const context = await contextOf(recipe, s.name, store, region, storeOf);
        const show = drawn ? routeTo(placed, drawn).transform : null;
        return {
          carrier: makeCarrier(s.name, placed, target.crs),
          library: store.library(),
          locate(x, y) {
            const point = Float64Array.of(x, y);
            show?.apply(point, 0, 1, 2);
            return [point[0]!, point[1]!];
          },
          async *read(watch) {
            for await (const batch of reshaped(() => store.batches(), context)) {
              watch.check();
              yield batch;
            }
          },
        };
      }),
  );
  const files = path.join(request.folder, FILES_FOLDER);
  await mkdir(files, { recursive: true });
  const back = new FeatureStoreWriter(path.join(request.folder, READ_BACK_FILE));
  try {
    const base = deliverable.into === undefined ? undefined : request.sources.find((s) => s.name === deliverable.into);
    const goal = base
      ? { ...target, base: await fileSource(mainFile(storedFiles(path.dirname(base.store), base.name, format.id, undefined)), base.name) }
      : target;
    const run = await runInto(format, plan, feeds, goal, folderAt(files), watchOver(line, 'Writing'), total);
    const proof = await proveDeliverable(format, plan, feeds, run.lost, target, folderAt(files), watchOver(line, 'Proving'), total, {
      batch: (set, batch) => back.add(batch, set.name),
      library: (library) => back.setLibrary(library),
    });
    if (proof.status === 'failed')
      throw new Problem(
        'proof-failed',
        `The files of ${deliverable.name} could not be read back: ${proof.differences.map((d) => d.message).join(' ')} They were thrown away.`,
      );
    proof.findings.push(...run.findings.list());
    back.close();
    return { files: await sizesOf(files), proof };
  } catch (error) {
    back.abandon();
    throw error;
  } finally {
    for (const store of stores) store.close();
  }
}

async function sizesOf(folder: string): Promise<{ name: string; bytes: number }[]> {
  const names = (await readdir(folder)).sort();
  return Promise.all(names.map(async (name) => ({ name, bytes: (await stat(path.join(folder, name))).size })));
}
