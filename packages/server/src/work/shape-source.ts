import { shapeSource as shapeThrough } from '@pontrel/core/crossing/pipeline';
import type { Deliverable, Recipe } from '@pontrel/core/crossing/recipe';
import type { Shaped } from '@pontrel/core/crossing/shaped';
import { type StoredSource, withSources } from './stored-source';

export interface ShapeRequest {
  recipe: Recipe;
  deliverable: Deliverable;
  source: string;
  /** The source itself, and those that its shape depends on. */
  sources: StoredSource[];
}

/** The layers of a source that a deliverable's rules change, summed up again; null where they change none. */
export function shapeSource({ recipe, deliverable, source, sources }: ShapeRequest): Promise<Shaped | null> {
  return withSources(sources, (opened) =>
    shapeThrough(
      recipe,
      deliverable,
      opened.find((s) => s.name === source)!,
      opened,
    ),
  );
}
