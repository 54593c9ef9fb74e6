import { z } from 'zod';
import { compileFilter } from '../filter/evaluate';
import { Problem } from '../model/problem';
import { filterRecords } from '../model/select-records';
import { REASONS } from '../model/reason';
import type { Operation } from './operation';

/** Characters of a filter: picked records are told one by one. */
export const LONGEST_FILTER = 24_000;
/** A filter as text, which says which records are taken. */
export const Where = z.string().max(LONGEST_FILTER);

/** Only the records that a filter in CQL2 takes go on. */
export const filter: Operation<string, { filtered: number }, { where?: string | undefined }> = {
  id: 'where',
  scope: 'record',
  schema: Where,
  parameters: (layer, rules) => rules[layer]?.where,
  sentence: (where) => `only records for which ${where}`,
  tally: () => ({ filtered: 0 }),
  stage(where, { layer, inFrame, left }, tally) {
    const compiled = compileFilter(where, inFrame === undefined ? {} : { inFrame });
    // a filter that cannot be read stands in the way of the forecast, and of the run
    if (typeof compiled === 'string') throw new Problem('filter', `The filter of ${layer} cannot be read. ${compiled} Mend it in Shape.`);
    return {
      *apply(batch) {
        const kept = filterRecords(batch, compiled(batch), (i) => {
          tally.filtered++;
          left?.(batch, i, REASONS.filter);
        });
        if (kept.count > 0) yield kept;
      },
    };
  },
  effects: ({ filtered }) =>
    filtered > 0
      ? [
          {
            effect: 'left',
            by: 'you',
            code: REASONS.filter.code,
            count: filtered,
            message: `${filtered} not taken by the filter`,
            gone: true,
          },
        ]
      : [],
};
