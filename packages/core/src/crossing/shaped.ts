import type { FeatureBatch } from '../model/batch';
import { type LayerProfile, Profiler } from '../model/profile';
import { reshaped, type ReshapeContext, reshapedLayers, type ShapeReport } from '../shape/reshape';
import { compilePlane } from '../placement/plane';
import { Problem } from '../model/problem';
import { unitOf } from './cross';
import { placementOf } from './placement';
import type { AreaOfInterest, LayerRule, Recipe } from './recipe';

/** Layers of a source as the rules shape them, and what was done to each. */
export interface Shaped {
  /** Whether all layers were summed up again, and not only those with rules. */
  all: boolean;
  layers: LayerProfile[];
  reports: Record<string, ShapeReport>;
}

export function rulesOf(recipe: Recipe, source: string): Readonly<Record<string, LayerRule>> {
  return recipe.sources[source]?.layers ?? {};
}

/** Whether some rule of a source, or an area of interest, changes its records, so that its layers have to be summed up again. */
export function isReshaped(recipe: Recipe, source: string, area: AreaOfInterest | undefined): boolean {
  return area !== undefined || reshapedLayers(rulesOf(recipe, source)).size > 0;
}

/** Metres in one unit of a source's own numbers; 1 until it is placed. */
export function unitOfSource(recipe: Recipe, source: string): number {
  const placed = placementOf(recipe, source);
  try {
    return placed ? unitOf(placed, compilePlane(placed.crs, placed.numbers)) : 1;
  } catch (error) {
    // marks that do not hold a fit: the forecast says so by its own attempt
    if (error instanceof Problem) return 1;
    throw error;
  }
}

/** Sums up the layers that the rules change, from all their records. */
export async function shapeLayers(read: () => Iterable<FeatureBatch> | AsyncIterable<FeatureBatch>, context: ReshapeContext): Promise<Shaped> {
  const layers = reshapedLayers(context.rules);
  const profiler = new Profiler();
  const reports = new Map<string, ShapeReport>();
  for await (const batch of reshaped(read, context, reports)) if (context.keep || layers.has(batch.layer)) profiler.add(batch);
  return { all: context.keep !== undefined, layers: profiler.layers(), reports: Object.fromEntries(reports) };
}

/** The layers as they will cross: those that were summed up again in place of what the reader found; one of which nothing is left is empty. */
export function shapedProfiles(layers: readonly LayerProfile[], shaped: Shaped | null, rules: Readonly<Record<string, LayerRule>>): LayerProfile[] {
  if (!shaped) return [...layers];
  const changed = reshapedLayers(rules);
  return layers.map((layer) => (shaped.all || changed.has(layer.name) ? (shaped.layers.find((l) => l.name === layer.name) ?? { ...layer, count: 0, groups: [] }) : layer));
}
