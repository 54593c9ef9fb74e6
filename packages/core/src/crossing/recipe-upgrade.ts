import { Recipe } from './recipe';

type Json = Record<string, unknown>;

const isObject = (value: unknown): value is Json => typeof value === 'object' && value !== null && !Array.isArray(value);

/** Members of version 1 and what they are called since, by where they stand. */
const RENAMED = {
  placement: { swapped: 'axesSwapped', turned: 'signReversed', plus: 'offset', way: 'operation' },
  rule: { once: 'dropDuplicates', thin_m: 'simplify_m', texts: 'textTransfer', without: 'leftOut' },
} as const;

function renamed(value: unknown, names: Readonly<Record<string, string>>): unknown {
  return isObject(value) ? Object.fromEntries(Object.entries(value).map(([name, v]) => [names[name] ?? name, v])) : value;
}

const mapped = (value: unknown, of: (value: unknown) => unknown): unknown =>
  isObject(value) ? Object.fromEntries(Object.entries(value).map(([name, v]) => [name, of(v)])) : value;

/** A recipe as it was stored or saved, by whatever version, as the present one has it. What is no recipe is given back as it is. */
function upgradedRecipe(json: unknown): unknown {
  if (!isObject(json) || json.version !== 1) return json;
  return {
    ...json,
    version: 2,
    sources: mapped(json.sources, (source) =>
      isObject(source)
        ? {
            ...source,
            placement: renamed(source.placement, RENAMED.placement),
            layers: mapped(source.layers, (rule) => renamed(rule, RENAMED.rule)),
          }
        : source,
    ),
  };
}

/** A recipe that was stored or saved by whatever version, with what is wrong with it where it is none. */
export const readRecipe = (json: unknown): ReturnType<typeof Recipe.safeParse> => Recipe.safeParse(upgradedRecipe(json));
