import { describe, expect, it } from 'vitest';
import { FLAT_LIGHT, lightOn } from '@pontrel/core/geometry/hillshade';

/** A triangle in a plane that rises so much a unit to the east and to the north. */
const plane = (east: number, north: number): number[] =>
  [
    [0, 0],
    [10, 1],
    [3, 8],
  ].flatMap(([x, y]) => [x!, y!, east * x! + north * y!]);

describe('light on the triangles of a ground', () => {
  it('falls from the north-west: on what faces it most, on what turns away least', () => {
    expect(lightOn(plane(0, 0))).toBeCloseTo(FLAT_LIGHT, 12);
    // ground that falls to the north-west faces the light
    expect(lightOn(plane(0.05, -0.05))!).toBeGreaterThan(0.95);
    expect(lightOn(plane(-0.05, 0.05))!).toBeLessThan(0.2);
    // across the light it matters little which way
    expect(lightOn(plane(0.03, 0.03))).toBeCloseTo(lightOn(plane(-0.03, -0.03))!, 12);
    // the order of the corners is nothing
    const [a, b, c] = [0, 1, 2].map((k) => plane(0.02, 0.01).slice(3 * k, 3 * k + 3)) as [number[], number[], number[]];
    expect(lightOn([...a, ...c, ...b])).toBeCloseTo(lightOn([...a, ...b, ...c])!, 12);
  });

  it('is none without heights, and without an area', () => {
    expect(lightOn([0, 0, NaN, 1, 0, 2, 0, 1, 3])).toBeNull();
    expect(lightOn([0, 0, 1, 1, 1, 2, 2, 2, 3])).toBeNull();
  });
});
