import { type ImageSettings, type Recipe, sourceOfArea } from './recipe';
import { renamedRule } from './worked-out';

/** A recipe in which the source `before` is called `after`: its own rules, and all that other rules say of it. */
export function renameSource(recipe: Recipe, before: string, after: string): Recipe {
  const named = (name: string): string => (name === before ? after : name);
  return {
    ...recipe,
    sources: Object.fromEntries(
      Object.entries(recipe.sources).map(([name, source]) => [
        named(name),
        {
          ...source,
          layers: Object.fromEntries(
            Object.entries(source.layers).map(([layer, rule]) => [
              layer,
              rule.join ? { ...rule, join: { ...rule.join, source: named(rule.join.source) } } : rule,
            ]),
          ),
          ...(source.workedOut ? { workedOut: renamedRule(source.workedOut, named) } : {}),
        },
      ]),
    ),
    deliverables: recipe.deliverables.map((d) => ({
      ...d,
      ...(d.into === undefined ? {} : { into: named(d.into) }),
      ...(d.area && sourceOfArea(d.area) === before ? { area: { ...d.area, source: after } as typeof d.area } : {}),
      ...(d.without ? { without: Object.fromEntries(Object.entries(d.without).map(([name, left]) => [named(name), left])) } : {}),
      ...(d.image ? { image: renamedIn(d.image, named) } : {}),
    })),
    ...(recipe.images ? { images: recipe.images.map(named) } : {}),
  };
}

/** A recipe in which the layer `before` of a source is called `after`: its own rules, and all that other rules say of it. */
export function renameLayer(recipe: Recipe, source: string, before: string, after: string): Recipe {
  const named = (name: string): string => (name === before ? after : name);
  const own = <T extends { source: string; layer: string }>(l: T): T => (l.source === source ? { ...l, layer: named(l.layer) } : l);
  return {
    ...recipe,
    sources: Object.fromEntries(
      Object.entries(recipe.sources).map(([name, known]) => [
        name,
        {
          ...known,
          layers: Object.fromEntries(
            Object.entries(known.layers).map(([layer, rule]) => [
              name === source ? named(layer) : layer,
              {
                ...rule,
                ...(rule.join ? { join: own(rule.join) } : {}),
                ...(rule.textTransfer && name === source
                  ? { textTransfer: { ...rule.textTransfer, layer: named(rule.textTransfer.layer) } }
                  : {}),
              },
            ]),
          ),
          ...(known.workedOut ? { workedOut: renamedRule(known.workedOut, (n) => n, own) } : {}),
        },
      ]),
    ),
    deliverables: recipe.deliverables.map((d) => {
      const left = d.without?.[source];
      return {
        ...d,
        ...(d.area?.kind === 'layer' ? { area: own(d.area) } : {}),
        ...(Array.isArray(left) ? { without: { ...d.without, [source]: left.map(named) } } : {}),
        ...(d.image?.split?.areas ? { image: { ...d.image, split: { ...d.image.split, areas: own(d.image.split.areas) } } } : {}),
      };
    }),
  };
}

/** What is said of images, under the names that sources have now. */
function renamedIn(image: ImageSettings, named: (name: string) => string): ImageSettings {
  const { sources, split } = image;
  return {
    ...image,
    ...(sources ? { sources: sources.map(named) } : {}),
    ...(split?.areas ? { split: { ...split, areas: { ...split.areas, source: named(split.areas.source) } } } : {}),
  };
}

/** A recipe that may still call sources by names of before, under the names that they have now. */
export function underNamesOfNow(recipe: Recipe, sources: readonly { name: string; before: readonly string[] }[]): Recipe {
  const here = new Set(sources.map((s) => s.name));
  let known = recipe;
  for (const { name, before } of sources)
    for (const old of before) if (!here.has(old) && known.sources[old] && !known.sources[name]) known = renameSource(known, old, name);
  return known;
}
