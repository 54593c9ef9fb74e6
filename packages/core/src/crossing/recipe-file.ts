import { messageOf, Problem } from '../model/problem';
import type { Recipe } from './recipe';
import { renameSource } from './rename-source';
import { readRecipe } from './recipe-upgrade';

/** A recipe from the text of a file. @throws Problem that says what is wrong and where */
export function parseRecipe(text: string, file: string): Recipe {
  let json: unknown;
  try {
    json = JSON.parse(text);
  } catch (error) {
    throw new Problem('recipe-unread', `${file} cannot be read as a recipe: ${messageOf(error)}.`, { file });
  }
  const parsed = readRecipe(json);
  if (parsed.success) return parsed.data;
  const [issue] = parsed.error.issues;
  throw new Problem('recipe-unread', `${file} is no recipe: ${issue!.path.join('.') || 'it'}: ${issue!.message}.`, { file });
}

/**
 * The recipe under the names of the sources at hand: one of one source is meant for the one that is there, whatever its next revision is
 * called. What is worked out of it is no other source.
 */
export function recipeFor(recipe: Recipe, sources: readonly string[]): Recipe {
  const [name, ...others] = Object.keys(recipe.sources).filter((n) => !recipe.sources[n]!.workedOut);
  const [only] = sources;
  if (name === undefined || others.length > 0 || only === undefined || sources.length !== 1 || name === only) return recipe;
  return renameSource(recipe, name, only);
}

/** The rules of a recipe put in the place of those that a crossing has; sources that the recipe does not know keep theirs. */
export function takenOver(own: Recipe, recipe: Recipe, sources: readonly string[]): Recipe {
  const here = new Set(sources);
  return {
    ...recipe,
    frame: recipe.frame ?? own.frame,
    sources: { ...own.sources, ...Object.fromEntries(Object.entries(recipe.sources).filter(([name]) => here.has(name))) },
  };
}
