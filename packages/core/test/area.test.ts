import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { inAreaOf, regionOf } from '../src/crossing/area-of-interest';
import { type AreaOfInterest, EMPTY_RECIPE, type Recipe } from '../src/crossing/recipe';
import { type Region, intersects } from '../src/geometry/within';
import { type FeatureBatch, LINE, POINT, POLYGON } from '../src/model/batch';
import { BatchBuilder } from '../src/model/batch-builder';

const NZTM = 'EPSG:2193';

function batch(layer: string, kind: number, ...records: [number, number][][][]): FeatureBatch {
  const b = new BatchBuilder(layer);
  for (const parts of records) {
    for (const part of parts) {
      for (const [x, y] of part) b.vertex(x, y, 0);
      b.endPart();
    }
    b.endFeature(kind, 'X', 1);
  }
  return b.take();
}

const square = (x: number, y: number, s: number): [number, number][] => [
  [x, y],
  [x + s, y],
  [x + s, y + s],
  [x, y + s],
  [x, y],
];

describe('what lies in a region', () => {
  const ring: Region = { box: [0, 0, 10, 10], rings: [square(0, 0, 10).flat(), square(4, 4, 2).flat()] };

  it('is told for points, lines that only pass, areas that lie around it, and the hole of a region', () => {
    const told = (kind: number, ...parts: [number, number][][]): boolean => intersects(batch('L', kind, parts), 0, ring);
    expect([told(POINT, [[1, 1]]), told(POINT, [[5, 5]]), told(POINT, [[11, 1]])]).toEqual([true, false, false]);
    // through it from side to side, past its corner, and within its hole
    expect([
      told(LINE, [
        [-5, 2],
        [15, 2],
      ]),
      told(LINE, [
        [-5, 12],
        [3, 12],
      ]),
      told(LINE, [
        [4.5, 4.5],
        [5.5, 5.5],
      ]),
    ]).toEqual([true, false, false]);
    expect([
      told(POLYGON, square(-50, -50, 200)),
      told(POLYGON, square(-50, -50, 200), square(-20, -20, 60)),
      told(POLYGON, square(20, 20, 5)),
    ]).toEqual([true, false, false]);
  });

  it('is the same for a box and for its ring, and for a line either way round', () => {
    const n = fc.integer({ min: -20, max: 30 });
    fc.assert(
      fc.property(fc.array(fc.tuple(n, n), { minLength: 2, maxLength: 5 }), (points) => {
        const box: Region = { box: [0.5, 0.5, 9.5, 9.5], rings: [] };
        const asRing: Region = { box: [0.5, 0.5, 9.5, 9.5], rings: [square(0.5, 0.5, 9).flat()] };
        const line = batch('L', LINE, [points]),
          back = batch('L', LINE, [[...points].reverse()]);
        // sampled finely: a place on the line that lies in the box
        const brute = points.some(
          (p, k) =>
            k > 0 &&
            Array.from({ length: 401 }, (_, t) => t / 400).some((t) => {
              const [a, b] = [points[k - 1]!, p];
              const [x, y] = [a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t];
              return x > 0.5 && x < 9.5 && y > 0.5 && y < 9.5;
            }),
        );
        const told = intersects(line, 0, box);
        if (brute) expect(told).toBe(true);
        expect([intersects(line, 0, asRing), intersects(back, 0, box)]).toEqual([told, told]);
      }),
      { numRuns: 500 },
    );
  });
});

describe('an area of interest', () => {
  const stores: Record<string, FeatureBatch[]> = {
    // the plan in millimetres, the county in metres
    'plan.dxf': [
      batch('LEASES', POLYGON, [square(1_464_000_000, 5_101_000_000, 20_000)]),
      batch('MARKS', POINT, [[[1_464_050_000, 5_101_050_000]]]),
    ],
    'county.shp': [
      batch('parcels', POLYGON, [square(1_464_010, 5_101_010, 30)], [square(1_464_100, 5_101_000, 10)], [square(1_470_000, 5_101_000, 10)]),
    ],
  };
  const recipe: Recipe = {
    ...EMPTY_RECIPE,
    frame: { crs: NZTM },
    sources: {
      'plan.dxf': { placement: { crs: NZTM, unit_m: 0.001 }, layers: {} },
      'county.shp': { placement: { crs: NZTM, unit_m: null }, layers: {} },
    },
  };
  const kept = async (area: AreaOfInterest): Promise<boolean[]> => {
    const region = await regionOf(recipe, area, (name) => ({ name, extent: null, records: () => stores[name]! }));
    const [parcels] = stores['county.shp']!;
    const keep = inAreaOf(recipe, { name: 'county.shp', extent: null }, region)(parcels!);
    return [0, 1, 2].map(keep);
  };

  it('is what another source covers and some more, the areas of one of its layers, what was drawn, or a box', async () => {
    expect(await kept({ kind: 'source', source: 'plan.dxf', plus_m: 0 })).toEqual([true, false, false]);
    expect(await kept({ kind: 'source', source: 'plan.dxf', plus_m: 51 })).toEqual([true, true, false]);
    expect(await kept({ kind: 'layer', source: 'plan.dxf', layer: 'LEASES' })).toEqual([true, false, false]);
    expect(
      await kept({
        kind: 'drawn',
        ring: [
          [1_464_000, 5_101_000],
          [1_464_060, 5_101_000],
          [1_464_000, 5_101_060],
        ],
      }),
    ).toEqual([true, false, false]);
    expect(
      await kept({
        kind: 'drawn',
        ring: [
          [1_464_000, 5_101_000],
          [1_464_200, 5_101_000],
          [1_464_200, 5_101_009],
        ],
      }),
    ).toEqual([false, true, false]);
    expect(await kept({ kind: 'box', box: [1_469_990, 5_100_000, 1_480_000, 5_102_000] })).toEqual([false, false, true]);
  });

  it('says why it is none', async () => {
    const none = (name: string) => ({ name, extent: null, records: () => [] });
    await expect(kept({ kind: 'layer', source: 'plan.dxf', layer: 'MARKS' })).rejects.toThrow(/has no areas/);
    await expect(regionOf({ ...recipe, frame: null }, { kind: 'box', box: [0, 0, 1, 1] }, none)).rejects.toThrow(/needs a reference frame/);
    await expect(regionOf({ ...recipe, sources: {} }, { kind: 'source', source: 'plan.dxf', plus_m: 5 }, none)).rejects.toThrow(
      /has no place yet/,
    );
  });
});
