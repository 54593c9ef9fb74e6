import type { LayerRoles } from '@pontrel/core/crossing/derive-records';
import type { Recipe } from '@pontrel/core/crossing/recipe';
import type { SourceRecord } from '../store/records';

/** A mark of the files and placements that records are worked out of. */
export function inputsMark(recipe: Recipe, sources: readonly SourceRecord[], roles: LayerRoles): string {
  const names = [...new Set(Object.values(roles).flatMap((own) => own.map((l) => l.source)))].sort();
  return JSON.stringify([
    recipe.frame?.crs ?? null,
    names.map((name) => {
      const source = sources.find((s) => s.name === name);
      return [
        name,
        source?.added ?? null,
        source?.facts.replaces?.at ?? null,
        source?.facts.reading ?? null,
        recipe.sources[name]?.placement ?? null,
      ];
    }),
  ]);
}
