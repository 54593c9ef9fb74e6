import type { Value } from './value';
import { type FeatureBatch, vertexRange } from './batch';

/**
 * The named records of a batch, in the order in which they are named.
 * @param rows indexes of records; the batch itself is returned where they are all of its records in its own order
 */
export function selectRecords(batch: FeatureBatch, rows: Uint32Array): FeatureBatch {
  if (rows.length === batch.count && rows.every((r, k) => r === k)) return batch;
  let parts = 0,
    vertices = 0;
  for (const r of rows) {
    const [start, end] = vertexRange(batch, r);
    vertices += end - start;
    parts += batch.featureEnds[r]! - (r === 0 ? 0 : batch.featureEnds[r - 1]!);
  }
  const coords = new Float64Array(3 * vertices);
  const bulges = batch.bulges && new Float64Array(vertices);
  const measures = batch.measures && new Float64Array(vertices);
  const partEnds = new Uint32Array(parts);
  const featureEnds = new Uint32Array(rows.length);
  let v = 0,
    p = 0;
  rows.forEach((r, k) => {
    const [start, end] = vertexRange(batch, r);
    coords.set(batch.coords.subarray(3 * start, 3 * end), 3 * v);
    bulges?.set(batch.bulges!.subarray(start, end), v);
    measures?.set(batch.measures!.subarray(start, end), v);
    for (let q = r === 0 ? 0 : batch.featureEnds[r - 1]!; q < batch.featureEnds[r]!; q++) partEnds[p++] = batch.partEnds[q]! - start + v;
    v += end - start;
    featureEnds[k] = p;
  });
  const picked = <T>(column: readonly T[]): T[] => Array.from(rows, (r) => column[r]!);
  return {
    ...batch,
    count: rows.length,
    kinds: Uint8Array.from(rows, (r) => batch.kinds[r]!),
    entities: picked(batch.entities),
    coords,
    bulges,
    measures,
    partEnds,
    featureEnds,
    columns: new Map([...batch.columns].map(([name, column]) => [name, picked<Value>(column)])),
    ...(batch.symbology ? { symbology: picked(batch.symbology) } : {}),
    locations: Float64Array.from(rows, (r) => batch.locations[r]!),
    ...(batch.items ? { items: Uint32Array.from(rows, (r) => batch.items![r]!) } : {}),
  };
}

/** The records of a batch that are such; `others` is told the number of each that is not. */
export function filterRecords(batch: FeatureBatch, such: (i: number) => boolean, others: (i: number) => void = () => {}): FeatureBatch {
  const rows: number[] = [];
  for (let i = 0; i < batch.count; i++) {
    if (such(i)) rows.push(i);
    else others(i);
  }
  return selectRecords(batch, Uint32Array.from(rows));
}
