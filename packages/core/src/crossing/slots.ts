import { joinFields, type LayerProfile } from '../content/features/profile';
import type { Recipe } from './recipe';
import { renameLayer, renameSource } from './rename-source';
import type { Slot } from './slot';

/** A file that may stand in a slot of a recipe. */
export interface SlotFiller {
  name: string;
  format: string;
  layers: readonly LayerProfile[];
}

/** What a file in the place of a source is expected to be. */
export const slotOf = ({ format, layers }: SlotFiller): Slot => ({
  format,
  layers: layers.map((l) => ({ name: l.name, fields: joinFields(l.groups).map((f) => f.name) })),
});

/** A recipe that is handed out: each of its sources says what is expected in its place, whatever the file is called. */
export function withSlots(recipe: Recipe, sources: readonly SlotFiller[]): Recipe {
  const byName = new Map(sources.map((s) => [s.name, s]));
  return {
    ...recipe,
    sources: Object.fromEntries(
      Object.entries(recipe.sources).map(([name, source]) => {
        const own = byName.get(name);
        return [name, own ? { ...source, slot: slotOf(own) } : source];
      }),
    ),
  };
}

/** Share of what two files have together that both have, from which one can stand in the place of the other. */
const ALIKE = 0.5;

/** How much of the layers and fields of two files is the same, 0 to 1. Where each has one layer, its name is but a title. */
function likeness(slot: Slot, filler: Slot): number {
  if (slot.format !== filler.format) return 0;
  const single = slot.layers.length === 1 && filler.layers.length === 1;
  const parts = ({ layers }: Slot): Set<string> =>
    new Set(layers.flatMap(({ name, fields }) => (single ? ['', ...fields] : [name, ...fields.map((f) => `${name}\n${f}`)])));
  const [a, b] = [parts(slot), parts(filler)];
  const both = [...a].filter((part) => b.has(part)).length;
  return both / (a.size + b.size - both);
}

/**
 * The recipe under the names of the files at hand. A file stands in the slot that has its name; a file whose name no slot has, in the one
 * whose layers and fields are its own the most, when that is no draw. A recipe of one source is meant for the one file that is there,
 * whatever is in it.
 * @param others names of sources that are at hand and hold no records
 */
export function fillSlots(recipe: Recipe, sources: readonly SlotFiller[], others: readonly string[] = []): Recipe {
  const here = new Set([...sources.map((s) => s.name), ...others]);
  const files = Object.keys(recipe.sources).filter((name) => !recipe.sources[name]!.workedOut);
  const empty = files.filter((name) => !here.has(name));
  const [only] = here;
  const filled =
    files.length === 1 && here.size === 1
      ? empty.reduce((known, name) => renameSource(known, name, only!), recipe)
      : likest(
          recipe,
          empty,
          sources.filter((s) => !recipe.sources[s.name]),
        );
  return sources.reduce((known, source) => {
    const expected = known.sources[source.name]?.slot;
    return expected ? underOneLayer(known, source.name, expected, slotOf(source)) : known;
  }, filled);
}

/** The recipe with files in those of its empty slots that they are most like. */
function likest(recipe: Recipe, empty: readonly string[], unknown: readonly SlotFiller[]): Recipe {
  const pairs = empty
    .flatMap((name) => {
      const expected = recipe.sources[name]!.slot;
      return expected ? unknown.map((filler) => ({ name, filler, alike: likeness(expected, slotOf(filler)) })) : [];
    })
    .filter((p) => p.alike >= ALIKE);
  return pairs
    .filter((p) => pairs.every((q) => q === p || (q.name !== p.name && q.filler !== p.filler) || q.alike < p.alike))
    .reduce((known, { name, filler }) => renameSource(known, name, filler.name), recipe);
}

/** The rules of a file's one layer as those of the one layer of the file in its place: the layer of a shapefile, say, is called what the file is. */
export function underOneLayer(recipe: Recipe, source: string, before: Slot, after: Slot): Recipe {
  const [old, ...more] = before.layers,
    [now, ...others] = after.layers;
  const isTitle = old && now && more.length === 0 && others.length === 0 && old.name !== now.name;
  return isTitle && !recipe.sources[source]?.layers[now.name] ? renameLayer(recipe, source, old.name, now.name) : recipe;
}
