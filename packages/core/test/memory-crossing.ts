import { extentOf } from '../src/crossing/placement-of';
import { type LayerProfile, Profiler } from '../src/content/features/profile';
import type { CrossingSource } from '../src/crossing/crossing-source';
import { runDeliverable, type RunReport } from '../src/crossing/pipeline';
import type { Deliverable, Recipe } from '../src/crossing/recipe';
import type { FeatureBatch } from '../src/model/batch';
import type { Finding } from '../src/model/finding';
import type { SymbolLibrary } from '../src/symbology/library';
import { MemoryFolder } from './memory-files';

export function profiled(batches: readonly FeatureBatch[]): LayerProfile[] {
  const profiler = new Profiler();
  for (const batch of batches) profiler.add(batch);
  return profiler.layers();
}

/** A source that is nothing but batches, and what its reader would have found. */
export function memoryCrossingSource(
  name: string,
  batches: readonly FeatureBatch[],
  {
    findings = [],
    library = null,
    again = batches,
  }: { findings?: readonly Finding[]; library?: SymbolLibrary | null; again?: readonly FeatureBatch[] } = {},
): CrossingSource {
  const layers = profiled(batches);
  return {
    name,
    layers,
    extent: extentOf(layers),
    unit: null,
    findings,
    library,
    styles: Object.fromEntries(library?.styles ?? []),
    records: () => batches,
    reopen: () =>
      Promise.resolve({
        async *read(found) {
          for (const finding of findings) found.add(finding);
          yield* again;
        },
        facts: () => ({ crs: null, crsText: null, unit: null, version: null }),
      }),
  };
}

/** A folder whose files are tampered with after they were written, before they are read back. */
class TamperedFolder extends MemoryFolder {
  private done = false;

  constructor(private readonly tamper: (files: Map<string, Uint8Array>) => void) {
    super();
  }

  override open(name: string): ReturnType<MemoryFolder['open']> {
    if (!this.done && !name.startsWith('scratch')) {
      this.done = true;
      this.tamper(this.files);
    }
    return super.open(name);
  }
}

/** Runs a deliverable through the pipeline, in memory. */
export async function runInMemory(
  recipe: Recipe,
  deliverable: Deliverable,
  sources: readonly CrossingSource[],
  tamper: (files: Map<string, Uint8Array>) => void = () => {},
): Promise<{ report: RunReport; folder: MemoryFolder }> {
  const folder = new TamperedFolder(tamper);
  return { report: await runDeliverable(recipe, deliverable, sources, folder), folder };
}
