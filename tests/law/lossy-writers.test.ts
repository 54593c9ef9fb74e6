import { mkdirSync } from 'node:fs';
import path from 'node:path';
import { afterAll, describe, expect, it } from 'vitest';
import { Profiler } from '@pontrel/core/content/features/profile';
import { FORMATS } from '@pontrel/core/formats/index';
import type { DeliverableWriter, Format } from '@pontrel/core/formats/format';
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
async function withFault<T>(format: Format, fault: Fault, work: () => Promise<T>): Promise<T> {
  const write = format.write!;
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

describe('a writer that is not true to what it is given is caught, whatever it writes', () => {
  const { folder, remove } = temporaryFolder();
  afterAll(remove);
  let made = 0;

  for (const format of FORMATS.filter((f) => f.write)) {
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
});
