import type { Value } from '../model/value';
import { SYMBOLOGY_FIELDS, type SymbologyField } from '../model/symbology-fields';
import type { LinePattern } from './library';
import { type LayerStyle, saysStyle } from './layer-style';
import { type Symbolizer, symbolizerOf, saysSomething } from './symbolizer';
import type { Kind } from '../model/batch';

/** Some records of a set that are drawn alike, by what their look fields hold. */
export interface SymbologyCount {
  kind: Kind;
  values: Readonly<Partial<Record<SymbologyField, Value>>>;
  count: number;
}

/** A category of a set: the values by which its records are known, under the names of the target, and how they are drawn. */
export interface Category {
  name: string;
  where: readonly { field: string; value: Value }[];
  symbolizer: Symbolizer;
  count: number;
}

/** The rules of a style, told from the records that it is for. */
export interface StyleRules {
  categories: Category[];
  /** Look fields that are needed to tell categories apart, and are not in the target. */
  missing: SymbologyField[];
}

interface StyledSet {
  fields: readonly { from: string; to: string }[];
  symbology: readonly SymbologyCount[];
  style: LayerStyle;
}

/**
 * The categories of a set. Where a field that tells looks apart is left behind, the records that it tells apart get the look of
 * most of them.
 */
export function styleRulesOf(
  { fields, symbology: looks, style }: StyledSet,
  patternOf: (name: string) => LinePattern | undefined,
  unit_m: number,
): StyleRules {
  const telling = SYMBOLOGY_FIELDS.filter((f) => new Set(looks.map((l) => l.values[f] ?? null)).size > 1);
  const present = telling.filter((f) => fields.some((t) => t.from === f));
  const merged = new Map<string, { best: SymbologyCount; count: number }>();
  for (const look of [...looks].sort((a, b) => b.count - a.count)) {
    const key = JSON.stringify([look.kind, ...present.map((f) => look.values[f] ?? null)]);
    const known = merged.get(key);
    if (known) known.count += look.count;
    else merged.set(key, { best: look, count: look.count });
  }
  const categories = [...merged.values()].map(({ best, count }): Category => ({
    name: nameOf(best, present),
    count,
    where: present.map((f) => ({ field: fields.find((t) => t.from === f)!.to, value: best.values[f] ?? null })),
    symbolizer: symbolizerOf(best.kind, (f) => best.values[f] ?? null, patternOf, unit_m),
  }));
  return {
    categories: saysStyle(style) || categories.some((c) => saysSomething(c.symbolizer)) ? categories : [],
    missing: telling.filter((f) => !present.includes(f)),
  };
}

function nameOf(look: SymbologyCount, fields: readonly SymbologyField[]): string {
  const words = fields
    .map((f) => look.values[f])
    .filter((v) => v !== null && v !== undefined)
    .map(String);
  return words.length > 0 ? words.join(', ') : 'all';
}
