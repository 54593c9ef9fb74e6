import { readFile, stat } from 'node:fs/promises';
import path from 'node:path';
import { fileStem } from '@pontrel/core/content/features/plan';
import { hasGeometry } from '@pontrel/core/content/features/profile';
import type { Deliverable, Recipe } from '@pontrel/core/crossing/recipe';
import { parseRecipe } from '@pontrel/core/crossing/recipe-file';
import { fillSlots } from '@pontrel/core/crossing/slots';
import { renameSource } from '@pontrel/core/crossing/rename-source';
import { validateRecipe } from '@pontrel/core/crossing/validate-recipe';
import { imageFormatById } from '@pontrel/core/formats/images';
import { messageOf, Problem } from '@pontrel/core/model/problem';
import { runImage } from './convert-images';
import { gatherAll, type GatheredSource } from './gathered';
import type { ImageInput } from './images';
import { resultOf, together, writeProved, type Written } from './output';
import { imageSourceNames, recipeImages } from './recipe-images';
import { type Result, Usage } from './result';
import { withWorkedOut } from './worked-out';

/** Runs the rules of a crossing on files: each deliverable goes into a folder of its own within `output`. */
export async function runRecipe(
  inputs: readonly string[],
  images: readonly ImageInput[],
  output: string,
  recipeFile: string,
  places: readonly string[],
): Promise<Result> {
  if (
    await stat(output).then(
      (s) => !s.isDirectory(),
      () => false,
    )
  )
    throw new Usage(`${output} is a file; a recipe writes into a folder.`);
  const text = await readFile(recipeFile, 'utf8').catch((error: unknown) => {
    throw new Problem('recipe-unread', `${recipeFile} cannot be read as a recipe: ${messageOf(error)}.`, { file: recipeFile });
  });
  const recipe = withSources(parseRecipe(text, recipeFile), places, [...inputs, ...images.map((i) => i.file)]);
  if (recipe.deliverables.length === 0) throw new Problem('recipe-empty', `${recipeFile} has no deliverable: there is nothing to write.`);
  const imageSources = imageSourceNames(images, Object.keys(recipe.sources));
  const { files, known } = await recipeImages(imageSources);
  const gathered = <T>(use: (read: GatheredSource[]) => Promise<T>, known: Recipe): Promise<T> =>
    gatherAll(inputs, use, (file) => known.sources[path.basename(file)]?.reading);
  return gathered((read) => {
    const own = fillSlots(
      recipe,
      read.map(({ name, format, layers }) => ({ name, format: format.id, layers })),
      [...imageSources.keys()],
    );
    // in which slot a file stands is known once it was read, and how that slot is read only then
    return read.some((s) => !recipe.sources[s.name] && own.sources[s.name]?.reading)
      ? gathered((again) => delivered(own, again), own)
      : delivered(own, read);
  }, recipe);

  function delivered(own: Recipe, read: readonly GatheredSource[]): Promise<Result> {
    return withWorkedOut(own, read, imageSources, async (sources) => {
      const faults = validateRecipe(own, [...sources, ...known]);
      const complete = withoutUnplaced(own, sources);
      const written: Written[] = [];
      const made: Result[] = [];
      const folders = foldersOf(complete.deliverables);
      for (const deliverable of complete.deliverables) {
        const folder = path.join(output, folders.get(deliverable.id)!);
        if (imageFormatById(deliverable.format)) made.push(await runImage(complete, deliverable, files, sources, folder));
        else written.push(await writeProved(complete, deliverable, sources, folder, files));
      }
      return together(written.length > 0 ? [resultOf(written, faults), ...made] : made, written.length > 0 ? [] : faults);
    });
  }
}

/** A folder for each deliverable by its name; two of one name have two. */
function foldersOf(deliverables: readonly Deliverable[]): Map<string, string> {
  const taken = new Set<string>();
  return new Map(
    deliverables.map(({ id, name }) => {
      const stem = fileStem(name);
      let folder = stem;
      for (let n = 2; taken.has(folder); n++) folder = `${stem}_${n}`;
      taken.add(folder);
      return [id, folder];
    }),
  );
}

/** A recipe in which inputs take the places of its sources, as NAME=FILE says. */
function withSources(recipe: Recipe, places: readonly string[], inputs: readonly string[]): Recipe {
  let placed = recipe;
  for (const pair of places) {
    const at = pair.lastIndexOf('=');
    const [name, file] = [pair.slice(0, Math.max(0, at)), path.basename(pair.slice(at + 1))];
    if (!recipe.sources[name])
      throw new Usage(
        `--source ${pair}: the recipe has these sources: ${Object.keys(recipe.sources).join(', ') || 'none'}. Write NAME=FILE.`,
      );
    if (!inputs.some((input) => path.basename(input) === file)) throw new Usage(`--source ${pair}: ${file} is not among the inputs.`);
    placed = renameSource(placed, name, file);
  }
  return placed;
}

/** Sources that a recipe does not place stay behind: their layers are not taken, which the account says. */
function withoutUnplaced(recipe: Recipe, sources: readonly GatheredSource[]): Recipe {
  const unplaced = sources.filter((s) => hasGeometry(s.layers) && !recipe.sources[s.name]?.placement);
  return {
    ...recipe,
    sources: {
      ...recipe.sources,
      ...Object.fromEntries(
        unplaced.map((s) => [s.name, { placement: null, layers: Object.fromEntries(s.layers.map((l) => [l.name, { taken: false }])) }]),
      ),
    },
  };
}
