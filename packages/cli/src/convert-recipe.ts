import { readFile, stat } from 'node:fs/promises';
import path from 'node:path';
import { intoFrame, keeperOf, regionOf } from '@pontrel/core/crossing/area-of-interest';
import { makeCarrier } from '@pontrel/core/content/features/transform-batch';
import { misfits } from '@pontrel/core/crossing/validate-recipe';
import { crsOf, placedFor } from '@pontrel/core/placement/route';
import { fileStem } from '@pontrel/core/content/features/plan';
import { prepare } from '@pontrel/core/crossing/prepare';
import type { Deliverable, Recipe } from '@pontrel/core/crossing/recipe';
import { parseRecipe, recipeFor } from '@pontrel/core/crossing/recipe-file';
import type { Feed } from '@pontrel/core/content/features/write';
import { isReshaped, joinTables, rulesOf, shapedProfiles, shapeLayers, unitOfSource } from '@pontrel/core/crossing/shaped';
import { messageOf, Problem } from '@pontrel/core/model/problem';
import { joinFields } from '@pontrel/core/content/features/profile';
import { reshaped, type ReshapeContext } from '@pontrel/core/operations/reshape';
import { fileSource } from '@pontrel/host-node/files';
import type { Spool } from '@pontrel/host-node/store/spool';
import { surveyAll, type Surveyed } from './survey';
import { type Result, Usage } from './usage';
import { writeProved, type Written } from './write-proved';

/** Runs the rules of a crossing on files: each deliverable goes into a folder of its own within the last one named. */
export async function convertByRecipe(files: string[], recipeFile: string): Promise<Result> {
  if (files.length < 2) throw new Usage('Name the files that the recipe is to be run on, and the folder for what comes of it.');
  const output = files.at(-1)!;
  if (
    await stat(output).then(
      (s) => !s.isDirectory(),
      () => false,
    )
  )
    throw new Usage(`${output} is a file; a recipe writes into a folder.`);
  const recipe = parseRecipe(
    await readFile(recipeFile, 'utf8').catch((error: unknown) => {
      throw new Problem('recipe-unread', `${recipeFile} cannot be read as a recipe: ${messageOf(error)}.`, { file: recipeFile });
    }),
    recipeFile,
  );
  if (recipe.deliverables.length === 0) throw new Problem('recipe-empty', `${recipeFile} has no deliverable: there is nothing to write.`);
  return surveyAll(
    files.slice(0, -1),
    async (sources, spools) => {
      const named = recipeFor(
        recipe,
        sources.map((s) => s.name),
      );
      const told = misfits(named, sources);
      const written: { deliverable: Deliverable; done: Written; json: unknown[] }[] = [];
      for (const deliverable of named.deliverables)
        written.push(await deliver(named, deliverable, sources, spools, path.join(output, fileStem(deliverable.name))));
      const worst = (['failed', 'differs', 'match'] as const).find((status) => written.some((w) => w.done.proof.status === status))!;
      const findings = [...told, ...written.flatMap((w) => [...w.done.run.findings.list(), ...w.done.proof.findings])];
      return {
        json: {
          outputs: written.flatMap((w) => w.json),
          proof: {
            status: worst,
            records: { in: sum(written, (w) => w.done.proof.records.in), out: sum(written, (w) => w.done.proof.records.out) },
            maxDeviation_m: Math.max(...written.map((w) => w.done.proof.maxDeviation_m)),
            differences: written.flatMap((w) => w.done.proof.differences),
          },
          findings,
        },
        text: [
          ...told.map((f) => `${f.severity}: ${f.place}: ${f.message}`),
          ...written.flatMap(({ deliverable, done }) => [
            `${deliverable.name}: ${done.proof.status}, ${done.proof.records.out} of ${done.proof.records.in} records, at most ${(done.proof.maxDeviation_m * 1000).toPrecision(3)} mm off`,
            ...done.files.map((f) => `  wrote ${f.path}`),
          ]),
        ].join('\n'),
        exit: worst === 'failed' ? 1 : 0,
      };
    },
    (file) =>
      (
        recipe.sources[path.basename(file)] ??
        (files.length === 2 && Object.keys(recipe.sources).length === 1 ? Object.values(recipe.sources)[0] : undefined)
      )?.reading,
  );
}

const sum = <T>(list: readonly T[], pick: (item: T) => number): number => list.reduce((n, item) => n + pick(item), 0);

async function deliver(
  recipe: Recipe,
  deliverable: Deliverable,
  sources: readonly Surveyed[],
  spools: readonly Spool[],
  folder: string,
): Promise<{ deliverable: Deliverable; done: Written; json: unknown[] }> {
  const batchesOf = (name: string): ReturnType<Spool['batches']> => spools[sources.findIndex((s) => s.name === name)]!.batches();
  const target = crsOf(deliverable.crs);
  const placed = sources.filter((s) => target && placedFor(recipe, s.name, s.layers, target));
  const region = deliverable.area ? await regionOf(recipe, deliverable.area, batchesOf) : null;
  const contexts = new Map(
    await Promise.all(
      placed.map(async (s): Promise<[string, ReshapeContext]> => {
        const tables = await joinTables(
          recipe,
          s.name,
          (layer) => s.layers.filter((l) => l.name === layer).flatMap((l) => joinFields(l.groups).map((f) => f.name)),
          (name) => (sources.some((o) => o.name === name) ? () => batchesOf(name) : null),
        );
        return [
          s.name,
          {
            rules: rulesOf(recipe, s.name),
            library: s.open.library?.() ?? null,
            unit_m: unitOfSource(recipe, s.name),
            tables,
            inFrame: intoFrame(recipe, s.name),
            ...(region ? { keep: keeperOf(recipe, s.name, region) } : {}),
          },
        ];
      }),
    ),
  );
  const prepared = prepare(
    recipe,
    deliverable,
    await Promise.all(
      placed.map(async (s) => {
        const shaped = isReshaped(recipe, s.name, deliverable.area)
          ? await shapeLayers(() => batchesOf(s.name), contexts.get(s.name)!)
          : null;
        return {
          name: s.name,
          layers: shapedProfiles(s.layers, shaped, rulesOf(recipe, s.name)),
          findings: s.findings,
          reports: shaped?.reports ?? {},
          styles: Object.fromEntries(s.open.library?.()?.styles ?? []),
        };
      }),
    ),
  );
  if (prepared.forecast.blocked.length > 0)
    throw new Problem('deliverable-blocked', `${deliverable.name} cannot be written. ${prepared.forecast.blocked.join(' ')}`);
  const feeds = placed.map((s): Feed => ({
    carrier: makeCarrier(s.name, placedFor(recipe, s.name, s.layers, prepared.target.crs)!, prepared.target.crs),
    library: contexts.get(s.name)!.library,
    read: () => reshaped(() => batchesOf(s.name), contexts.get(s.name)!),
  }));
  const base = deliverable.into === undefined ? undefined : sources.find((s) => s.name === deliverable.into);
  const done = await writeProved(
    prepared.format,
    prepared.plan,
    feeds,
    base ? { ...prepared.target, base: await fileSource(base.path) } : prepared.target,
    folder,
    prepared.total,
  );
  return {
    deliverable,
    done,
    json: done.files.map((f) => ({
      path: f.path,
      format: prepared.format.id,
      layers: f.sets.map((k) => ({ name: prepared.plan.sets[k]!.name, count: done.run.written[k]! })),
    })),
  };
}
