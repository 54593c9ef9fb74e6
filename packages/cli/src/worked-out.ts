import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import path from 'node:path';
import type { ComparedSource } from '@pontrel/core/crossing/compare-sources';
import { writeDerived } from '@pontrel/core/crossing/derived-source';
import type { Recipe } from '@pontrel/core/crossing/recipe';
import { workOut } from '@pontrel/core/crossing/work-out';
import { type WorkedOut, workedOutOf } from '@pontrel/core/crossing/worked-out';
import type { FeatureBatch } from '@pontrel/core/model/batch';
import type { Finding } from '@pontrel/core/model/finding';
import { Problem } from '@pontrel/core/model/problem';
import { placedBy } from '@pontrel/core/placement/route';
import { folderAt } from '@pontrel/host-node/files';
import { openDatabase } from '@pontrel/host-node/sqlite';
import { elevationSource } from './elevation-source';
import { gatherAll, type GatheredSource } from './gathered';
import type { ImageInput } from './images';
import { progressBar } from './progress';
import { removedAtEnd } from './temporary';

/**
 * Works out the sources that the rules of a recipe make of others and that are not among the inputs, each by a file of its own as the page
 * makes one. One whose sources are not all here is left out, which `validateRecipe` tells.
 * @param images pictures of the sources that hold such
 * @param use gets the sources with those that were worked out; their files are gone when it is done
 */
export async function withWorkedOut<T>(
  recipe: Recipe,
  sources: readonly GatheredSource[],
  images: ReadonlyMap<string, readonly ImageInput[]>,
  use: (sources: readonly GatheredSource[]) => Promise<T>,
): Promise<T> {
  const here = new Set([...sources.map((s) => s.name), ...images.keys()]);
  const next = Object.entries(recipe.sources).find(([name, { workedOut }]) => workedOut && !here.has(name) && canBe(workedOut, here));
  if (!next) return use(sources);
  const [name, { workedOut: rule }] = next;
  const folder = await mkdtemp(path.join(tmpdir(), 'pontrel-worked-out-'));
  const done = removedAtEnd(folder);
  try {
    const { file, findings } = await written(recipe, name, rule!, sources, images, folder);
    return await gatherAll([file], ([own]) =>
      withWorkedOut(recipe, [...sources, { ...own!, name, findings: [...findings, ...own!.findings] }], images, use),
    );
  } finally {
    await rm(folder, { recursive: true, force: true });
    done();
  }
}

const canBe = (rule: WorkedOut, here: ReadonlySet<string>): boolean =>
  workedOutOf(rule).every((name) => here.has(name)) && !(rule.by === 'comparison' && rule.old === rule.next);

/** Works out one source and writes its file, proved. @throws Problem `worked-out-differs` */
async function written(
  recipe: Recipe,
  name: string,
  rule: WorkedOut,
  sources: readonly GatheredSource[],
  images: ReadonlyMap<string, readonly ImageInput[]>,
  folder: string,
): Promise<{ file: string; findings: Finding[] }> {
  const placed = <S extends Pick<ComparedSource, 'name' | 'extent'>>(source: S): S & Pick<ComparedSource, 'placed'> => {
    const placement = recipe.sources[source.name]?.placement;
    return { ...source, placed: placement ? placedBy(placement, source.extent) : null };
  };
  const from = await Promise.all(
    workedOutOf(rule).map(async (own): Promise<ComparedSource> => {
      const source = sources.find((s) => s.name === own);
      return placed(source ?? (await elevationModel(own, images.get(own)!)));
    }),
  );
  const db = openDatabase(path.join(folder, 'work.sqlite'), false);
  const bar = progressBar(`Working out ${name}`);
  try {
    const { records, placed: where, findings } = await workOut(rule, from, db, () => bar.watch.check());
    const out = folderAt(folder);
    const stem = path.parse(name).name;
    const { proof, prepared } = await writeDerived(stem, records, where, out, { writing: bar.watch, proving: bar.watch });
    if (proof.status !== 'match')
      throw new Problem('worked-out-differs', `${name} was worked out and does not read back as it was written. Nothing was delivered.`);
    const [file] = prepared.format.features.write!.files(prepared.plan.sets, prepared.target);
    return { file: path.join(folder, file!.name), findings };
  } finally {
    bar.stop();
    db.close();
  }
}

/** The images of a source as points with heights. */
async function elevationModel(name: string, images: readonly ImageInput[]): Promise<ComparedSource> {
  const models = await Promise.all(images.map(elevationSource));
  return {
    name,
    layers: models.flatMap((m) => m.layers),
    unit: null,
    extent: null,
    findings: models.flatMap((m) => m.findings),
    library: null,
    placed: null,
    async *records(): AsyncGenerator<FeatureBatch> {
      for (const model of models) yield* model.records();
    },
  };
}
