import fc from 'fast-check';
import { beforeAll, describe, expect, it } from 'vitest';
import { placeLabels } from '../src/content/map/labels';
import { probesOf } from '../src/content/map/probes';
import type { DrawnSource } from '../src/content/map/records';
import { letterCorners, shapeBox } from '../src/content/map/shape-box';
import type { Shape } from '../src/content/map/shapes';
import { withinReach } from '../src/content/map/within-reach';
import { sourceTransform } from '../src/content/features/transform-batch';
import { emptyBounds, grow, overlapping } from '../src/geometry/bounds';
import { registerCanvas } from '../src/io/canvas';
import { LINE, POINT, POLYGON } from '../src/model/batch';
import { BatchBuilder } from '../src/model/batch-builder';
import { crsOf } from '../src/placement/route';

const NZTM = crsOf('EPSG:2193')!;
const [X, Y] = [1_464_000, 5_101_000];
/** A picture of a metre a pixel: 1 to 1000 with 25.4 dots an inch. */
const GRID = { map: [X, 1, 0, Y, 0, -1] as const, width: 600, height: 400 };
const MAP = { scale: 1000, dpi: 25.4 };

beforeAll(() =>
  registerCanvas({
    lengthOf: (text) => 0.7 * text.length,
    create: () => {
      throw new Error('Nothing is drawn here.');
    },
  }),
);

const sourceOf = (records: { kind: number; at: [number, number]; label: string }[]): DrawnSource => ({
  name: 'marks',
  transform: sourceTransform('marks', { crs: NZTM, parameters: { unit_m: null }, extent: null }, NZTM),
  library: null,
  async *read() {
    const out = new BatchBuilder('marks');
    for (const [k, { kind, at, label }] of records.entries()) {
      const [x, y] = [X + at[0], Y - at[1]];
      const corners: [number, number][] =
        kind === POINT ? [[0, 0]] : [[0, 0], [30, 4], [26, 22], ...(kind === POLYGON ? [[0, 0] as [number, number]] : [])];
      for (const [dx, dy] of corners) out.vertex(x + dx, y + dy, NaN);
      out.endPart();
      out.set('name', label);
      out.endFeature(kind, 'TEST', k);
    }
    yield out.take();
  },
  label: () => ({ field: 'name', height_mm: 6, color: null }),
  notDrawn: () => null,
});

describe('labels of a map', () => {
  const record = fc.record({
    kind: fc.constantFrom(POINT, LINE, POLYGON),
    at: fc.tuple(fc.integer({ min: -50, max: 650 }), fc.integer({ min: -50, max: 450 })),
    label: fc.string({ unit: fc.constantFrom('a', 'b', '4'), minLength: 0, maxLength: 12 }),
  });

  it('never stand on one another or over the edge, and each that is left out had something in its way', async () => {
    await fc.assert(
      fc.asyncProperty(fc.array(record, { maxLength: 60 }), async (records) => {
        const { placed, noRoom } = await placeLabels({ grid: GRID, map: MAP, sources: [sourceOf(records)] });
        const boxes = placed.map((lettering) => {
          const box = emptyBounds();
          const corners = letterCorners(lettering);
          for (let k = 0; k < corners.length; k += 2) grow(box, corners[k]!, corners[k + 1]!);
          return box;
        });
        for (const [k, box] of boxes.entries()) {
          expect(box[0] >= 0 && box[1] >= 0 && box[2] <= GRID.width && box[3] <= GRID.height).toBe(true);
          for (const other of boxes.slice(k + 1)) expect(overlapping(box, other)).toBe(false);
        }
        // each record with a label on the picture is in one of the two counts
        expect(placed.length + noRoom).toBeLessThanOrEqual(records.filter((r) => r.label !== '').length);
        const lone = records.filter(
          (r) => r.label !== '' && r.kind === POINT && r.at[0] > 5 && r.at[0] < 400 && r.at[1] > 40 && r.at[1] < 360,
        );
        expect(placed.length + noRoom).toBeGreaterThanOrEqual(lone.length);
      }),
    );
  });
});

describe('what is drawn of a shape, and where it is looked for', () => {
  const number = fc.double({ min: -3e7, max: 3e7, noNaN: true });
  const ring = fc.array(fc.tuple(number, number), { minLength: 2, maxLength: 8 }).map((list) => list.flat());
  const pen = { color: '#000000', opacity: 1, width: 3 };
  const window: [number, number, number, number] = [0, 0, 600, 400];

  it('lies in the window, and on the pieces that a canvas is given', () => {
    fc.assert(
      fc.property(ring, fc.boolean(), (points, closed) => {
        const shape: Shape = { kind: 'line', points, pen, closed };
        const pieces = withinReach(shape, shapeBox(shape), GRID);
        for (const piece of pieces) for (const v of shapeBox(piece)) expect(Math.abs(v)).toBeLessThan(1.1e5 + GRID.width);
        const probes = probesOf(shape, window, false);
        for (let k = 0; k < probes.length; k += 2) {
          const [x, y] = [probes[k]!, probes[k + 1]!];
          expect(x >= -1e-6 && y >= -1e-6 && x <= window[2] + 1e-6 && y <= window[3] + 1e-6).toBe(true);
          const off = Math.min(...pieces.flatMap((p) => (p.kind === 'line' ? [distanceTo(p.points, p.closed, x, y)] : [])));
          expect(off).toBeLessThan(1e-3);
        }
      }),
    );
  });
});

/** Distance of a place to a line. */
function distanceTo(points: readonly number[], closed: boolean, x: number, y: number): number {
  const line = closed ? [...points, points[0]!, points[1]!] : points;
  let least = Infinity;
  for (let k = 0; k + 3 < line.length; k += 2) {
    const [x1, y1, x2, y2] = line.slice(k, k + 4) as [number, number, number, number];
    const [dx, dy] = [x2 - x1, y2 - y1];
    const length2 = dx * dx + dy * dy;
    const t = length2 === 0 ? 0 : Math.max(0, Math.min(1, ((x - x1) * dx + (y - y1) * dy) / length2));
    least = Math.min(least, Math.hypot(x - x1 - t * dx, y - y1 - t * dy));
  }
  return least;
}
