import { z } from 'zod';
import { simplified } from '../geometry/simplify';
import { eachPart, type FeatureBatch, LINE, POLYGON } from '../model/batch';
import type { Operation } from './operation';

/** Metres. */
export const Simplify = z.number().positive();

interface Tally {
  /** Vertices before and after. */
  before: number;
  after: number;
  /** Largest distance of a vertex that went from the line that stayed, metres. */
  shift_m: number;
}

/** Leaves vertices out that lie nearer than a distance to the line without them. */
export const simplify: Operation<number, Tally, { simplify_m?: number | undefined }> = {
  id: 'simplify_m',
  scope: 'record',
  schema: Simplify,
  parameters: (layer, rules) => rules[layer]?.simplify_m,
  sentence: (within_m) => `simplified within ${within_m} m`,
  tally: () => ({ before: 0, after: 0, shift_m: 0 }),
  stage: (within_m, { unit_m }, tally) => ({
    *apply(batch) {
      yield simplifiedBatch(batch, within_m / unit_m, unit_m, tally);
    },
  }),
  effects: ({ before, after, shift_m }) =>
    after < before
      ? [
          {
            effect: 'told',
            code: 'simplified',
            count: before - after,
            message: `${before - after} of ${before} vertices simplified away, at most ${Number((shift_m * 1000).toPrecision(3))} mm off`,
          },
        ]
      : [],
};

function simplifiedBatch(batch: FeatureBatch, tolerance: number, unit_m: number, tally: Tally): FeatureBatch {
  const { coords, bulges, measures } = batch;
  const kept = new Uint8Array(coords.length / 3).fill(1);
  for (let i = 0; i < batch.count; i++) {
    if (batch.kinds[i] !== LINE && batch.kinds[i] !== POLYGON) continue;
    eachPart(batch, i, (start, end) => {
      const { keep, shift } = simplified(coords, bulges, start, end, tolerance);
      const left = keep.reduce((n, flag) => n + flag, 0);
      tally.before += end - start;
      // a ring keeps an inside
      if (isRing(coords, start, end) && left < 4) {
        tally.after += end - start;
        return;
      }
      kept.set(keep, start);
      tally.after += left;
      tally.shift_m = Math.max(tally.shift_m, shift * unit_m);
    });
  }
  const n = kept.reduce((sum, flag) => sum + flag, 0);
  if (n === kept.length) return batch;
  const out = new Float64Array(3 * n);
  const bent = bulges && new Float64Array(n);
  const measured = measures && new Float64Array(n);
  const partEnds = new Uint32Array(batch.partEnds.length);
  let to = 0,
    v = 0;
  for (let p = 0; p < partEnds.length; p++) {
    for (; v < batch.partEnds[p]!; v++) {
      if (!kept[v]) continue;
      out.set(coords.subarray(3 * v, 3 * v + 3), 3 * to);
      if (bent) bent[to] = bulges![v]!;
      if (measured) measured[to] = measures![v]!;
      to++;
    }
    partEnds[p] = to;
  }
  return { ...batch, coords: out, bulges: bent, measures: measured, partEnds };
}

const isRing = (coords: Float64Array, start: number, end: number): boolean =>
  end - start > 3 && coords[3 * start] === coords[3 * (end - 1)] && coords[3 * start + 1] === coords[3 * (end - 1) + 1];
