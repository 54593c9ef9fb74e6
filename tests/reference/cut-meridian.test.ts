import { afterAll, describe, expect, it } from 'vitest';
import { cutAtAntimeridian } from '@pontrel/core/geometry/cut-meridian';
import { planeArea } from '@pontrel/core/geometry/measure';
import { LINE, partRanges, POLYGON } from '@pontrel/core/model/batch';
import { BatchBuilder } from '@pontrel/core/model/batch-builder';
import { Profiler } from '@pontrel/core/content/features/profile';
import { temporaryFolder } from '../server/client';
import { crossInto, gather } from './cross-file';
import { python } from './python';

let seed = 4711;
const random = (from: number, to: number): number => {
  seed = (seed * 16807) % 2147483647;
  return from + (seed / 2147483647) * (to - from);
};

const wound = (x: number): number => (x > 180 ? x - 360 : x);

describe('what goes over the antimeridian', () => {
  it('has the same area on either side as shapely gives it, holes and many crossings included, and no step over it', () => {
    const areas = Array.from({ length: 200 }, () => {
      const cx = 180 + random(-4, 4),
        cy = random(-60, 60),
        n = 5 + Math.floor(random(0, 9));
      const ring = (size: number, star: number): [number, number][] => {
        const r = Array.from({ length: n }, (_, k): [number, number] => {
          const a = (k * 2 * Math.PI) / n,
            d = size * (k % 2 === 0 ? 1 : star);
          return [cx + d * Math.cos(a), cy + d * Math.sin(a)];
        });
        return [...r, r[0]!];
      };
      // rings that run in and out, and a hole that may lie on the line as well
      return [ring(5, random(0.45, 1)), ring(1.2, 1).reverse()];
    });
    const told = python<[number, number, boolean][]>('cut_meridian.py', { areas });
    areas.forEach((rings, k) => {
      if (!told[k]![2]) return;
      const b = new BatchBuilder('a');
      for (const ring of rings) {
        for (const [x, y] of ring) b.vertex(wound(x), y, NaN);
        b.endPart();
      }
      b.endFeature(POLYGON, 'Polygon', 1);
      const cut = cutAtAntimeridian(b.take(), new Set());
      const sides = [0, 0];
      partRanges(cut, 0).forEach(([s, e]) => {
        for (let v = s; v < e; v++) {
          expect(Math.abs(cut.coords[3 * v]!)).toBeLessThanOrEqual(180);
          if (v > s) expect(Math.abs(cut.coords[3 * v]! - cut.coords[3 * v - 3]!)).toBeLessThanOrEqual(180);
        }
      });
      // areas by side: rings of a side make its areas and holes again
      for (const side of [0, 1]) {
        const own = new BatchBuilder('a');
        for (const [s, e] of partRanges(cut, 0)) {
          if (
            cut.coords
              .subarray(3 * s, 3 * e)
              .filter((_, j) => j % 3 === 0)
              .reduce((sum, x) => sum + x, 0) >
              0 !==
            (side === 0)
          )
            continue;
          for (let v = s; v < e; v++) own.vertex(cut.coords[3 * v]!, cut.coords[3 * v + 1]!, NaN);
          own.endPart();
        }
        own.endFeature(POLYGON, 'Polygon', 1);
        const batch = own.take();
        sides[side] = batch.coords.length > 0 ? planeArea(batch, 0) : 0;
      }
      expect(sides[0]).toBeCloseTo(told[k]![0], 9);
      expect(sides[1]).toBeCloseTo(told[k]![1], 9);
    });
  });

  const { folder, remove } = temporaryFolder();
  afterAll(remove);

  it('crosses into GeoJSON in parts as RFC 7946 section 3.1.9 has them, proved, and is back as it was in another system', async () => {
    const b = new BatchBuilder('routes');
    // the line of the example in RFC 7946, section 3.1.9, and one that goes there and back; in a grid about 180 degrees
    for (const run of [
      [
        [170, 45],
        [-170, 45],
      ],
      [
        [179, 10, 5],
        [-179, 12, 7],
        [-178, 13, 8],
        [179.5, 14, 9],
      ],
    ]) {
      for (const [x, y, z] of run) b.vertex(x!, y!, z ?? NaN);
      b.endPart();
      b.endFeature(LINE, 'LINE', 1);
    }
    const batch = b.take();
    const cut = cutAtAntimeridian(batch, new Set());
    expect(partRanges(cut, 0).map(([s, e]) => [...cut.coords.subarray(3 * s, 3 * e)])).toEqual([
      [170, 45, NaN, 180, 45, NaN],
      [-180, 45, NaN, -170, 45, NaN],
    ]);
    expect(partRanges(cut, 1).length).toBe(3);
    const profiler = new Profiler();
    profiler.add(batch);
    const { proof } = await crossInto(
      folder,
      { name: 'routes.gpkg', batches: [batch], profiler, findings: [], library: null },
      { format: 'geojson', crs: 'EPSG:4326' },
    );
    expect(proof.status).toBe('match');
    const back = await gather(`${folder}/routes.geojson`);
    expect(back.batches[0]!.entities).toEqual(['MultiLineString', 'MultiLineString']);
  });
});
