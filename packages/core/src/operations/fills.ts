import { z } from 'zod';
import { LINE, POLYGON } from '../model/batch';
import { BatchBuilder, copyRecord } from '../model/batch-builder';
import { counted, type Operation } from './operation';

/** What becomes of fills; areas when nothing is said. */
export const Fills = z.enum(['area', 'outline', 'both']);
type Fills = z.infer<typeof Fills>;

/** Entities that are fills. */
export const FILLS: ReadonlySet<string> = new Set(['HATCH', 'MPOLYGON', 'SOLID', 'TRACE']);

/** Makes lines of the edges of fills, instead of their areas or beside them. */
export const fills: Operation<Fills, { asLines: number }, { fills?: Fills | undefined }> = {
  id: 'fills',
  scope: 'record',
  schema: Fills,
  parameters(layer, rules) {
    const own = rules[layer]?.fills;
    return own === 'area' ? undefined : own;
  },
  sentence: (how) => (how === 'both' ? 'fills as areas and as outlines' : 'fills as outlines'),
  tally: () => ({ asLines: 0 }),
  stage: (how, _context, tally) => ({
    *apply(batch) {
      const isFill = (i: number): boolean => FILLS.has(batch.entities[i]!) && batch.kinds[i] === POLYGON;
      if (!batch.entities.some((_, i) => isFill(i))) return void (yield batch);
      const out = new BatchBuilder(batch.layer, batch.to);
      for (let i = 0; i < batch.count; i++) {
        const fill = isFill(i);
        if (!fill || how === 'both') copyRecord(batch, i, out);
        if (fill) {
          tally.asLines++;
          copyRecord(batch, i, out, LINE);
        }
      }
      yield { ...out.take(), declared: batch.declared };
    },
  }),
  effects: ({ asLines }) =>
    asLines > 0
      ? [{ effect: 'told', code: 'fills-as-lines', count: asLines, message: `${counted(asLines, 'fill')} with outlines as lines` }]
      : [],
};
