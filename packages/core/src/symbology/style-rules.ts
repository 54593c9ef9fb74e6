import type { Value } from '../model/batch';
import type { LinePattern } from './library';
import { type LayerStyle, saysStyle } from './layer-style';
import { type Look, LOOK_FIELDS, type LookField, lookOf, saysSomething } from './symbolizer';
import type { Kind } from '../model/batch';

/** Some records of a set that are drawn alike, by what their look fields hold. */
export interface SetLook {
  kind: Kind;
  values: Readonly<Partial<Record<LookField, Value>>>;
  count: number;
}

/** A category of a set: the values by which its records are known, under the names of the target, and how they are drawn. */
export interface Category {
  name: string;
  where: readonly { field: string; value: Value }[];
  look: Look;
  count: number;
}

export interface Sheet {
  categories: Category[];
  /** Look fields that are needed to tell categories apart, and are not in the target. */
  missing: LookField[];
}

interface Named {
  fields: readonly { from: string; to: string }[];
  looks: readonly SetLook[];
  style: LayerStyle;
}

/**
 * The categories of a set. Where a field that tells looks apart is left behind, the records that it tells apart get the look of
 * most of them.
 */
export function sheetOf({ fields, looks, style }: Named, patternOf: (name: string) => LinePattern | undefined, unit_m: number): Sheet {
  const telling = LOOK_FIELDS.filter((f) => new Set(looks.map((l) => l.values[f] ?? null)).size > 1);
  const present = telling.filter((f) => fields.some((t) => t.from === f));
  const merged = new Map<string, { best: SetLook; count: number }>();
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
    look: lookOf(best.kind, (f) => best.values[f] ?? null, patternOf, unit_m),
  }));
  return {
    categories: saysStyle(style) || categories.some((c) => saysSomething(c.look)) ? categories : [],
    missing: telling.filter((f) => !present.includes(f)),
  };
}

function nameOf(look: SetLook, fields: readonly LookField[]): string {
  const words = fields
    .map((f) => look.values[f])
    .filter((v) => v !== null && v !== undefined)
    .map(String);
  return words.length > 0 ? words.join(', ') : 'all';
}
