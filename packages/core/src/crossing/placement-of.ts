import type { Crs } from '../crs/crs';
import { hasGeometry, type LayerProfile } from '../content/features/profile';
import { type PlacedIn, placedBy } from '../placement/route';
import type { Recipe } from './recipe';

/** Where a recipe places a source; null until it does. */
export function placementOf(recipe: Recipe, source: string): PlacedIn | null {
  const placement = recipe.sources[source]?.placement ?? null;
  return placement && placedBy(placement);
}

/**
 * Where a source lies on its way into a target: where the recipe places it, or, as nothing of it lies anywhere, in the target itself.
 * @returns null while it has places and is not placed
 */
export function placedFor(recipe: Recipe, source: string, layers: readonly Pick<LayerProfile, 'extent'>[], target: Crs): PlacedIn | null {
  return placementOf(recipe, source) ?? (hasGeometry(layers) ? null : { crs: target, parameters: { unit_m: null } });
}
