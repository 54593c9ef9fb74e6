import type { SourceContext } from '../operations/apply';
import { type Extended, placementOf } from './placement-of';
import type { LayerRule } from '../operations/layer-rule';
import { type FeatureBatch, KINDS } from '../model/batch';
import type { Crs } from '../crs/crs';
import type { ReadBatches } from '../operations/operation';
import { groupKey, type NoImage } from '../content/features/forecast';
import { placesInTarget, routeTo } from '../placement/route';
import { type LayerProfile, Profiler } from '../content/features/profile';
import { applyOperations, reshapedLayers, type LayerReport } from '../operations/apply';
import { joinTable, type JoinTable } from '../operations/join-table';
import { compilePlacement } from '../placement/placement-transform';
import { Problem } from '../model/problem';
import { placeBatch, positionLimits, type SourceTransform, transformBatch, unitOf } from '../content/features/transform-batch';
import type { AreaOfInterest, Recipe } from './recipe';

/** Layers of a source as the rules shape them, and what was done to each. */
export interface Shaped {
  /** Whether all layers were summed up again, and not only those with rules. */
  all: boolean;
  layers: LayerProfile[];
  reports: Record<string, LayerReport>;
  noImage: NoImage;
}

/** The rules of the layers of a source, by layer. */
export function rulesOf(recipe: Recipe, source: string): Readonly<Record<string, LayerRule>> {
  return recipe.sources[source]?.layers ?? {};
}

/** Whether some rule of a source, or an area of interest, changes its records, so that its layers have to be summed up again. */
export function isReshaped(recipe: Recipe, source: string, area: AreaOfInterest | undefined): boolean {
  return area !== undefined || reshapedLayers(rulesOf(recipe, source)).size > 0;
}

/** Metres in one unit of a source's own numbers; 1 until it is placed. */
export function unitOfSource(recipe: Recipe, source: string): number {
  const placed = placementOf(recipe, { name: source, extent: null });
  try {
    return placed ? unitOf(placed, compilePlacement(placed.crs, placed.parameters)) : 1;
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

/** Cells along each side of the grid of places by which an extent is tried. */
const TRIED = 12;

/** Whether records of a source may have no image in a system: some place of their extent has none there. */
export function mayLackImage(recipe: Recipe, source: Extended & { layers: readonly LayerProfile[] }, target: Crs): boolean {
  const placed = placementOf(recipe, source);
  if (!placed) return false;
  try {
    const route = routeTo(placed, target);
    return source.layers.some(({ extent, nowhere = 0 }) => {
      if (nowhere > 0) return true;
      if (!extent) return false;
      const p = placesInTarget(route, extent, TRIED);
      const limits = positionLimits(target);
      return !p.every((v, k) => Math.abs(v) <= limits[k % 2]!);
    });
  } catch (error) {
    // a fit or a way that is not there stands in the way of the forecast, which says so itself
    if (error instanceof Problem) return false;
    throw error;
  }
}

/**
 * Sums up the layers that the rules change, from all their records.
 * @param transform where some records may have no image: into the target, to count them
 */
export async function shapeLayers(
  read: ReadBatches,
  context: SourceContext,
  transform: SourceTransform | null,
  chord_m: number,
): Promise<Shaped> {
  const layers = reshapedLayers(context.rules);
  const profiler = new Profiler();
  const reports = new Map<string, LayerReport>();
  const noImage: Record<string, Record<string, number>> = {};
  for await (const batch of applyOperations(read, context, reports)) {
    if (context.inArea || layers.has(batch.layer)) profiler.add(batch);
    if (!transform) continue;
    for (const i of transformBatch(placeBatch(batch, transform, chord_m), transform.transform).lost) {
      const key = groupKey(batch.entities[i]!, KINDS[batch.kinds[i]!]!);
      const own = (noImage[batch.layer] ??= {});
      own[key] = (own[key] ?? 0) + 1;
    }
  }
  return { all: context.inArea !== undefined, layers: profiler.layers(), reports: Object.fromEntries(reports), noImage };
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
