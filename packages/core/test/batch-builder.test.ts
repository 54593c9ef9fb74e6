import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { LINE, measuresText, partRanges, POINT, POLYGON, type FeatureBatch } from '../src/model/batch';
import { BatchBuilder, copyRecord } from '../src/model/batch-builder';
import { selectRecords } from '../src/model/select-records';

/** A vertex as plain numbers: x, y, z, bulge, measure; NaN where there is none. */
type Vertex = [number, number, number, number, number];
interface Row {
  kind: number;
  parts: Vertex[][];
  values: Record<string, string | number>;
  /** Whether it is dropped before it is ended. */
  dropped: boolean;
}

const number = fc.oneof(fc.integer({ min: -9, max: 9 }), fc.double({ min: -1e6, max: 1e6, noNaN: true }));
const perhaps = (a: fc.Arbitrary<number>): fc.Arbitrary<number> => fc.oneof(a, fc.constant(NaN));
const vertex: fc.Arbitrary<Vertex> = fc.tuple(
  number,
  number,
  perhaps(number),
  fc.oneof(fc.constant(0), fc.double({ min: -1, max: 1, noNaN: true })),
  perhaps(number),
);
const row: fc.Arbitrary<Row> = fc.record({
  kind: fc.constantFrom(POINT, LINE, POLYGON),
  parts: fc.array(fc.array(vertex, { minLength: 1, maxLength: 5 }), { maxLength: 3 }),
  values: fc.dictionary(fc.constantFrom('a', 'b', '__proto__x', 'constructor'), fc.oneof(fc.integer(), fc.string({ minLength: 1 }))),
  dropped: fc.boolean(),
});

/** What must come of a row: rings of areas of three vertices and more end where they begin. */
function expected({ kind, parts }: Row): Vertex[][] {
  return parts.map((part) => {
    const [first, last] = [part[0]!, part.at(-1)!];
    const open = !Object.is(first[0], last[0]) || !Object.is(first[1], last[1]);
    return kind === POLYGON && part.length > 2 && open ? [...part, [first[0], first[1], first[2], 0, first[4]] as Vertex] : part;
  });
}

function put(rows: readonly Row[]): BatchBuilder {
  const out = new BatchBuilder('L');
  rows.forEach(({ kind, parts, values, dropped }, k) => {
    for (const part of parts) {
      for (const [x, y, z, bulge, m] of part) out.vertex(x, y, z, bulge, m);
      out.endPart();
    }
    for (const [name, value] of Object.entries(values)) out.set(name, value);
    if (dropped) out.abandon();
    else out.endFeature(kind, `row ${k}`, k);
  });
  return out;
}

/** The vertices of a record, as they were put in. */
const vertices = (b: FeatureBatch, i: number): Vertex[][] =>
  partRanges(b, i).map(([s, e]) =>
    Array.from({ length: e - s }, (_, k): Vertex => {
      const v = s + k;
      return [b.coords[3 * v]!, b.coords[3 * v + 1]!, b.coords[3 * v + 2]!, b.bulges?.[v] ?? 0, b.measures?.[v] ?? NaN];
    }),
  );

const valuesOf = (b: FeatureBatch, i: number): Record<string, unknown> =>
  Object.fromEntries(
    [...b.columns].flatMap(([name, column]) => (column[i] === null || column[i] === undefined ? [] : [[name, column[i]]])),
  );

describe('a batch', () => {
  it('holds every record that was ended as it was put in, and nothing of those that were dropped', () => {
    fc.assert(
      fc.property(fc.array(row, { maxLength: 12 }), (rows) => {
        const builder = put(rows);
        const batch = builder.take();
        const kept = rows.filter((r) => !r.dropped);
        expect(batch.count).toBe(kept.length);
        expect(batch.coords.length / 3).toBe(batch.partEnds.at(-1) ?? 0);
        kept.forEach((r, i) => {
          expect(vertices(batch, i)).toEqual(expected(r));
          expect(valuesOf(batch, i)).toEqual(r.values);
          const all = expected(r).flat();
          expect(measuresText(batch, i)).toBe(
            all.every((v) => Number.isNaN(v[4])) ? null : JSON.stringify(all.map((v) => (Number.isNaN(v[4]) ? null : v[4]))),
          );
        });
        expect(builder.ringsClosed).toBe(kept.reduce((n, r) => n + expected(r).filter((p, k) => p.length > r.parts[k]!.length).length, 0));
        // what was taken leaves nothing for the next
        expect(put([]).take().count).toBe(0);
        expect(builder.take().coords.length).toBe(0);
      }),
      { numRuns: 600 },
    );
  });

  it('gives records away one by one or by their numbers, with measures and bulges', () => {
    fc.assert(
      fc.property(fc.array(row, { minLength: 1, maxLength: 8 }), fc.array(fc.nat(7), { maxLength: 6 }), (rows, wanted) => {
        const batch = put(rows.map((r) => ({ ...r, dropped: false }))).take();
        const numbers = wanted.map((k) => k % batch.count);
        const some = selectRecords(batch, Uint32Array.from(numbers));
        const copied = new BatchBuilder('L');
        for (const i of numbers) copyRecord(batch, i, copied);
        const one = copied.take();
        numbers.forEach((i, k) => {
          for (const other of [some, one]) {
            expect(vertices(other, k)).toEqual(vertices(batch, i));
            expect(valuesOf(other, k)).toEqual(valuesOf(batch, i));
            expect([other.kinds[k], other.entities[k], other.locations[k]]).toEqual([
              batch.kinds[i],
              batch.entities[i],
              batch.locations[i],
            ]);
          }
        });
      }),
      { numRuns: 300 },
    );
  });
});
