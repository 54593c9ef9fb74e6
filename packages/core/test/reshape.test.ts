import type { Value } from '../src/model/value';
import type { LayerRule } from '../src/operations/layer-rule';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { addMapped, insertionMap, mapPoint } from '../src/geometry/affine';
import { followThrough } from '../src/geometry/fit-curve';
import { flatten } from '../src/geometry/flatten';
import { convexHull } from '../src/geometry/hull';
import { simplified } from '../src/geometry/simplify';
import { eachPart, type FeatureBatch, KINDS, LINE } from '../src/model/batch';
import { BatchBuilder } from '../src/model/batch-builder';
import { type SymbolLibrary } from '../src/symbology/library';
import { applyOperations, type LayerReport } from '../src/operations/apply';
import { gated, groups, plain, type PlainRecord } from './drawing';

type Row = {
  layer: string;
  entity?: string;
  kind: (typeof KINDS)[number];
  parts: [number, number, number?][][];
  values?: Record<string, Value>;
};

function batches(rows: Row[]): FeatureBatch[] {
  return rows.map((row, i) => {
    const b = new BatchBuilder(row.layer);
    for (const part of row.parts) {
      for (const [x, y, z] of part) b.vertex(x, y, z ?? 0);
      b.endPart();
    }
    for (const [name, v] of Object.entries(row.values ?? {})) b.set(name, v);
    b.endFeature(KINDS.indexOf(row.kind), row.entity ?? 'X', i + 1);
    return b.take();
  });
}

async function shape(
  rows: FeatureBatch[],
  rules: Record<string, LayerRule>,
  library: SymbolLibrary | null = null,
  unit_m = 1,
): Promise<{ records: PlainRecord[]; reports: Map<string, LayerReport> }> {
  const reports = new Map<string, LayerReport>();
  const records: PlainRecord[] = [];
  for await (const batch of applyOperations(() => rows, { rules, library, unit_m }, reports)) records.push(...plain(batch));
  return { records, reports };
}

const square = (x: number, y: number, s: number): [number, number][] => [
  [x, y],
  [x + s, y],
  [x + s, y + s],
  [x, y + s],
  [x, y],
];

describe('blocks', () => {
  it('taken apart give their parts where they stand, by block and by layer, with the data on each', async () => {
    const { rows, library } = await gated(
      groups(
        0,
        'INSERT',
        5,
        'A1',
        8,
        'VALVES',
        62,
        1,
        66,
        1,
        2,
        'GATE',
        10,
        100,
        20,
        200,
        30,
        7,
        50,
        90,
        0,
        'ATTRIB',
        8,
        'VALVES',
        2,
        'VALVE_ID',
        1,
        'V-7',
        0,
        'SEQEND',
      ),
    );
    const { records, reports } = await shape(rows, { VALVES: { blocks: { GATE: 'apart' } } }, library);
    expect(records.map((r) => [r.entity, r.attributes.layer, r.attributes.color, r.attributes.VALVE_ID, r.attributes.MAKER])).toEqual([
      ['ARC', 'VALVES', '#ff0000', 'V-7', 'Works 4'],
      // by layer, on the floating layer, nested: as the layer of the outermost block
      ['LINE', 'VALVES', '#0000ff', 'V-7', 'Works 4'],
      ['LINE', 'FIXED', '#00ff00', 'V-7', 'Works 4'],
    ]);
    // the arc about the base point, from east to north, turned by a quarter
    const [start] = records[0]!.parts[0]!,
      end = records[0]!.parts[0]!.at(-1)!;
    expect([start![0], start![1], start![2], end[0], end[1]].map((v) => Number(v!.toFixed(9)))).toEqual([100, 202, 7, 98, 200]);
    expect(reports.get('VALVES')).toMatchObject({ blocks: { apart: 1, parts: 3 } });
  });

  it('as outlines are the hull of what they draw; states of layers and prompts are kept; one that holds itself is none', async () => {
    const { rows, library, findings } = await gated(
      groups(0, 'INSERT', 8, 'VALVES', 2, 'GATE', 10, 0, 20, 0) + groups(0, 'INSERT', 8, 'VALVES', 2, 'LOOP', 10, 5, 20, 5),
    );
    const { records } = await shape(rows, { VALVES: { blocks: { GATE: 'outline', LOOP: 'outline' } } }, library);
    expect(records.map((r) => [r.kind, r.attributes.block])).toEqual([
      ['polygon', 'GATE'],
      ['point', 'LOOP'],
    ]);
    const ring = records[0]!.parts[0]!;
    expect(ring[0]).toEqual(ring.at(-1));
    expect(Math.max(...ring.map((v) => v[1]))).toBeCloseTo(2 + 2 * Math.sin(Math.PI / 6), 2);
    expect(library.layers.get('fixed')!.states).toEqual(['off', 'frozen', 'locked', 'not plotted']);
    expect(library.blocks.get('gate')!.attributes).toEqual([
      expect.objectContaining({ tag: 'MAKER', prompt: 'Who made it?', constant: true, value: 'Works 4' }),
    ]);
    expect(library.blocks.has('loop')).toBe(false);
    expect(findings).toEqual([]);
  });

  it('stand where an independent formula puts them, however turned, mirrored, stretched and seen from below', () => {
    const n = fc.double({ min: -50, max: 50, noNaN: true });
    const scale = fc.oneof(fc.double({ min: 0.1, max: 5, noNaN: true }), fc.double({ min: -5, max: -0.1, noNaN: true }));
    fc.assert(
      fc.property(
        n,
        n,
        n,
        n,
        scale,
        scale,
        fc.double({ min: -360, max: 360, noNaN: true }),
        fc.boolean(),
        fc.double({ min: -0.99, max: 0.99, noNaN: true }).filter((b) => Math.abs(b) > 0.01),
        (x, y, bx, by, sx, sy, angle, below, bulge) => {
          const m = insertionMap({ at: [x, y, 3], angle, scale: [sx, sy, 1], normal: [0, 0, below ? -1 : 1] }, [bx, by, 0]);
          // complex numbers: stretch, turn, and from below mirror about the second axis
          const by_hand = (px: number, py: number): [number, number] => {
            const [dx, dy] = [(px - bx) * sx, (py - by) * sy];
            const a = (angle * Math.PI) / 180;
            const [rx, ry] = [dx * Math.cos(a) - dy * Math.sin(a), dx * Math.sin(a) + dy * Math.cos(a)];
            return [x + (below ? -rx : rx), y + ry];
          };
          const p = new Float64Array(3);
          mapPoint(m, 7, -4, 0, p);
          const [hx, hy] = by_hand(7, -4);
          expect(Math.hypot(p[0]! - hx, p[1]! - hy)).toBeLessThan(1e-9);
          // a mapped arc stays on the mapped circle, which is an ellipse
          const arc = new BatchBuilder('L');
          arc.vertex(1, 0, 0, bulge);
          arc.vertex(0, 1, 0);
          arc.endPart();
          arc.endFeature(LINE, 'ARC', 1);
          const out = new BatchBuilder('L');
          addMapped(arc.take(), 0, m, out);
          out.endFeature(LINE, 'ARC', 1);
          const flat = flatten(out.take(), 1e-3);
          const k = (1 - bulge * bulge) / (4 * bulge),
            [cx, cy] = [0.5 - k, 0.5 - k],
            r = Math.hypot(1 - cx, cy);
          const back = (qx: number, qy: number): number => {
            const a = (-angle * Math.PI) / 180;
            const [ux, uy] = [(below ? -1 : 1) * (qx - x), qy - y];
            const [rx, ry] = [ux * Math.cos(a) - uy * Math.sin(a), ux * Math.sin(a) + uy * Math.cos(a)];
            return Math.hypot(rx / sx + bx - cx, ry / sy + by - cy);
          };
          for (let v = 0; v < flat.coords.length; v += 3)
            expect(Math.abs(back(flat.coords[v]!, flat.coords[v + 1]!) - r) * Math.min(Math.abs(sx), Math.abs(sy))).toBeLessThan(
              1e-4 * Math.max(1, r * 5),
            );
        },
      ),
      { numRuns: 300 },
    );
  });
});

describe('texts', () => {
  const text = (t: string, x: number, y: number): Row => ({
    layer: 'NAMES',
    entity: 'TEXT',
    kind: 'text',
    parts: [[[x, y]]],
    values: { text: t },
  });
  const lot = (id: string, x: number, s = 10): Row => ({ layer: 'LOTS', kind: 'polygon', parts: [square(x, 0, s)], values: { ID: id } });

  it('go to the smallest area that they stand in, one below the other, and those without one stay', async () => {
    const { records, reports } = await shape(
      batches([text('first', 2, 2), lot('a', 0), lot('whole', -100, 300), text('second', 3, 3), text('lost', 900, 900), lot('b', 50)]),
      { NAMES: { textTransfer: { layer: 'LOTS', field: 'NAME', how: 'in', within_m: 1 } } },
    );
    expect(records.map((r) => [r.attributes.ID ?? r.attributes.text, r.attributes.NAME])).toEqual([
      ['a', 'first\nsecond'],
      ['whole', undefined],
      ['lost', undefined],
      ['b', undefined],
    ]);
    expect(reports.get('NAMES')).toMatchObject({
      textTransfer: { transferred: 2, unmatchedCount: 1, unmatched: [{ text: 'lost', x: 900, y: 900 }] },
    });
  });

  it('go to the nearest object within reach, in metres whatever the unit of the drawing', async () => {
    const pipe = (id: string, y: number): Row => ({
      layer: 'PIPES',
      kind: 'line',
      parts: [
        [
          [0, y],
          [100_000, y],
        ],
      ],
      values: { ID: id },
    });
    const rows = batches([
      pipe('P1', 0),
      pipe('P2', 3000),
      text('DN 150', 50_000, 1400),
      text('DN 300', 50_000, 2000),
      text('far', 50_000, 9000),
    ]);
    const { records } = await shape(
      rows,
      { NAMES: { textTransfer: { layer: 'PIPES', field: 'SIZE', how: 'near', within_m: 2 } } },
      null,
      0.001,
    );
    expect(records.map((r) => [r.attributes.ID ?? r.attributes.text, r.attributes.SIZE])).toEqual([
      ['P1', 'DN 150'],
      ['P2', 'DN 300'],
      ['far', undefined],
    ]);
  });
});

describe('the other rules', () => {
  it('drop what lies twice, whichever way it runs, and nothing else', async () => {
    const line = (...at: [number, number, number?][]): Row => ({ layer: 'L', kind: 'line', parts: [at] });
    const { records, reports } = await shape(
      batches([
        line([0, 0], [1, 1], [2, 0]),
        line([2, 0], [1, 1], [0, 0]),
        line([0, 0], [1, 1], [2, 0, 5]),
        line([0, 0], [1, 1]),
        line([0, 0], [1, 1], [2, 0]),
      ]),
      { L: { dropDuplicates: true } },
    );
    expect(records.length).toBe(3);
    expect(reports.get('L')!.dropDuplicates!.dropped).toBe(2);
  });

  it('make outlines of fills, or both, and put the same value on every record', async () => {
    const rows = batches([
      { layer: 'HEDGE', entity: 'HATCH', kind: 'polygon', parts: [square(0, 0, 9), square(2, 2, 2)] },
      { layer: 'HEDGE', entity: 'LWPOLYLINE', kind: 'polygon', parts: [square(0, 0, 9)] },
    ]);
    const { records } = await shape(rows, {
      HEDGE: {
        fills: 'both',
        constants: [
          { name: 'kind', value: 'hedge' },
          { name: 'count', value: 2 },
        ],
      },
    });
    expect(records.map((r) => [r.kind, r.parts.length, r.attributes.kind, r.attributes.count])).toEqual([
      ['polygon', 2, 'hedge', 2],
      ['line', 2, 'hedge', 2],
      ['polygon', 1, 'hedge', 2],
    ]);
  });

  it('thin lines within the tolerance, heights counted, with every vertex that goes no farther off than is said', () => {
    fc.assert(
      fc.property(
        fc.array(
          fc.tuple(
            fc.double({ min: 0, max: 100, noNaN: true }),
            fc.double({ min: 0, max: 100, noNaN: true }),
            fc.double({ min: 0, max: 9, noNaN: true }),
          ),
          { minLength: 2, maxLength: 60 },
        ),
        fc.double({ min: 0.01, max: 20, noNaN: true }),
        (points, tolerance) => {
          const coords = Float64Array.from(points.flat());
          const { keep, shift } = simplified(coords, null, 0, points.length, tolerance);
          expect(keep[0]).toBe(1);
          expect(keep.at(-1)).toBe(1);
          expect(shift).toBeLessThanOrEqual(tolerance);
          const kept = points.filter((_, k) => keep[k] === 1);
          points.forEach((p, k) => {
            if (keep[k] === 1) return;
            // of all pieces that stay, the nearest is no farther than the largest shift that was told
            const off = Math.min(
              ...kept.slice(1).map((b, j) => {
                const a = kept[j]!;
                const d = b.map((v, c) => v - a[c]!),
                  size = d.reduce((n, v) => n + v * v, 0);
                const t = size === 0 ? 0 : Math.max(0, Math.min(1, d.reduce((n, v, c) => n + v * (p[c]! - a[c]!), 0) / size));
                return Math.hypot(...d.map((v, c) => p[c]! - a[c]! - t * v));
              }),
            );
            expect(off).toBeLessThanOrEqual(shift + 1e-9);
          });
        },
      ),
      { numRuns: 300 },
    );
  });

  it('tell how many vertices were thinned, and a ring keeps its inside', async () => {
    const ring: [number, number][] = [
      [0, 0],
      [5, 0.001],
      [10, 0],
      [10, 10],
      [5, 10.002],
      [0, 10],
      [0, 0],
    ];
    const { records, reports } = await shape(batches([{ layer: 'L', kind: 'polygon', parts: [ring] }]), { L: { simplify_m: 0.01 } });
    expect(records[0]!.parts[0]!.length).toBe(5);
    expect(reports.get('L')!.simplify_m).toEqual({ before: 7, after: 5, shift_m: expect.closeTo(0.002, 6) as number });
    const { records: coarse } = await shape(batches([{ layer: 'L', kind: 'polygon', parts: [ring] }]), { L: { simplify_m: 1000 } });
    expect(coarse[0]!.parts[0]!.length).toBe(7);
  });
});

describe('geometry by its own formulas', () => {
  it('a hull holds every point, and turns left at each of its own', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.integer({ min: -50, max: 50 }), fc.integer({ min: -50, max: 50 })), { minLength: 3, maxLength: 40 }),
        (points) => {
          const hull = convexHull(points);
          if (hull.length < 3) return;
          hull.forEach((a, k) => {
            const b = hull[(k + 1) % hull.length]!;
            for (const [x, y] of points) expect((b[0] - a[0]) * (y - a[1]) - (b[1] - a[1]) * (x - a[0])).toBeGreaterThanOrEqual(0);
          });
        },
      ),
    );
  });

  it('a curve through points passes them all, in the given direction at its ends', () => {
    fc.assert(
      fc.property(
        fc
          .array(fc.tuple(fc.double({ min: 0, max: 100, noNaN: true }), fc.double({ min: 0, max: 100, noNaN: true })), {
            minLength: 3,
            maxLength: 9,
          })
          .filter((p) => p.every((q, k) => k === 0 || Math.hypot(q[0] - p[k - 1]![0], q[1] - p[k - 1]![1]) > 1)),
        (points) => {
          const out = new BatchBuilder('L');
          followThrough(
            points.flatMap(([x, y]) => [x, y, 0]),
            [
              [1, 1, 0],
              [0, -1, 0],
            ],
            1e-5,
            (x, y, z, bulge) => out.vertex(x, y, z, bulge),
          );
          out.vertex(...points.at(-1)!, 0);
          out.endPart();
          out.endFeature(LINE, 'SPLINE', 1);
          const flat = flatten(out.take(), 1e-4);
          const near = ([x, y]: readonly number[]): number => {
            let least = Infinity;
            eachPart(flat, 0, (s, e) => {
              for (let v = s; v < e; v++) least = Math.min(least, Math.hypot(flat.coords[3 * v]! - x!, flat.coords[3 * v + 1]! - y!));
            });
            return least;
          };
          for (const p of points) expect(near(p)).toBeLessThan(1e-6);
          const [dx, dy] = [flat.coords[3]! - flat.coords[0]!, flat.coords[4]! - flat.coords[1]!];
          expect(Math.atan2(dy, dx)).toBeCloseTo(Math.PI / 4, 1);
        },
      ),
      { numRuns: 100 },
    );
  });
});
