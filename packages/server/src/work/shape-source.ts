import type { PreparedSource } from '@pontrel/core/crossing/prepare';
import type { Recipe } from '@pontrel/core/crossing/recipe';
import { isReshaped, rulesOf, type Shaped, shapedProfiles, shapeLayers, unitOfSource } from '@pontrel/core/crossing/shaped';
import type { ReshapeContext } from '@pontrel/core/shape/reshape';
import { FeatureStore } from '../store/feature-store';

export function contextOf(recipe: Recipe, source: string, store: FeatureStore): ReshapeContext {
  return { rules: rulesOf(recipe, source), library: store.library(), unit_m: unitOfSource(recipe, source) };
}

export interface ShapeRequest {
  recipe: Recipe;
  source: string;
  store: string;
}

/** The layers of a source that its rules change, summed up again; null where they change none. */
export async function shapeSource({ recipe, source, store: file }: ShapeRequest): Promise<Shaped | null> {
  if (!isReshaped(recipe, source)) return null;
  const store = new FeatureStore(file);
  try {
    return await shapeLayers(() => store.batches(), contextOf(recipe, source, store));
  } finally {
    store.close();
  }
}

/** A source as it will cross. */
export function withShapes<S extends PreparedSource>(recipe: Recipe, source: S, shaped: Shaped | null): S {
  return shaped ? { ...source, layers: shapedProfiles(source.layers, shaped, rulesOf(recipe, source.name)), reports: shaped.reports } : source;
}

export async function shapedSource<S extends PreparedSource & { store: string }>(recipe: Recipe, source: S): Promise<S> {
  return withShapes(recipe, source, await shapeSource({ recipe, source: source.name, store: source.store }));
}
