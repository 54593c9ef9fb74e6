import type { Value } from '../model/value';
import { z } from 'zod';
import type { Operation } from './operation';

/** A field that has the same value on every record of the layer. */
export const Constant = z.object({ name: z.string().min(1).max(64), value: z.union([z.string().max(254), z.number(), z.boolean()]) });
export type Constant = z.infer<typeof Constant>;

/** The fields that all records of a layer get, with one value each. */
export const Constants = z.array(Constant);

/** Adds fields that have one value. */
export const constants: Operation<Constant[], object, { constants?: Constant[] | undefined }> = {
  id: 'constants',
  scope: 'record',
  schema: Constants,
  parameters: (layer, rules) => rules[layer]?.constants,
  sentence: (list) => list.map(({ name, value }) => `${name} is ${value}`).join(', '),
  tally: () => ({}),
  stage: (list) => ({
    *apply(batch) {
      const columns = new Map(batch.columns);
      for (const { name, value } of list) if (value !== '') columns.set(name, new Array<Value>(batch.count).fill(value));
      yield { ...batch, columns };
    },
  }),
  effects: () => [],
};
