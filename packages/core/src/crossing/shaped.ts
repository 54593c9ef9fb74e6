import type { FeatureBatch } from '../model/batch';
import { type LayerProfile, Profiler } from '../content/features/profile';
import { reshaped, type ReshapeContext, reshapedLayers, type ShapeReport } from '../operations/reshape';
import { joinTable, type JoinTable } from '../operations/join';
import { compilePlane } from '../placement/placement-transform';
import { Problem } from '../model/problem';
import { unitOf } from '../content/features/transform-batch';
import { placementOf } from '../placement/route';
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

/** The sources that the joins of a source take tables from. */
export function joinedSources(recipe: Recipe, source: string): string[] {
  return [...new Set(Object.values(rulesOf(recipe, source)).flatMap((rule) => (rule.join ? [rule.join.source] : [])))];
}

/**
 * The tables that the layers of a source are joined with.
 * @param fields names of the fields of a layer, as it came
 * @param read gives the records of another source; null where it is not there
 * @throws Problem for a table that is not there
 */
export async function joinTables(
  recipe: Recipe,
  source: string,
  fields: (layer: string) => Iterable<string>,
  read: (source: string) => (() => Iterable<FeatureBatch> | AsyncIterable<FeatureBatch>) | null,
): Promise<Map<string, JoinTable>> {
  const out = new Map<string, JoinTable>();
  for (const [layer, { join, taken }] of Object.entries(rulesOf(recipe, source))) {
    if (!join || taken === false) continue;
    const from = read(join.source);
    if (!from)
      throw new Problem(
        'join-missing',
        `${join.source}, whose table ${join.layer} is joined to ${layer}, is not here. Choose another table in Shape.`,
      );
    out.set(layer, await joinTable(join, new Set(fields(layer)), from));
  }
  return out;
}

/** Sums up the layers that the rules change, from all their records. */
export async function shapeLayers(
  read: () => Iterable<FeatureBatch> | AsyncIterable<FeatureBatch>,
  context: ReshapeContext,
): Promise<Shaped> {
  const layers = reshapedLayers(context.rules);
  const profiler = new Profiler();
  const reports = new Map<string, ShapeReport>();
  for await (const batch of reshaped(read, context, reports)) if (context.keep || layers.has(batch.layer)) profiler.add(batch);
  return { all: context.keep !== undefined, layers: profiler.layers(), reports: Object.fromEntries(reports) };
}

/** The layers as they will cross: those that were summed up again in place of what the reader found; one of which nothing is left is empty. */
export function shapedProfiles(
  layers: readonly LayerProfile[],
  shaped: Shaped | null,
  rules: Readonly<Record<string, LayerRule>>,
): LayerProfile[] {
  if (!shaped) return [...layers];
  const changed = reshapedLayers(rules);
  return layers.map((layer) =>
    shaped.all || changed.has(layer.name)
      ? (shaped.layers.find((l) => l.name === layer.name) ?? { ...layer, count: 0, groups: [] })
      : layer,
  );
}
