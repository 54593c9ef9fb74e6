import type { ImageRule } from './image-rule';
import { imageRule, type Deliverable, type Recipe } from './recipe';

/** A picture by the source that it is of, and its own name there. */
export interface ImageName {
  source: string;
  name: string;
}

/** By their place in an order; those that it does not name stay behind it as they come. */
function sorted<T>(list: readonly T[], nameOf: (item: T) => string, order: readonly string[] | undefined): T[] {
  const at = new Map((order ?? []).map((name, k) => [name, k]));
  const rank = (item: T): number => at.get(nameOf(item)) ?? at.size;
  return [...list].sort((a, b) => rank(a) - rank(b));
}

/** Names of sources in the order in which their pictures cover each other. */
export const imageOrder = (recipe: Recipe, sources: readonly string[]): string[] => sorted(sources, (name) => name, recipe.images);

/** The pictures of a source that its rule wants, in the order in which they cover each other. */
export const chosenMembers = <T extends { name: string }>({ order, without }: ImageRule, members: readonly T[]): T[] =>
  sorted(
    members.filter(({ name }) => !without?.includes(name)),
    ({ name }) => name,
    order,
  );

/** Whether a person left a picture out of a deliverable. */
const isLeft = (recipe: Recipe, { image }: Deliverable, { source, name }: ImageName): boolean => {
  const rule = imageRule(recipe, source);
  return (
    rule.taken === false || (rule.without?.includes(name) ?? false) || (image?.sources !== undefined && !image.sources.includes(source))
  );
};

/** The pictures that a deliverable is made of, in the order in which they cover each other, and those that a person left out. */
export function chosenImages<T extends ImageName>(
  recipe: Recipe,
  deliverable: Deliverable,
  images: readonly T[],
): { taken: T[]; left: T[] } {
  const left = images.filter((image) => isLeft(recipe, deliverable, image));
  const rest = images.filter((image) => !left.includes(image));
  const order = imageOrder(recipe, [...new Set(rest.map((i) => i.source))]);
  const taken = order.flatMap((source) =>
    chosenMembers(
      imageRule(recipe, source),
      rest.filter((i) => i.source === source),
    ),
  );
  return { taken, left };
}
