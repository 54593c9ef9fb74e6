import { messageOf, Problem } from '../model/problem';
import type { Recipe } from './recipe';
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

/** The rules of a recipe put in the place of those that a crossing has; sources that the recipe does not know keep theirs. */
export function takenOver(own: Recipe, recipe: Recipe, sources: readonly string[]): Recipe {
  const here = new Set(sources);
  return {
    ...recipe,
    frame: recipe.frame ?? own.frame,
    sources: { ...own.sources, ...Object.fromEntries(Object.entries(recipe.sources).filter(([name]) => here.has(name))) },
  };
}
