import { extentOf } from '@pontrel/core/crossing/placement-of';
import type { Placement } from '@pontrel/core/placement/placement';
import type { LayerRule } from '@pontrel/core/operations/layer-rule';
import type { CrossingSource } from '@pontrel/core/crossing/crossing-source';
import { runDeliverable, type RunReport } from '@pontrel/core/crossing/pipeline';
import { type Deliverable, EMPTY_RECIPE, type Recipe } from '@pontrel/core/crossing/recipe';
import type { Proof } from '@pontrel/core/content/features/proof';
import type { Crs } from '@pontrel/core/crs/crs';
import { recogniseFormat } from '@pontrel/core/formats/index';
import { UNWATCHED } from '@pontrel/core/io/bytes';
import type { FeatureBatch } from '@pontrel/core/model/batch';
import { type Finding, Findings } from '@pontrel/core/model/finding';
import { Profiler } from '@pontrel/core/content/features/profile';
import type { SymbolLibrary } from '@pontrel/core/symbology/library';
import { fileSource, folderAt } from '@pontrel/host-node/files';

export interface Gathered {
  name: string;
  batches: FeatureBatch[];
  profiler: Profiler;
  findings: Finding[];
  library: SymbolLibrary | null;
  /** The system that it states. */
  crs?: Crs | null;
  /** The file that it was read from; absent for batches that were made in a test. */
  file?: string;
}

/** Reads a file into memory, as a crossing would into its store. */
export async function gather(file: string): Promise<Gathered> {
  const source = await fileSource(file);
  const open = await (await recogniseFormat(source)).features.open(source);
  const findings = new Findings();
  const profiler = new Profiler();
  const batches: FeatureBatch[] = [];
  for await (const batch of open.read(findings, UNWATCHED)) {
    profiler.add(batch);
    batches.push(batch);
  }
  return {
    name: source.name,
    batches,
    profiler,
    findings: findings.list(),
    library: open.library?.() ?? null,
    crs: open.facts().crs,
    file,
  };
}

/** The file read once more, or the batches once more where there is none. */
async function reopened({ file, batches }: Gathered): ReturnType<CrossingSource['reopen']> {
  if (file !== undefined) {
    const source = await fileSource(file);
    return (await recogniseFormat(source)).features.open(source);
  }
  return {
    async *read() {
      yield* batches;
    },
    facts: () => ({ crs: null, crsText: null, unit: null, version: null }),
  };
}

/** What was gathered as a source of a crossing. */
export const sourceOf = (s: Gathered): CrossingSource => ({
  name: s.name,
  layers: s.profiler.layers(),
  extent: extentOf(s.profiler.layers()),
  unit: null,
  findings: s.findings,
  library: s.library,
  styles: Object.fromEntries(s.library?.styles ?? []),
  records: () => s.batches,
  reopen: () => reopened(s),
});

export interface Crossed {
  report: RunReport;
  prepared: RunReport['prepared'];
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
  chord_m?: number;
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
    ...(job.chord_m ? { chord_m: job.chord_m } : {}),
    frame: { crs: job.crs },
    sources: Object.fromEntries(
      all.map((s) => [s.name, { placement: job.placement ?? { crs: job.crs, unit_m: null }, layers: job.rules ?? {} }]),
    ),
    deliverables: [deliverable],
  };
  const report = await runDeliverable(recipe, deliverable, all.map(sourceOf), folderAt(folder));
  return { report, prepared: report.prepared, proof: report.proof };
}
