import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { lookupCrs } from '../src/crs/registry/registry';
import { type ControlPair, FIT_KINDS, FITS, fitPairs } from '../src/placement/fit';
import { compilePlacement, gridScaleAt } from '../src/placement/placement-transform';
import { smellOf, unitBehind } from '../src/placement/ratio';

const coordinate = fc.double({ min: -1000, max: 1000, noNaN: true });
/** Marks well spread over a square, so that every kind is held. */
const MARKS: [number, number][] = [
  [-900, -850],
  [880, -910],
  [910, 870],
  [-870, 920],
  [40, 55],
  [-300, 420],
  [510, -230],
  [-640, -120],
];
const pairsOf = (map: (x: number, y: number) => [number, number]): ControlPair[] =>
  MARKS.map(([x, y]) => ({ from: [x, y], to: map(x, y) }));

/** One map of each kind, far from the origin as frames are. */
const MAPS: Record<(typeof FIT_KINDS)[number], (x: number, y: number) => [number, number]> = {
  similarity: (x, y) => [1463700 + 0.3 * x - 0.5 * y, 5101400 + 0.5 * x + 0.3 * y],
  rigid: (x, y) => [1463700 + 0.6 * x - 0.8 * y, 5101400 + 0.8 * x + 0.6 * y],
  affine: (x, y) => [1463700 + 1.1 * x - 0.2 * y, 5101400 + 0.3 * x + 0.9 * y],
  'second-order': (x, y) => [1463700 + x + 0.1 * y + 1e-5 * x * x - 2e-5 * x * y, 5101400 - 0.1 * x + y + 3e-5 * y * y],
  projective: (x, y) => [
    1463700 + (1.1 * x - 0.2 * y) / (1 + 1e-4 * x - 5e-5 * y),
    5101400 + (0.3 * x + 0.9 * y) / (1 + 1e-4 * x - 5e-5 * y),
  ],
  'rubber-sheet': (x, y) => [1463700 + x + 3 * Math.sin(x / 400), 5101400 + y + 2 * Math.cos(y / 300)],
};

describe('a fit', () => {
  it.each(FIT_KINDS)('of kind %s finds the map that made the marks, and comes back', (kind) => {
    const fit = fitPairs(kind, pairsOf(MAPS[kind]));
    expect(fit.rms).toBeLessThan(1e-6);
    fc.assert(
      fc.property(coordinate, coordinate, (x, y) => {
        const p = Float64Array.of(x, y);
        fit.forward(p, 0, 1, 2);
        if (kind !== 'rubber-sheet') {
          const [u, v] = MAPS[kind](x, y);
          expect(Math.hypot(p[0]! - u, p[1]! - v)).toBeLessThan(1e-5);
        }
        fit.inverse(p, 0, 1, 2);
        expect(Math.hypot(p[0]! - x, p[1]! - y)).toBeLessThan(1e-5);
      }),
      { seed: 3, numRuns: 200, endOnFailure: true },
    );
  });

  it('is the least-squares one: no small change of a similarity makes the residuals less', () => {
    fc.assert(
      fc.property(fc.array(fc.tuple(coordinate, coordinate), { minLength: 8, maxLength: 8 }), (noise) => {
        const pairs = MARKS.map((from, i): ControlPair => ({ from, to: [from[0] + noise[i]![0] / 50, from[1] + noise[i]![1] / 50] }));
        const { scale, rotation, rms } = fitPairs('similarity', pairs);
        const sum = (s: number, turn: number): number => {
          const [a, b] = [s * Math.cos(turn), s * Math.sin(turn)];
          const moved = pairs.map(({ from: [x, y], to }) => [to[0] - (a * x - b * y), to[1] - (b * x + a * y)] as const);
          const [mx, my] = [0, 1].map((k) => moved.reduce((n, m) => n + m[k as 0 | 1], 0) / moved.length) as [number, number];
          return moved.reduce((n, [u, v]) => n + (u - mx) ** 2 + (v - my) ** 2, 0);
        };
        const turn = (rotation * Math.PI) / 180,
          best = sum(scale, turn);
        expect(Math.sqrt(best / pairs.length)).toBeCloseTo(rms, 6);
        for (const [ds, dt] of [
          [1e-5, 0],
          [-1e-5, 0],
          [0, 1e-5],
          [0, -1e-5],
        ])
          expect(sum(scale + ds!, turn + dt!)).toBeGreaterThanOrEqual(best - 1e-9);
      }),
      { seed: 5, numRuns: 60, endOnFailure: true },
    );
  });

  it('tells the residual of a mark that is left out, without letting it pull', () => {
    const pairs = pairsOf(MAPS.similarity);
    pairs[2] = { ...pairs[2]!, to: [pairs[2]!.to[0] + 25, pairs[2]!.to[1]], out: true };
    const fit = fitPairs('similarity', pairs);
    expect(fit.rms).toBeLessThan(1e-6);
    expect(fit.residuals[2]!.dx).toBeCloseTo(-25, 6);
    expect(fit.spare).toBe(5);
  });

  it('of two points has nothing to check it, and says so by its spare', () => {
    const fit = fitPairs('similarity', pairsOf(MAPS.similarity).slice(0, 2));
    expect(fit.spare).toBe(0);
    expect(fit.scale).toBeCloseTo(Math.hypot(0.3, 0.5), 9);
    expect(fit.rotation).toBeCloseTo((Math.atan2(0.5, 0.3) * 180) / Math.PI, 7);
  });

  it('refuses marks on one line, in one place, or too few, and says what to do', () => {
    const line = [0, 100, 200].map((x, i): ControlPair => ({ from: [x, 2 * x], to: [1463700 + x, 5101400 + 2 * x], name: 'ABC'[i]! }));
    for (const kind of FIT_KINDS.filter((k) => FITS[k].points === 3))
      expect(() => fitPairs(kind, line)).toThrow(/The marks A, B, C lie on one line in the source.*Add a mark aside of the line/);
    expect(() => fitPairs('projective', [...line, { from: [50, 80], to: [1463750, 5101480] }])).toThrow(/lie on one line/);
    expect(() => fitPairs('similarity', [line[0]!, line[0]!])).toThrow(/in one place/);
    expect(() => fitPairs('affine', line.slice(0, 2))).toThrow(/Affine needs 3 control points; 2 take part. Add 1 more/);
  });
});

describe('a scale', () => {
  it('smells of the unit that was mistaken, and of the ground', () => {
    expect(unitBehind(0.3048, 1, 1e-9)!.message).toBe('The numbers are feet, not metres.');
    expect(unitBehind(12 / 39.37, 1, 1e-9)!.message).toBe('The numbers are US survey feet, not metres.');
    expect(unitBehind(0.30481, 1)!.message).toMatch(/cannot tell apart/);
    expect(unitBehind(1000, 0.001)!.ratio).toBe(1000);
    expect(unitBehind(0.201168, 1)!.message).toBe('The numbers are links, not metres.');
    expect(unitBehind(0.95, 1)).toBeNull();
    const nztm = lookupCrs('EPSG:2193')!;
    const k = gridScaleAt(nztm, 1463700, 5101400)!;
    // k = k0 (1 + (E - E0)^2 / 2 R^2): Source: IOGP Guidance Note 7-2, section 3.5.3.1, first term
    expect(k).toBeCloseTo(0.9996 * (1 + (136300 / 0.9996) ** 2 / 2 / 6378000 ** 2), 6);
    expect(smellOf(k, 1, 1e-7, k)).toMatch(/that of the projection/);
    expect(smellOf(1.00012, 1, 1e-6, k)).toMatch(/ground distances/);
    expect(smellOf(1.0000005, 1, 1e-6, k)).toBeNull();
  });
});

describe('the numbers of a file', () => {
  it('go into the plane and back by every mistake that they can hold', () => {
    const lo29 = lookupCrs('EPSG:2053')!;
    for (const numbers of [
      { unit_m: 0.3048 },
      { unit_m: null, axesSwapped: true },
      { unit_m: 0.001, signReversed: true },
      { unit_m: null, offset: [1e6, -5e5] as const },
    ]) {
      const plane = compilePlacement(lo29, numbers);
      const p = Float64Array.of(12345.5, -2847342.25, 7);
      plane.forward(p, 0, 1, 3);
      plane.inverse(p, 0, 1, 3);
      expect([...p].every((v, k) => Math.abs(v - [12345.5, -2847342.25, 7][k]!) < 1e-8)).toBe(true);
    }
    const p = Float64Array.of(-71984.49, -2847342.74);
    compilePlacement(lo29, { unit_m: 1, signReversed: true }).forward(p, 0, 1, 2);
    expect([...p]).toEqual([71984.49, 2847342.74]);
  });
});
