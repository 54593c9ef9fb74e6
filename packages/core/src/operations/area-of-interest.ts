import { z } from 'zod';
import { filterRecords } from '../model/select-records';
import { REASONS } from '../model/reason';
import type { Operation } from './operation';

/** Leaves behind what lies outside the area of interest of a deliverable. */
export const areaOfInterest: Operation<true, { outside: number }> = {
  id: 'area',
  scope: 'record',
  schema: z.literal(true),
  parameters: (_layer, _rules, { inArea }) => (inArea ? true : undefined),
  sentence: () => 'only what lies in the area of interest',
  tally: () => ({ outside: 0 }),
  stage: (_parameters, { inArea, left }, tally) => ({
    *apply(batch) {
      const kept = filterRecords(batch, inArea!(batch), (i) => {
        tally.outside++;
        left?.(batch, i, REASONS.area);
      });
      if (kept.count > 0) yield kept;
    },
  }),
  effects: ({ outside }) =>
    outside > 0
      ? [
          {
            effect: 'left',
            by: 'you',
            code: REASONS.area.code,
            count: outside,
            message: `${outside} outside the area of interest`,
            gone: true,
          },
        ]
      : [],
};
