import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { arcOf } from '../src/geometry/arc';
import { followCurve, Spline } from '../src/geometry/curve';
import { CurveRun } from '../src/geometry/curve-run';
import { flatten } from '../src/geometry/flatten';
import { planeArea } from '../src/geometry/measure';
import { ringDepths } from '../src/geometry/nesting';
import { POLYGON } from '../src/model/batch';
import { BatchBuilder } from '../src/model/batch-builder';

const number = (min: number, max: number): fc.Arbitrary<number> => fc.double({ min, max, noNaN: true });
type Piece = [x: number, y: number, z: number, bulge: number];

/** Points along the arcs of a run of pieces that ends at `last`. */
function along(pieces: Piece[], last: readonly [number, number]): [number, number][] {
  return pieces.flatMap(([x, y, , bulge], i): [number, number][] => {
    const [x2, y2] = pieces[i + 1] ?? last;
    if (bulge === 0)
      return [
        [x, y],
        [(x + x2) / 2, (y + y2) / 2],
      ];
    const arc = arcOf(x, y, x2, y2, bulge);
    return [0, 0.25, 0.5, 0.75].map((t) => [
      arc.cx + arc.radius * Math.cos(arc.start + t * arc.sweep),
      arc.cy + arc.radius * Math.sin(arc.start + t * arc.sweep),
    ]);
  });
}

describe('a curve that is followed by arcs', () => {
  it('stays on any ellipse, by its own equation', () => {
    fc.assert(
      fc.property(number(1, 500), number(0.02, 1), number(0, 6), number(0.1, 1.5), (a, ratio, start, sweep) => {
        const b = a * ratio,
          tolerance = 1e-6 * a;
        const at = (t: number): [number, number] => [a * Math.cos(t), b * Math.sin(t)];
        const pieces: Piece[] = [];
        followCurve(
          (t, out) => out.set([...at(t), 0]),
          start,
          start + sweep,
          tolerance,
          (...piece) => pieces.push(piece),
        );
        for (const [x, y] of along(pieces, at(start + sweep))) {
          // the distance from an ellipse, to first order: F / |grad F|
          const f = (x / a) ** 2 + (y / b) ** 2 - 1;
          expect(Math.abs(f) / (2 * Math.hypot(x / a ** 2, y / b ** 2))).toBeLessThan(2 * tolerance);
        }
      }),
      { seed: 8, numRuns: 150, endOnFailure: true },
    );
  });

  it('stays on any spline, summed from its basis functions', () => {
    /** Basis function N(i, p) at t. L. Piegl, W. Tiller, The NURBS Book, equation 2.5. */
    const basis = (knots: readonly number[], i: number, p: number, t: number): number => {
      if (p === 0) return t >= knots[i]! && t < knots[i + 1]! ? 1 : 0;
      const left = knots[i + p]! - knots[i]!,
        right = knots[i + p + 1]! - knots[i + 1]!;
      return (
        (left === 0 ? 0 : ((t - knots[i]!) / left) * basis(knots, i, p - 1, t)) +
        (right === 0 ? 0 : ((knots[i + p + 1]! - t) / right) * basis(knots, i + 1, p - 1, t))
      );
    };
    const points = fc.array(fc.tuple(number(-50, 50), number(-50, 50), number(-2, 2), number(0.3, 3)), { minLength: 5, maxLength: 9 });
    fc.assert(
      fc.property(points, fc.integer({ min: 1, max: 4 }), number(0, 0.999), (control, degree, share) => {
        const spans = control.length - degree;
        const knots = Array.from({ length: control.length + degree + 1 }, (_, i) => Math.min(Math.max(i - degree, 0), spans));
        const weights = control.map((c) => c[3]);
        const spline = new Spline(
          degree,
          knots,
          control.flatMap(([x, y, z]) => [x, y, z]),
          weights,
        );
        expect(spline.sound).toBe(true);
        const t = share * spans,
          out = new Float64Array(3);
        spline.point(t, out);
        const shares = control.map((c, i) => basis(knots, i, degree, t) * c[3]);
        const sum = shares.reduce((s, v) => s + v, 0);
        for (const k of [0, 1, 2] as const) expect(out[k]).toBeCloseTo(control.reduce((s, c, i) => s + c[k] * shares[i]!, 0) / sum, 9);
        // and the arcs begin and end where it does
        const pieces: Piece[] = [];
        spline.follow(1e-5, (...piece) => pieces.push(piece));
        spline.point(0, out);
        expect(Math.hypot(pieces[0]![0] - out[0]!, pieces[0]![1] - out[1]!)).toBeLessThan(1e-12);
      }),
      { seed: 9, numRuns: 100, endOnFailure: true },
    );
  });

  it('comes to an end on what is no curve', () => {
    for (const point of [
      (_t: number, out: Float64Array): void => void out.fill(NaN),
      (t: number, out: Float64Array): void => out.set([Math.sin(1e6 * t), Math.cos(3e6 * t), t]),
    ]) {
      let pieces = 0;
      followCurve(point, 0, 1, 1e-12, () => pieces++);
      expect(pieces).toBeLessThanOrEqual(4096);
    }
    expect(
      new Spline(
        3,
        [0, 0, 0, 1, 0, 1, 1, 1],
        Array.from({ length: 12 }, () => 0),
        [],
      ).sound,
    ).toBe(false);
  });
});

describe('rings of a polygon', () => {
  const square = (x: number, y: number, half: number): [number, number][] => [
    [x - half, y - half],
    [x + half, y - half],
    [x + half, y + half],
    [x - half, y + half],
    [x - half, y - half],
  ];

  it('are outer ones and holes by how they nest, whatever their order and direction', () => {
    // an island in a hole, and a square beside; by depth 0, 1, 2 and 0
    const rings = [
      { ring: square(0, 0, 10), depth: 0 },
      { ring: square(0, 0, 6), depth: 1 },
      { ring: square(0, 0, 2), depth: 2 },
      { ring: square(50, 0, 5), depth: 0 },
    ];
    fc.assert(
      fc.property(fc.shuffledSubarray(rings, { minLength: 4 }), fc.array(fc.boolean(), { minLength: 4, maxLength: 4 }), (order, turned) => {
        const builder = new BatchBuilder('A');
        order.forEach(({ ring }, i) => {
          for (const [x, y] of turned[i] ? [...ring].reverse() : ring) builder.vertex(x, y, 0);
          builder.endPart();
        });
        builder.endFeature(POLYGON, 'HATCH', 1);
        const batch = builder.take();
        const ranges = order.map((_, i): [number, number] => [5 * i, 5 * i + 5]);
        expect(ringDepths(batch.coords, ranges)).toEqual(order.map((r) => r.depth));
        expect(planeArea(batch, 0)).toBeCloseTo(400 - 144 + 16 + 100, 9);
      }),
      { seed: 2, numRuns: 60, endOnFailure: true },
    );
  });
});

describe('arcs through three positions', () => {
  const turn = number(0.01, 6.2);
  const circle = fc.record({
    x: number(-1e6, 1e6),
    y: number(-1e6, 1e6),
    radius: number(0.5, 1e4),
    start: number(-Math.PI, Math.PI),
    first: turn,
    share: number(0.05, 0.95),
    hand: fc.constantFrom(1, -1),
  });
  /** A height or a measure at the ends and halfway, and whether the one halfway is what the ends say. */
  const through = (even: boolean): fc.Arbitrary<(share: number) => [number, number, number]> =>
    fc.tuple(number(-50, 50), number(-50, 50)).map(([a, c]) => (share) => [a, a + (c - a) * share + (even ? 0 : 3), c]);

  function runOf(
    c: { x: number; y: number; radius: number; start: number; first: number; share: number; hand: number },
    z: [number, number, number],
    m: [number, number, number],
  ): ReturnType<BatchBuilder['take']> {
    const at = (angle: number, k: 0 | 1 | 2): [number, number, number, number] => [
      c.x + c.radius * Math.cos(angle),
      c.y + c.radius * Math.sin(angle),
      z[k],
      m[k],
    ];
    const run = new CurveRun();
    run.arcs([at(c.start, 0), at(c.start + c.hand * c.first * c.share, 1), at(c.start + c.hand * c.first, 2)]);
    const out = new BatchBuilder('arcs');
    run.put(out);
    out.endFeature(1, 'arc', 1);
    return out.take();
  }

  it('are one piece where heights and measures run evenly, and meet halfway where they do not', () => {
    fc.assert(
      fc.property(circle, fc.boolean(), fc.boolean(), fc.boolean(), (c, evenZ, evenM, none) => {
        const [z] = fc.sample(through(evenZ), { numRuns: 1, seed: Math.round(c.x) });
        const [m] = fc.sample(through(evenM), { numRuns: 1, seed: Math.round(c.y) });
        const heights: [number, number, number] = none ? [NaN, NaN, NaN] : z!(c.share);
        const batch = runOf(c, heights, m!(c.share));
        const pieces = (evenZ || none) && evenM ? 2 : 3;
        expect(batch.coords.length / 3).toBe(pieces);
        // each piece is an arc of the circle, and together they go the whole way round that the positions say
        let sweep = 0;
        for (let v = 0; v + 1 < pieces; v++) {
          const [x1, y1, , x2, y2] = batch.coords.subarray(3 * v, 3 * v + 5);
          const arc = arcOf(x1!, y1!, x2!, y2!, batch.bulges![v]!);
          sweep += arc.sweep;
          expect(Math.abs(arc.radius - c.radius)).toBeLessThan(1e-5 * c.radius + 1e-5);
        }
        expect(sweep).toBeCloseTo(c.hand * c.first, 4);
        if (pieces === 3) expect([batch.coords[5], batch.measures![1]]).toEqual([heights[1], m!(c.share)[1]]);
      }),
      { numRuns: 500 },
    );
  });

  it('as chords have measures that run evenly along the arc, and none where an end has none', () => {
    const quarter = { x: 0, y: 0, radius: 10, start: 0, first: Math.PI / 2, share: 0.5, hand: 1 };
    const flat = flatten(runOf(quarter, [NaN, NaN, NaN], [100, 150, 200]), 0.001);
    const n = flat.coords.length / 3;
    expect(n).toBeGreaterThan(10);
    flat.measures!.forEach((m, k) => expect(m).toBeCloseTo(100 + (100 * k) / (n - 1), 9));
    const half = flatten(runOf(quarter, [NaN, NaN, NaN], [100, NaN, NaN]), 0.001);
    expect([...half.measures!].map(Number.isNaN)).toEqual([false, ...new Array<boolean>(half.coords.length / 3 - 1).fill(true)]);
  });
});
