import type { Recipe } from '@pontrel/core/crossing/recipe';

/**
 * A recipe that a page hands in, with the rules by which sources were worked out as they stand here: a page changes them by working out
 * again, and no undo takes them away from records that are there.
 * @param stored the recipe as it stands
 */
export function withStoredRules(given: Recipe, stored: Recipe): Recipe {
  const sources = Object.entries(given.sources).map(([name, { workedOut: _given, ...source }]) => [name, source]);
  const ruled = Object.entries(stored.sources).flatMap(([name, source]) =>
    source.workedOut ? [[name, { ...(given.sources[name] ?? source), workedOut: source.workedOut }]] : [],
  );
  return { ...given, sources: Object.fromEntries([...sources, ...ruled]) as Recipe['sources'] };
}
