import { geodesic } from '@pontrel/core/geometry/geodesic';
import { describe, expect, it } from 'vitest';
import { ocs } from '@pontrel/core/geometry/ocs';
import { lookupCrs } from '@pontrel/core/crs/registry/registry';
import { datumOf } from '@pontrel/core/crs/crs';
import { areaOnEllipsoid, lengthOnEllipsoid } from '@pontrel/core/crs/on-ellipsoid';
import { POLYGON } from '@pontrel/core/model/batch';
import { BatchBuilder } from '@pontrel/core/model/batch-builder';
import { computedField } from '@pontrel/core/filter/computed-fields';
import { python } from './python';

/** Seeded, so that the same points are compared each time. */
let seed = 20261;
const random = (from: number, to: number): number => {
  seed = (seed * 16807) % 2147483647;
  return from + (seed / 2147483647) * (to - from);
};

describe('object coordinate systems, against ezdxf live', () => {
  it('any plane, those that are nearly level included', () => {
    const jobs = Array.from({ length: 300 }, (_, i) => {
      const flat = i % 3 === 0 ? 1e-3 : 1; // a third of them near the pole, where the rule for the axes changes
      return {
        normal: [random(-1, 1) * flat, random(-1, 1) * flat, random(-1, 1)],
        point: [random(-1e6, 1e6), random(-1e6, 1e6), random(-100, 100)],
      };
    });
    jobs.push({ normal: [0, 0, -1], point: [3, 4, 5] }, { normal: [0, 0, 1], point: [3, 4, 5] });
    const reference = python<[number, number, number][]>('ocs.py', jobs);
    jobs.forEach(({ normal, point }, i) => {
      const world = ocs(normal[0]!, normal[1]!, normal[2]!).toWorld(point[0]!, point[1]!, point[2]!);
      world.forEach((v, k) => expect(v).toBeCloseTo(reference[i]![k]!, 6));
    });
  });
});

describe('geodesics, against PROJ live', () => {
  it.each(['EPSG:4167', 'EPSG:4326', 'EPSG:4272'])('lines of a metre to a thousand kilometres on the ellipsoid of %s', (code) => {
    const { ellipsoid } = datumOf(lookupCrs(code)!);
    const lines = Array.from({ length: 200 }, () => {
      const lon = random(-170, 170),
        lat = random(-80, 80);
      const size = 10 ** random(-5, 1);
      return [lon, lat, lon + random(-size, size), Math.max(-89, Math.min(89, lat + random(-size, size)))] as [
        number,
        number,
        number,
        number,
      ];
    });
    const reference = python<[number, number][]>('geodesics.py', { a: ellipsoid.a, rf: ellipsoid.invF, lines });
    lines.forEach((line, i) => {
      const { distance, bearing } = geodesic(ellipsoid, ...line);
      expect(Math.abs(distance - reference[i]![0])).toBeLessThan(1e-4);
      // a bearing is as sharp as the line is long
      if (distance > 100) expect(Math.abs(((bearing - reference[i]![1] + 540) % 360) - 180)).toBeLessThan(1e-5);
    });
  });
});

describe('lengths and areas on the ellipsoid, against PROJ live', () => {
  it.each([
    ['EPSG:2193', 1_460_000, 5_100_000],
    ['EPSG:32759', 460_000, 5_083_000],
    ['EPSG:3857', 19_067_000, -5_500_000],
    ['EPSG:27700', 400_000, 300_000],
  ])('outlines from a house to a county in %s', (code, e, n) => {
    const crs = lookupCrs(code)!;
    const rings = Array.from({ length: 60 }, () => {
      const size = 10 ** random(1, 4.3),
        x = e + random(-20_000, 20_000),
        y = n + random(-20_000, 20_000);
      const corners = Array.from({ length: 7 }, (_, k): [number, number] => [
        x + size * random(0.4, 1) * Math.cos((k * 2 * Math.PI) / 7),
        y + size * random(0.4, 1) * Math.sin((k * 2 * Math.PI) / 7),
      ]);
      return [...corners, corners[0]!];
    });
    const reference = python<[number, number][]>('geodesic_areas.py', { crs: code, rings });
    const b = new BatchBuilder('a');
    for (const ring of rings) {
      for (const [x, y] of ring) b.vertex(x, y, NaN);
      b.endPart();
      b.endFeature(POLYGON, 'Polygon', 1);
    }
    const batch = b.take();
    reference.forEach(([area, perimeter], i) => {
      // a square centimetre or so is what sums of areas down to the equator leave on either side
      expect(Math.abs(areaOnEllipsoid(batch, i, crs) - area)).toBeLessThan(1e-3 + 2e-8 * area);
      expect(Math.abs(lengthOnEllipsoid(batch, i, crs) - perimeter)).toBeLessThan(5e-6);
    });
    // the fields that are offered say the same in their units
    expect(Number(computedField('ellipsoid_area_ha')!.value(batch, 0, crs))).toBeCloseTo(reference[0]![0] / 10_000, 4);
    expect(computedField('ellipsoid_length_km')!.value(batch, 0, crs)).toBeCloseTo(reference[0]![1] / 1000, 6);
  });
});
