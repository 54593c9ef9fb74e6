import { mkdirSync } from 'node:fs';
import path from 'node:path';
import { afterAll, describe, expect, it } from 'vitest';
import type { Proof } from '@pontrel/core/content/features/proof';
import { Profiler } from '@pontrel/core/content/features/profile';
import { FORMATS } from '@pontrel/core/formats/index';
import type { DeliverableWriter, FeatureFormat } from '@pontrel/core/formats/format';
import { prescribedCrs } from '@pontrel/core/formats/options';
import { POINT } from '@pontrel/core/model/batch';
import { BatchBuilder } from '@pontrel/core/model/batch-builder';
import { crossInto, type Gathered } from '../reference/cross-file';
import { temporaryFolder } from '../server/client';

const NZTM = 'EPSG:2193';
const RECORDS = 2500;

/** Points of the town in batches of a thousand, no two alike unless they are to be. */
function points(alike: boolean): Gathered {
  const profiler = new Profiler();
  const builder = new BatchBuilder('POINTS');
  const batches = [];
  for (let k = 0; k < RECORDS; k++) {
    builder.vertex(1_464_000 + (alike ? 0 : k % 50), 5_101_500 + (alike ? 0 : Math.floor(k / 50)), NaN);
    builder.endPart();
    builder.set('name', alike ? 'the same' : `P${k}`);
    builder.endFeature(POINT, 'POINT', k + 1);
    if (builder.count === 1000 || k === RECORDS - 1) batches.push(builder.take());
  }
  for (const batch of batches) profiler.add(batch);
  return { name: 'points.dxf', batches, profiler, findings: [], library: null };
}

/** What a faulty writer makes of the rows that it is to append. */
type Fault = (rows: Uint32Array, first: number) => number[];

const FAULTS: Record<string, Fault> = {
  'loses one record in a thousand': (rows, first) => [...rows].filter((_, k) => (first + k + 1) % 1000 !== 0),
  'loses the last record': (rows, first) => [...rows].filter((_, k) => first + k !== RECORDS - 1),
  'writes one record twice': (rows, first) => [...rows].flatMap((r, k) => (first + k === 1234 ? [r, r] : [r])),
  'writes one record in the place of another': (rows, first) => [...rows].map((r, k) => (first + k === 1500 ? rows[k - 1]! : r)),
};

/** Runs with the writer of a format made faulty, and puts it right again. */
async function withFault<T>(format: FeatureFormat, fault: Fault, work: () => Promise<T>): Promise<T> {
  const write = format.features.write!;
  const { create } = write;
  write.create = async (...args): Promise<DeliverableWriter> => {
    const writer = await create(...args);
    let first = 0;
    return {
      ...writer,
      append(set, batch, rows, n, source) {
        const kept = Uint32Array.from(fault(rows.subarray(0, n), first));
        first += n;
        return writer.append(set, batch, kept, kept.length, source);
      },
      close: (findings) => writer.close(findings),
    };
  };
  try {
    return await work();
  } finally {
    write.create = create;
  }
}

/** Points with a reading each, all of them sound but for one that the writer makes another. */
async function withOtherMeasure(format: FeatureFormat, folder: string, change: (m: number) => number): Promise<Proof> {
  const profiler = new Profiler();
  const builder = new BatchBuilder('WELLS');
  for (let k = 0; k < 100; k++) {
    builder.vertex(1_464_000 + k, 5_101_500, NaN, 0, k / 7);
    builder.endPart();
    builder.endFeature(POINT, 'POINT', k + 1);
  }
  const batch = builder.take();
  profiler.add(batch);
  const write = format.features.write!;
  const { create } = write;
  write.create = async (...args): Promise<DeliverableWriter> => {
    const writer = await create(...args);
    return {
      append: (set, given, rows, n, source) =>
        writer.append(set, { ...given, measures: given.measures!.map((m, k) => (k === 50 ? change(m) : m)) }, rows, n, source),
      close: (findings) => writer.close(findings),
    };
  };
  try {
    const source = { name: 'wells.dxf', batches: [batch], profiler, findings: [], library: null };
    return (await crossInto(folder, source, { format: format.id, crs: NZTM, placement: { crs: NZTM, unit_m: null } })).proof;
  } finally {
    write.create = create;
  }
}

describe('a writer that is not true to what it is given is caught, whatever it writes', () => {
  const { folder, remove } = temporaryFolder();
  afterAll(remove);
  let made = 0;

  for (const format of FORMATS.filter((f) => f.features.write)) {
    it.each(Object.entries(FAULTS))(`${format.name} that %s`, async (name, fault) => {
      // records that are alike cannot be told apart, but they can be counted
      for (const alike of name.includes('another') ? [false] : [false, true]) {
        const into = path.join(folder, String(++made));
        mkdirSync(into);
        const crs = prescribedCrs(format) ?? NZTM;
        const { proof } = await withFault(format, fault, () =>
          crossInto(into, points(alike), { format: format.id, crs, placement: { crs: NZTM, unit_m: null } }),
        );
        expect([alike, proof.status]).toEqual([alike, 'differs']);
        const [row] = proof.account!;
        expect(row!.read).toBe(RECORDS);
        expect(row!.crossed + row!.missing).toBe(RECORDS);
        if (name.includes('loses')) expect(row!.missing).toBeGreaterThan(0);
      }
    });
  }

  it.each(FORMATS.filter((f) => f.features.write && f.features.carries.measures).map((f) => [f.name, f] as const))(
    '%s with another measure on one vertex of a hundred',
    async (_name, format) => {
      for (const [change, status] of [
        [(m: number) => m, 'match'],
        [(m: number) => m + 1e-9, 'differs'],
        [() => NaN, 'differs'],
      ] as const) {
        const into = path.join(folder, String(++made));
        mkdirSync(into);
        const proof = await withOtherMeasure(format, into, change);
        expect(proof.status).toBe(status);
        expect(proof.differences.map((d) => [d.code, d.count])).toEqual(status === 'match' ? [] : [['measure', 1]]);
        expect(proof.sets[0]!.measured).toBe(100);
      }
    },
  );
});
