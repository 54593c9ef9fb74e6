import { imageRule, type Deliverable, type Recipe } from './recipe';

/** A picture by the source that it is of, and its own name there. */
export interface ImageName {
  source: string;
  name: string;
}

const ranks = (order: readonly string[] | undefined): ((name: string) => number) => {
  const at = new Map((order ?? []).map((name, k) => [name, k]));
  return (name) => at.get(name) ?? Infinity;
};

/** By rank; those of one rank stay in the order in which they come. */
const sorted = <T>(list: readonly T[], rank: (item: T) => number): T[] =>
  list
    .map((item, k) => ({ item, k, rank: rank(item) }))
    .sort((a, b) => (a.rank === b.rank ? a.k - b.k : a.rank - b.rank))
    .map(({ item }) => item);

/** Names of sources in the order in which their pictures cover each other. */
export const imageOrder = (recipe: Recipe, sources: readonly string[]): string[] => sorted(sources, ranks(recipe.images));

/** The pictures of a source that are wanted, in the order in which they cover each other. */
export function chosenMembers<T extends { name: string }>(recipe: Recipe, source: string, members: readonly T[]): T[] {
  const { order, without } = imageRule(recipe, source);
  return sorted(
    members.filter(({ name }) => !without?.includes(name)),
    ({ name }) => ranks(order)(name),
  );
}

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
      recipe,
      source,
      rest.filter((i) => i.source === source),
    ),
  );
  return { taken, left };
}
