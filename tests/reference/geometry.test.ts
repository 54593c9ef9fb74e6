import { describe, expect, it } from 'vitest';
import { geodesic } from '@pontrel/core/geometry/measure';
import { ocs } from '@pontrel/core/geometry/ocs';
import { lookupCrs } from '@pontrel/core/crs/registry/registry';
import { datumOf } from '@pontrel/core/crs/crs';
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
      return { normal: [random(-1, 1) * flat, random(-1, 1) * flat, random(-1, 1)], point: [random(-1e6, 1e6), random(-1e6, 1e6), random(-100, 100)] };
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
      const lon = random(-170, 170), lat = random(-80, 80);
      const size = 10 ** random(-5, 1);
      return [lon, lat, lon + random(-size, size), Math.max(-89, Math.min(89, lat + random(-size, size)))] as [number, number, number, number];
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
