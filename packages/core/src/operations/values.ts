import type { Value } from '../model/value';
import { z } from 'zod';
import { plainValue } from '../model/plain-value';
import type { FieldRule } from './field-rule';
import { counted, type Operation } from './operation';

/** By field: what becomes of some of its values. */
const Values = z.record(z.string(), z.record(z.string(), z.string()));
type Values = z.infer<typeof Values>;

/** Makes other values of some values, by a list. */
export const values: Operation<Values, { mapped: number }, { fields?: Readonly<Record<string, FieldRule>> | undefined }> = {
  id: 'values',
  scope: 'record',
  schema: Values,
  parameters(layer, rules) {
    const listed = Object.entries(rules[layer]?.fields ?? {}).flatMap(([name, { values: list }]) => (list ? [[name, list] as const] : []));
    return listed.length > 0 ? Object.fromEntries(listed) : undefined;
  },
  sentence: (lists) =>
    Object.entries(lists)
      .map(([name, list]) => `${counted(Object.keys(list).length, 'value')} of ${name} become others`)
      .join(', '),
  tally: () => ({ mapped: 0 }),
  stage(lists, _context, tally) {
    const byField = Object.entries(lists).map(([name, list]) => ({ name, list: new Map(Object.entries(list)) }));
    return {
      *apply(batch) {
        const columns = new Map(batch.columns);
        for (const { name, list } of byField) {
          const column = columns.get(name);
          if (!column) continue;
          const mapped = (value: Value): Value => {
            const to = value === null ? undefined : list.get(String(value));
            if (to === undefined) return value;
            tally.mapped++;
            return plainValue(to);
          };
          columns.set(name, column.map(mapped));
        }
        yield { ...batch, columns };
      },
    };
  },
  effects: ({ mapped }) =>
    mapped > 0
      ? [
          {
            effect: 'told',
            code: 'values-mapped',
            count: mapped,
            message: `${mapped} ${mapped === 1 ? 'value' : 'values'} become others, as listed in Shape`,
          },
        ]
      : [],
};
