import { type Deliverable, type Recipe, sourcesOfAreas } from './recipe';

/** A source as far as its layers are chosen. */
interface Layered {
  name: string;
  layers: readonly { name: string }[];
}

/** A deliverable as far as it chooses layers. */
type Chooses = Pick<Deliverable, 'without'>;

/** Whether a deliverable leaves a layer out that the crossing has taken. */
export function isWithout({ without }: Chooses, source: string, layer: string): boolean {
  const own = without?.[source];
  return own === true || own?.includes(layer) === true;
}

/** The rules of a crossing as they are for one deliverable: the layers that it leaves out are not taken. */
export function withChosenLayers(recipe: Recipe, deliverable: Chooses, sources: readonly Layered[]): Recipe {
  if (!deliverable.without) return recipe;
  const known = { ...recipe.sources };
  for (const { name, layers } of sources) {
    const left = layers.filter((l) => isWithout(deliverable, name, l.name));
    if (left.length === 0) continue;
    const own = known[name] ?? { placement: null, layers: {} };
    known[name] = {
      ...own,
      layers: { ...own.layers, ...Object.fromEntries(left.map((l) => [l.name, { ...own.layers[l.name], taken: false }])) },
    };
  }
  return { ...recipe, sources: known };
}

/** Whether a source has nothing to do with a deliverable: all of it is left out, and no area and no join of another one asks for it. */
export const isUnused = (recipe: Pick<Recipe, 'sources'>, deliverable: Deliverable, source: string): boolean =>
  deliverable.without?.[source] === true &&
  !sourcesOfAreas(deliverable).includes(source) &&
  deliverable.into !== source &&
  !Object.values(recipe.sources).some((s) => Object.values(s.layers).some((rule) => rule.join?.source === source));
