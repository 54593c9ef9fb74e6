import { extent, fsum, mean, rollup, sum } from 'd3';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import fc from 'fast-check';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { type Bounds, emptyBounds, featureBounds } from '@pontrel/core/geometry/bounds';
import type { FeatureBatch } from '@pontrel/core/model/batch';
import { BatchBuilder } from '@pontrel/core/model/batch-builder';
import { plain } from '../../core/test/drawing';
import { FeatureStore, FeatureStoreWriter } from '../src/store/feature-store';

let folder: string;
beforeEach(() => {
  folder = mkdtempSync(path.join(tmpdir(), 'pontrel-store-'));
});
afterEach(() => rmSync(folder, { recursive: true, force: true }));

/** A record as fast-check makes it. */
const record = fc.record({
  layer: fc.constantFrom('MAINS', 'QUAY', 'Whārangi'),
  entity: fc.constantFrom('LINE', 'INSERT', 'TEXT'),
  kind: fc.integer({ min: 0, max: 3 }),
  parts: fc.array(
    fc.array(
      fc.tuple(
        coordinate(),
        coordinate(),
        fc.oneof(coordinate(), fc.constant(NaN)),
        fc.oneof(
          fc.constant(0),
          fc.double({ min: -3, max: 3, noNaN: true }).map((v) => v || 0),
        ),
      ),
      { minLength: 1, maxLength: 6 },
    ),
    { minLength: 1, maxLength: 3 },
  ),
  attributes: fc.dictionary(
    fc.constantFrom('name', 'depth', 'open', 'Ort'),
    fc.oneof(
      fc.string({ minLength: 1 }),
      fc.double({ noNaN: true, noDefaultInfinity: true }).map((v) => v || 0),
      fc.boolean(),
    ),
  ), // minus zero is zero in JSON
});

function coordinate(): fc.Arbitrary<number> {
  return fc.integer({ min: -2e9, max: 2e9 }).map((v) => v / 1000);
}

type Made = typeof record extends fc.Arbitrary<infer T> ? T : never;

function batchesOf(records: readonly Made[]): FeatureBatch[] {
  const builders = new Map<string, BatchBuilder>();
  records.forEach((r, i) => {
    let builder = builders.get(r.layer);
    if (!builder) builders.set(r.layer, (builder = new BatchBuilder(r.layer)));
    for (const part of r.parts) {
      for (const [x, y, z, bulge] of part) builder.vertex(x, y, z, bulge);
      builder.endPart();
    }
    for (const [name, value] of Object.entries(r.attributes)) builder.set(name, value);
    builder.endFeature(r.kind, r.entity, i + 1);
  });
  return [...builders.values()].map((b) => b.take());
}

function stored(batches: readonly FeatureBatch[], file = path.join(folder, `${Math.random()}.sqlite`)): FeatureStore {
  const writer = new FeatureStoreWriter(file);
  for (const batch of batches) writer.add(batch);
  writer.close();
  return new FeatureStore(file);
}

describe('a feature store', () => {
  it('gives back every record exactly as it went in, in the same order', () => {
    fc.assert(
      fc.property(fc.array(record, { minLength: 1, maxLength: 12 }), (records) => {
        const batches = batchesOf(records);
        const store = stored(batches);
        const back = [...store.batches()];
        expect(back.flatMap(plain)).toEqual(batches.flatMap(plain));
        // and the same again, since a run and its proof both walk through it
        expect([...store.batches()].flatMap(plain)).toEqual(back.flatMap(plain));
        store.close();
      }),
      { numRuns: 40, endOnFailure: true },
    );
  });

  it('sums up what records have in a field as d3 does, of all of them or of some', () => {
    // npm: d3-array, by its deviations from which the project's own counting would be told
    const cell = fc.oneof(
      fc.integer({ min: -40, max: 40 }),
      fc.double({ min: -1e6, max: 1e6, noNaN: true }),
      fc.constantFrom('a', 'b', true, null),
    );
    fc.assert(
      fc.property(fc.array(cell, { minLength: 1, maxLength: 60 }), fc.boolean(), (cells, some) => {
        const b = new BatchBuilder('L');
        cells.forEach((v, k) => {
          b.vertex(k, k, 0);
          b.endPart();
          b.set('odd "name"', v);
          b.endFeature(0, 'POINT', k + 1);
        });
        const store = stored([b.take()]);
        const taken = cells.map((v, k) => ({ v, id: k + 1 })).filter((c) => !some || c.id % 2 === 1);
        const told = store.statistics('L', 'odd "name"', some ? Uint32Array.from(taken, (c) => c.id) : null);
        store.close();
        const values = taken.map((c) => c.v).filter((v) => v !== null);
        const numbers = values.filter((v) => typeof v === 'number');
        expect([told.records, told.filled]).toEqual([taken.length, values.length]);
        const counts = rollup(
          values,
          (of) => of.length,
          (v) => v,
        );
        expect(told.distinct).toBe(counts.size);
        for (const { value, count } of told.top) expect([value, count]).toEqual([value, counts.get(value as never)]);
        expect(told.top.map((t) => t.count)).toEqual([...counts.values()].sort((p, q) => q - p).slice(0, told.top.length));
        if (numbers.length === 0) {
          expect(told.numbers).toBeNull();
          return;
        }
        const { count, lowest, highest, mean: middle, sum: total, bins } = told.numbers!;
        expect([count, lowest, highest]).toEqual([numbers.length, ...extent(numbers)]);
        const largest = Math.max(...numbers.map(Math.abs), 1);
        expect(Math.abs(middle - mean(numbers)!)).toBeLessThan(1e-9 * largest);
        expect(Math.abs(total - fsum(numbers))).toBeLessThan(1e-9 * largest * numbers.length);
        expect(sum(bins)).toBe(numbers.length);
        // each bin holds what lies within it; on an edge between two, rounding may tell either
        const step = (highest - lowest) / bins.length;
        for (let upTo = 1; upTo < bins.length; upTo++) {
          const edge = lowest + upTo * step,
            near = 1e-9 * largest;
          const below = numbers.filter((v) => v < edge - near).length,
            atMost = numbers.filter((v) => v < edge + near).length;
          const have = sum(bins.slice(0, upTo));
          expect(have >= below && have <= atMost).toBe(true);
        }
      }),
      { numRuns: 60, endOnFailure: true },
    );
  });

  it('lists records in the order of a field and by a filter as JavaScript would, those without a value last', () => {
    const cell = fc.option(fc.integer({ min: -5, max: 5 }), { nil: null });
    fc.assert(
      fc.property(
        fc.array(fc.record({ n: cell, 'odd "name"': cell }), { minLength: 1, maxLength: 20 }),
        fc.boolean(),
        fc.constantFrom(null, 'n > 0', 'n IS NULL OR n < 2'),
        (rows, descending, where) => {
          const b = new BatchBuilder('L');
          rows.forEach((r, k) => {
            b.vertex(k, k, 0);
            b.endPart();
            for (const [name, v] of Object.entries(r)) b.set(name, v);
            b.endFeature(0, 'POINT', k + 1);
          });
          const store = stored([b.take()]);
          for (const field of ['n', 'odd "name"'] as const) {
            const taken = rows
              .map((r, k) => ({ ...r, id: k + 1 }))
              .filter((r) => where === null || (where === 'n > 0' ? r.n !== null && r.n > 0 : r.n === null || r.n < 2));
            const wanted = taken
              .sort(
                (p, q) =>
                  (p[field] === null ? 1 : 0) - (q[field] === null ? 1 : 0) ||
                  (descending ? -1 : 1) * ((p[field] ?? 0) - (q[field] ?? 0)) ||
                  p.id - q.id,
              )
              .map((r) => r.id);
            expect([...store.list('L', { sort: field, descending, where }, null)]).toEqual(wanted);
          }
          store.close();
        },
      ),
      { numRuns: 60, endOnFailure: true },
    );
  });

  it('finds by a box every record that touches it', () => {
    fc.assert(
      fc.property(
        fc.array(record, { minLength: 1, maxLength: 12 }),
        coordinate(),
        coordinate(),
        fc.integer({ min: 0, max: 1_000_000 }),
        (records, x, y, size) => {
          const batches = batchesOf(records);
          const store = stored(batches);
          const box: Bounds = [x, y, x + size, y + size];
          const found = new Set([...store.boundsIn(box)].map((b) => b.id));
          let id = 0;
          const own: Bounds = emptyBounds();
          for (const batch of batches) {
            for (let i = 0; i < batch.count; i++) {
              id++;
              featureBounds(batch, i, own);
              const touches = own[0] <= box[2] && own[2] >= box[0] && own[1] <= box[3] && own[3] >= box[1];
              // single precision may find a neighbour too, but never lose one
              if (touches) expect(found.has(id)).toBe(true);
            }
          }
          store.close();
        },
      ),
      { numRuns: 40, endOnFailure: true },
    );
  });

  it('pages through a layer and samples it evenly', () => {
    const builder = new BatchBuilder('SPOT');
    for (let i = 0; i < 1000; i++) {
      builder.vertex(i, 0, 0);
      builder.endPart();
      builder.set('number', i);
      builder.endFeature(0, 'POINT', i + 1);
    }
    const other = new BatchBuilder('OTHER');
    other.vertex(0, 0, NaN);
    other.endPart();
    other.endFeature(0, 'POINT', 1);
    const store = stored([other.take(), builder.take()]);
    const page = store.page('SPOT', 990, 20);
    expect(page.total).toBe(1000);
    expect(page.records.map((r) => r.attributes.number)).toEqual([990, 991, 992, 993, 994, 995, 996, 997, 998, 999]);
    const sample = store.sampleIds('SPOT', 100);
    expect(sample.length).toBeGreaterThan(80);
    expect(sample.length).toBeLessThanOrEqual(100);
    const gaps = sample.slice(1).map((id, i) => id - sample[i]!);
    expect(new Set(gaps)).toEqual(new Set([11]));
    expect(store.sampleIds('OTHER', 100)).toHaveLength(1);
    expect(store.sampleIds('NONE', 100)).toEqual([]);
    const one = store.record(sample[0]!)!;
    expect(one).toMatchObject({ layer: 'SPOT', entity: 'POINT', kind: 'point', vertices: 1 });
    expect(store.record(1)!.at).toEqual([0, 0, null]);
    expect(store.record(99_999)).toBeNull();
    store.close();
  });
});
