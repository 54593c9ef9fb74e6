import type { Recipe } from '@pontrel/core/crossing/recipe';
import { type WorkedOut, workedOutOf } from '@pontrel/core/crossing/worked-out';
import type { SourceRecord } from '../store/records';

/** A mark of the files and placements that records are worked out of. */
export function inputsMark(recipe: Recipe, sources: readonly SourceRecord[], rule: WorkedOut): string {
  const names = workedOutOf(rule).sort();
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
