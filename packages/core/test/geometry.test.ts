import { geodesic } from '../src/geometry/geodesic';
import { ringArea2 } from '../src/geometry/ring-area';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { arcOf, chordCount } from '../src/geometry/arc';
import { type Bounds, emptyBounds, featureBounds } from '../src/geometry/bounds';
import { clipLine, clipRing } from '../src/geometry/clip';
import { flatten } from '../src/geometry/flatten';
import { planeArea } from '../src/geometry/measure';
import { BatchBuilder } from '../src/model/batch-builder';
import { POLYGON } from '../src/model/batch';

const coordinate = fc.double({ min: -1e4, max: 1e4, noNaN: true });

describe('arcs told by a bulge', () => {
  it('have chords within the tolerance of the circle through both ends with the sagitta b c / 2', () => {
    // independent formula: sagitta = bulge * chord / 2, radius = (chord² / 4 + sagitta²) / (2 sagitta); DXF Reference, group 42
    fc.assert(
      fc.property(
        coordinate,
        coordinate,
        fc.double({ min: 1, max: 500, noNaN: true }),
        fc.double({ min: 0.01, max: 4, noNaN: true }),
        fc.boolean(),
        fc.double({ min: 0.001, max: 0.5, noNaN: true }),
        (x, y, chord, size, left, tolerance) => {
          const bulge = left ? size : -size;
          const builder = new BatchBuilder('a');
          builder.vertex(x, y, 0, bulge);
          builder.vertex(x + chord, y, 10);
          builder.endPart();
          builder.endFeature(1, 'ARC', 1);
          const batch = builder.take();
          const { coords } = flatten(batch, tolerance);
          const sagitta = (Math.abs(bulge) * chord) / 2;
          const radius = ((chord * chord) / 4 + sagitta * sagitta) / (2 * sagitta);
          const cx = x + chord / 2,
            cy = y + Math.sign(bulge) * (radius - sagitta);
          const n = coords.length / 3;
          for (let i = 0; i < n; i++)
            expect(Math.abs(Math.hypot(coords[3 * i]! - cx, coords[3 * i + 1]! - cy) - radius)).toBeLessThan(1e-7 * (1 + radius));
          for (let i = 1; i < n; i++) {
            const mx = (coords[3 * i]! + coords[3 * i - 3]!) / 2,
              my = (coords[3 * i + 1]! + coords[3 * i - 2]!) / 2;
            expect(radius - Math.hypot(mx - cx, my - cy)).toBeLessThanOrEqual(tolerance * (1 + 1e-6) + 1e-9);
          }
          expect([coords[0], coords[1], coords.at(-3), coords.at(-2), coords.at(-1)]).toEqual([x, y, x + chord, y, 10]);
          const box: Bounds = emptyBounds();
          featureBounds(batch, 0, box);
          for (let i = 0; i < n; i++) {
            expect(coords[3 * i]!).toBeGreaterThanOrEqual(box[0] - 1e-6);
            expect(coords[3 * i + 1]!).toBeLessThanOrEqual(box[3] + 1e-6);
          }
        },
      ),
    );
  });

  it('never need more chords than the limit', () => {
    expect(chordCount(1e9, Math.PI, 1e-6)).toBe(10_000);
    expect(arcOf(0, 0, 2, 0, 1)).toMatchObject({ cx: 1, cy: 0, radius: 1 });
  });
});

describe('clipping', () => {
  const box: Bounds = [0, 0, 100, 100];
  it('keeps of a line just what lies in the box', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.double({ min: -150, max: 250, noNaN: true }), fc.double({ min: -150, max: 250, noNaN: true })), {
          minLength: 2,
          maxLength: 12,
        }),
        (points) => {
          const line = points.flat();
          let inside = 0;
          const STEPS = 400;
          for (let i = 0; i + 3 < line.length; i += 2) {
            const d = Math.hypot(line[i + 2]! - line[i]!, line[i + 3]! - line[i + 1]!);
            for (let k = 0; k < STEPS; k++) {
              const t = (k + 0.5) / STEPS;
              const x = line[i]! + t * (line[i + 2]! - line[i]!),
                y = line[i + 1]! + t * (line[i + 3]! - line[i + 1]!);
              if (x >= 0 && x <= 100 && y >= 0 && y <= 100) inside += d / STEPS;
            }
          }
          let kept = 0;
          for (const piece of clipLine(line, box)) {
            for (let i = 0; i + 3 < piece.length; i += 2) kept += Math.hypot(piece[i + 2]! - piece[i]!, piece[i + 3]! - piece[i + 1]!);
            for (let i = 0; i < piece.length; i++) expect(piece[i]!).toBeGreaterThanOrEqual(-1e-9);
          }
          expect(Math.abs(kept - inside)).toBeLessThan(6 * points.length);
        },
      ),
    );
  });

  it('keeps of a triangle the area that it shares with the box', () => {
    const area = (ring: number[]): number =>
      Math.abs(ringArea2(Float64Array.from([...ring, ring[0]!, ring[1]!]), 0, ring.length / 2 + 1, 2)) / 2;
    expect(area(clipRing([-100, 0, 100, 0, 100, 200], box))).toBeCloseTo(5000 + 5000, 6);
    expect(area(clipRing([20, 20, 40, 20, 40, 40], box))).toBeCloseTo(200, 6);
    expect(clipRing([200, 200, 300, 200, 300, 300], box)).toEqual([]);
  });
});

describe('measuring', () => {
  it('takes holes off an area', () => {
    const b = new BatchBuilder('a');
    for (const [x, y] of [
      [0, 0],
      [10, 0],
      [10, 10],
      [0, 10],
      [0, 0],
    ])
      b.vertex(x!, y!, 0);
    b.endPart();
    for (const [x, y] of [
      [2, 2],
      [2, 4],
      [4, 4],
      [4, 2],
      [2, 2],
    ])
      b.vertex(x!, y!, 0);
    b.endPart();
    b.endFeature(POLYGON, 'P', 1);
    expect(planeArea(b.take(), 0)).toBe(96);
  });

  it('agrees with the worked geodesic from Flinders Peak to Buninyong', () => {
    // Source: Geocentric Datum of Australia Technical Manual, version 2.3, section 4.1 (values from memory): 54 972.271 m, 306° 52' 05.37"
    const dms = (d: number, m: number, s: number): number => Math.sign(d) * (Math.abs(d) + m / 60 + s / 3600);
    const { distance, bearing } = geodesic(
      { a: 6378137, invF: 298.257222101 },
      dms(144, 25, 29.5244),
      dms(-37, 57, 3.7203),
      dms(143, 55, 35.3839),
      dms(-37, 39, 10.1561),
    );
    expect(distance).toBeCloseTo(54972.271, 3);
    expect(bearing).toBeCloseTo(dms(306, 52, 5.37), 5);
  });
});
