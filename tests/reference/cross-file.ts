import { makeCarrier } from '@pontrel/core/content/features/transform-batch';
import { placedFor } from '@pontrel/core/placement/route';
import { prepare, type Prepared } from '@pontrel/core/crossing/prepare';
import { type Proof, proveDeliverable } from '@pontrel/core/content/features/prove';
import { type Deliverable, EMPTY_RECIPE, type LayerRule, type Placement, type Recipe } from '@pontrel/core/crossing/recipe';
import { type Feed, runDeliverable, type RunResult } from '@pontrel/core/content/features/write';
import { isReshaped, joinTables, shapedProfiles, shapeLayers, unitOfSource } from '@pontrel/core/crossing/shaped';
import type { Crs } from '@pontrel/core/crs/crs';
import { recogniseFormat } from '@pontrel/core/formats/index';
import { UNWATCHED } from '@pontrel/core/io/bytes';
import type { FeatureBatch } from '@pontrel/core/model/batch';
import { type Finding, Findings } from '@pontrel/core/model/finding';
import { joinFields, Profiler } from '@pontrel/core/content/features/profile';
import type { SymbolLibrary } from '@pontrel/core/symbology/library';
import { reshaped, type ReshapeContext } from '@pontrel/core/operations/reshape';
import { fileSource, folderAt } from '@pontrel/host-node/files';

export interface Gathered {
  name: string;
  batches: FeatureBatch[];
  profiler: Profiler;
  findings: Finding[];
  library: SymbolLibrary | null;
  /** The system that it states. */
  crs?: Crs | null;
}

/** Reads a file into memory, as a crossing would into its store. */
export async function gather(file: string): Promise<Gathered> {
  const source = await fileSource(file);
  const open = await (await recogniseFormat(source)).open(source);
  const findings = new Findings();
  const profiler = new Profiler();
  const batches: FeatureBatch[] = [];
  for await (const batch of open.read(findings, UNWATCHED)) {
    profiler.add(batch);
    batches.push(batch);
  }
  return { name: source.name, batches, profiler, findings: findings.list(), library: open.library?.() ?? null, crs: open.facts().crs };
}

export interface Crossed {
  prepared: Prepared;
  run: RunResult;
  proof: Proof;
}

export interface Job {
  format: string;
  crs: string;
  placement?: Placement;
  options?: Deliverable['options'];
  grouping?: 'layer' | 'kind';
  rules?: Record<string, LayerRule>;
  name?: string;
}

/** Carries gathered sources across into `folder`, and proves it. */
export async function crossInto(folder: string, sources: Gathered | Gathered[], job: Job): Promise<Crossed> {
  const deliverable: Deliverable = {
    id: 'd',
    name: job.name ?? 'Plan',
    format: job.format,
    crs: job.crs,
    grouping: job.grouping ?? 'layer',
    ...(job.options ? { options: job.options } : {}),
  };
  const all = [sources].flat();
  const recipe: Recipe = {
    ...structuredClone(EMPTY_RECIPE),
    frame: { crs: job.crs },
    sources: Object.fromEntries(
      all.map((s) => [s.name, { placement: job.placement ?? { crs: job.crs, unit_m: null }, layers: job.rules ?? {} }]),
    ),
    deliverables: [deliverable],
  };
  const rules = job.rules ?? {};
  const contexts = new Map(
    await Promise.all(
      all.map(async (s): Promise<[string, ReshapeContext]> => {
        const tables = await joinTables(
          recipe,
          s.name,
          (layer) =>
            s.profiler
              .layers()
              .filter((l) => l.name === layer)
              .flatMap((l) => joinFields(l.groups).map((f) => f.name)),
          (name) => {
            const other = all.find((o) => o.name === name);
            return other ? () => other.batches : null;
          },
        );
        return [s.name, { rules, library: s.library, unit_m: unitOfSource(recipe, s.name), tables }];
      }),
    ),
  );
  const prepared = prepare(
    recipe,
    deliverable,
    await Promise.all(
      all.map(async (s) => {
        const shaped = isReshaped(recipe, s.name, undefined) ? await shapeLayers(() => s.batches, contexts.get(s.name)!) : null;
        return {
          name: s.name,
          layers: shapedProfiles(s.profiler.layers(), shaped, rules),
          findings: s.findings,
          reports: shaped?.reports ?? {},
          styles: Object.fromEntries(s.library?.styles ?? []),
        };
      }),
    ),
  );
  const feeds = all.map((s): Feed => ({
    carrier: makeCarrier(s.name, placedFor(recipe, s.name, s.profiler.layers(), prepared.target.crs)!, prepared.target.crs),
    library: s.library,
    read: () => reshaped(() => s.batches, contexts.get(s.name)!),
  }));
  const run = await runDeliverable(prepared.format, prepared.plan, feeds, prepared.target, folderAt(folder), UNWATCHED, prepared.total);
  const proof = await proveDeliverable(
    prepared.format,
    prepared.plan,
    feeds,
    run.lost,
    prepared.target,
    folderAt(folder),
    UNWATCHED,
    prepared.total,
  );
  return { prepared, run, proof };
}
