import type { Crs } from '../crs/crs';
import { hasGeometry, type LayerProfile } from '../content/features/profile';
import { type Bounds, emptyBounds, isEmpty, join } from '../geometry/bounds';
import { type PlacedIn, placedBy } from '../placement/route';
import type { Recipe } from './recipe';

/** A source as far as it takes to place it: what a recipe calls it, and the bounds of all its records in its own numbers. */
export interface Extended {
  name: string;
  extent: Bounds | null;
}

/** The bounds of all records of some layers; null where none of them has geometry. */
export function extentOf(layers: readonly Pick<LayerProfile, 'extent'>[]): Bounds | null {
  const extent = emptyBounds();
  for (const layer of layers) if (layer.extent) join(extent, layer.extent);
  return isEmpty(extent) ? null : extent;
}

/** Where a recipe places a source; null until it does. */
export function placementOf(recipe: Recipe, { name, extent }: Extended): PlacedIn | null {
  const placement = recipe.sources[name]?.placement ?? null;
  return placement && placedBy(placement, extent);
}

/**
 * Where a source lies on its way into a target: where the recipe places it, or, as nothing of it lies anywhere, in the target itself.
 * @returns null while it has places and is not placed
 */
export function placedFor(
  recipe: Recipe,
  source: Extended & { layers: readonly Pick<LayerProfile, 'extent' | 'nowhere'>[] },
  target: Crs,
): PlacedIn | null {
  return placementOf(recipe, source) ?? (hasGeometry(source.layers) ? null : { crs: target, parameters: { unit_m: null }, extent: null });
}
