import { z } from 'zod';
import { type FeatureBatch, KINDS, vertexRange } from '../model/batch';
import { filterRecords } from '../model/select-records';
import { REASONS } from '../model/reason';
import { counted, type Operation } from './operation';

/** Leaves behind records whose geometry is that of one before. */
export const dropDuplicates: Operation<true, { dropped: number }, { dropDuplicates?: boolean | undefined }> = {
  id: 'dropDuplicates',
  scope: 'layer',
  schema: z.literal(true),
  parameters: (layer, rules) => rules[layer]?.dropDuplicates || undefined,
  sentence: () => 'duplicates of the same geometry dropped',
  tally: () => ({ dropped: 0 }),
  stage(_parameters, { left }, tally) {
    const seen = new Set<string>();
    return {
      *apply(batch) {
        const isNew = (i: number): boolean => {
          const key = geometryKey(batch, i);
          return !seen.has(key) && seen.add(key) !== null;
        };
        const kept = filterRecords(batch, isNew, (i) => {
          tally.dropped++;
          left?.(batch, i, REASONS.duplicate);
        });
        if (kept.count > 0) yield kept;
      },
    };
  },
  effects: ({ dropped }) =>
    dropped > 0
      ? [
          {
            effect: 'left',
            by: 'you',
            code: REASONS.duplicate.code,
            count: dropped,
            message: `${counted(dropped, 'duplicate')} of the same geometry dropped`,
            gone: true,
          },
        ]
      : [],
};

/** Two records have the same key when they have the same vertices in the same order, or in the opposite one, with the same measures. */
function geometryKey(batch: FeatureBatch, i: number): string {
  const { coords, bulges, measures } = batch;
  const [start, end] = vertexRange(batch, i);
  const words = new Uint32Array(coords.buffer, coords.byteOffset, 2 * coords.length);
  const way = (from: number, step: number): string => {
    // two mixes of the bytes, so that no two shapes meet by chance
    let a = 0x811c9dc5,
      b = 0x9e3779b9;
    for (let v = from, n = end - start; n > 0; v += step, n--) {
      for (let k = 6 * v; k < 6 * v + 6; k++) {
        a = Math.imul(a ^ words[k]!, 0x01000193);
        b = (Math.imul(b, 31) + (words[k]! ^ (a >>> 7))) | 0;
      }
    }
    return `${a >>> 0}.${b >>> 0}`;
  };
  const measured = measures ? [...measures.subarray(start, end)].filter((m) => !Number.isNaN(m)) : [];
  let bent = 0;
  if (bulges) for (let v = start; v < end; v++) bent += Math.abs(bulges[v]!);
  const both = [way(start, 1), way(end - 1, -1)].sort();
  return `${KINDS[batch.kinds[i]!]} ${end - start} ${bent} ${both.join(' ')} ${measured.join(' ')}`;
}
