import { existsSync, writeFileSync } from 'node:fs';
import Database from 'better-sqlite3';
import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { type Faces, facesOf } from '@pontrel/core/content/parcels/faces';
import { type Linework, nodeLinework } from '@pontrel/core/content/parcels/node-linework';
import { segmentDistance } from '@pontrel/core/geometry/distance';
import { ringArea2 } from '@pontrel/core/geometry/ring-area';
import { turn } from '@pontrel/core/geometry/turn';
import { temporaryFolder } from '../server/client';
import { pontrel, python } from './python';

type XY = readonly [number, number];
type Line = readonly XY[];

const segmentsOf = (lines: readonly Line[]): Float64Array =>
  Float64Array.from(lines.flatMap((line) => line.slice(1).flatMap((b, k) => [...line[k]!, ...b])));
const made = (lines: readonly Line[], tolerance = 0): Faces & { noded: Linework } => {
  const noded = nodeLinework(segmentsOf(lines), tolerance);
  return { ...facesOf(noded), noded };
};
const areaOf = (rings: readonly Float64Array[]): number => rings.reduce((n, r) => n + ringArea2(r, 0, r.length / 2, 2), 0) / 2;
const areasOf = ({ faces }: Faces): number[] => faces.map((f) => areaOf([f.shell, ...f.holes])).sort((a, b) => a - b);

let seed = 41;
const random = (to: number): number => {
  seed = (seed * 16807) % 2147483647;
  return (seed / 2147483647) * to;
};
const squareAt = (x: number, y: number, s: number): Line => [
  [x, y],
  [x + s, y],
  [x + s, y + s],
  [x, y + s],
  [x, y],
];

/** Lines that make areas of many kinds: tangles, a grid in which holes have islands, rings that touch at a corner, loose ends and bridges. */
const CASES: readonly (readonly Line[])[] = [
  ...[12, 60, 200].map((n) =>
    Array.from({ length: n }, (): Line => [
      [random(1000), random(1000)],
      [random(1000), random(1000)],
    ]),
  ),
  Array.from({ length: 60 }, () => squareAt(Math.floor(random(40)), Math.floor(random(40)), 1 + Math.floor(random(9)))),
  [squareAt(0, 0, 100), squareAt(20, 20, 40), squareAt(30, 30, 10), squareAt(70, 70, 20), squareAt(90, 90, 10)],
  [
    squareAt(0, 0, 10),
    squareAt(10, 10, 10),
    [
      [5, 5],
      [5, 7],
    ],
    [
      [20, 20],
      [30, 30],
    ],
    squareAt(30, 30, 5),
    [
      [40, 0],
      [50, 0],
      [50, 5],
    ],
  ],
  // a hole that touches its shell in one corner, and two holes that touch each other
  [
    squareAt(0, 0, 10),
    [
      [0, 0],
      [4, 2],
      [2, 4],
      [0, 0],
    ],
    squareAt(5, 5, 1),
    squareAt(6, 6, 1),
  ],
];

/** Whether lines meet at nodes only, and no node lies within reach beside an edge. Looked at pair by pair. */
function faultsOf({ nodes, edges }: Linework): string[] {
  const at = (n: number): XY => [nodes[2 * n]!, nodes[2 * n + 1]!];
  const out: string[] = [];
  for (let e = 0; e < edges.length; e += 2)
    for (let f = e + 2; f < edges.length; f += 2) {
      const [a, b, c, d] = [edges[e]!, edges[e + 1]!, edges[f]!, edges[f + 1]!];
      if (a === c || a === d || b === c || b === d) {
        if ((a === c && b === d) || (a === d && b === c)) out.push(`edge ${e} twice`);
        continue;
      }
      const [p, q, r, s] = [at(a), at(b), at(c), at(d)];
      const side = (u: XY, v: XY, w: XY): number => Math.sign(turn(...u, ...v, ...w));
      if (side(p, q, r) * side(p, q, s) <= 0 && side(r, s, p) * side(r, s, q) <= 0) {
        const apart = Math.min(
          ...[r, s].map((v) => segmentDistance(...p, ...q, ...v)),
          ...[p, q].map((v) => segmentDistance(...r, ...s, ...v)),
        );
        if (apart === 0 || side(p, q, r) * side(p, q, s) < 0) out.push(`edges ${e} and ${f} cross`);
      }
    }
  return out;
}

describe('areas made of lines', () => {
  it('are those that shapely finds, with their holes, loose ends and bridges', () => {
    const theirs = python<{ areas: number[]; holes: number; dangle_length: number; cut_length: number; covered: number }[]>(
      'polygonize.py',
      CASES,
    );
    CASES.forEach((lines, k) => {
      const ours = made(lines);
      const areas = areasOf(ours);
      expect(areas.length, `case ${k}`).toBe(theirs[k]!.areas.length);
      areas.forEach((area, i) => expect(area).toBeCloseTo(theirs[k]!.areas[i]!, 5));
      expect(ours.faces.reduce((n, f) => n + f.holes.length, 0)).toBe(theirs[k]!.holes);
      expect(ours.dangles.reduce((n, d) => n + d.length, 0)).toBeCloseTo(theirs[k]!.dangle_length, 5);
      expect(ours.bridges.reduce((n, b) => n + b.length, 0)).toBeCloseTo(theirs[k]!.cut_length, 5);
      expect(areas.reduce((n, a) => n + a, 0)).toBeCloseTo(theirs[k]!.covered, 4);
      // looked at pair by pair: not of the largest tangle
      if (ours.noded.edges.length < 8000) expect(faultsOf(ours.noded)).toEqual([]);
    });
  });

  it('are the same whatever the order and the direction of the lines, and cover the plane once', () => {
    const point = fc.tuple(fc.integer({ min: 0, max: 12 }), fc.integer({ min: 0, max: 12 }));
    fc.assert(
      fc.property(fc.array(fc.tuple(point, point), { minLength: 3, maxLength: 24 }), fc.integer(), (pairs, n) => {
        const lines = pairs.map(([a, b]): Line => [a, b]);
        const turned = lines
          .map((l, k) => ((n >> (k % 31)) & 1 ? [l[1]!, l[0]!] : l))
          .sort((a, b) => ((a[0]![0] * 7 + b[1]![1] * 13 + n) % 3) - 1);
        const [one, two] = [made(lines), made(turned)];
        expect(areasOf(two)).toEqual(areasOf(one));
        expect(faultsOf(one.noded)).toEqual([]);
        // the borders of all areas, each edge with its area on the left, enclose as much as the outer borders alone
        for (const f of one.faces) expect(areaOf([f.shell, ...f.holes])).toBeGreaterThan(0);
      }),
      { numRuns: 300, seed: 20261130 },
    );
  });

  it('are two of a bow-tie, one of a line drawn twice, and none of lines of no length', () => {
    const bow = [
      [0, 0],
      [10, 10],
      [10, 0],
      [0, 10],
      [0, 0],
    ] as const;
    expect(areasOf(made([bow]))).toEqual([25, 25]);
    expect(areasOf(made([squareAt(0, 0, 4), squareAt(0, 0, 4), [...squareAt(0, 0, 4)].reverse()]))).toEqual([16]);
    expect(
      made([
        [
          [1, 1],
          [1, 1],
        ],
        [
          [1, 1],
          [1, 1],
          [1, 1],
        ],
      ]),
    ).toMatchObject({ faces: [], dangles: [], bridges: [] });
    expect(made([])).toMatchObject({ faces: [] });
    // all of it is within the tolerance of one place
    expect(made([squareAt(0, 0, 0.5)], 1).faces).toEqual([]);
    // corners that touch, side by side along a part of a side, and one within another without a common point
    expect(areasOf(made([squareAt(0, 0, 2), squareAt(2, 2, 2), squareAt(4, 3, 6), squareAt(5, 4, 1)]))).toEqual([1, 4, 4, 35]);
  });

  it('hold where lines nearly meet: three through almost one point, slivers of a micrometre, ends that fall short', () => {
    // at the size of real eastings and northings
    const [E, N] = [1_464_000, 5_101_500];
    const moved = (lines: readonly Line[]): Line[] => lines.map((l) => l.map(([x, y]): XY => [E + x, N + y]));
    const frame = squareAt(0, 0, 100);
    for (const gap of [0, 1e-9, 1e-7, 1e-6, 1e-4, 5e-3]) {
      const nearly = made(
        moved([
          frame,
          [
            [0, 0],
            [100, 100],
          ],
          [
            [0, 100],
            [100, gap],
          ],
          [
            [50 + gap, 0],
            [50, 100],
          ],
        ]),
        0.01,
      );
      // six areas about the middle, which is one point within the tolerance
      expect([gap, nearly.faces.length]).toEqual([gap, 6]);
      expect(areasOf(nearly).reduce((n, a) => n + a, 0)).toBeCloseTo(10_000, 6);
      expect(nearly.noded.largestMove).toBeLessThanOrEqual(0.01);
      expect(faultsOf(nearly.noded)).toEqual([]);
    }
    // two lines a micrometre apart are two with a tolerance of less, and one with more
    const sliver = moved([
      frame,
      [
        [0, 50],
        [100, 50],
      ],
      [
        [0, 50.000001],
        [100, 50.000001],
      ],
    ]);
    expect([made(sliver, 1e-7).faces.length, made(sliver, 1e-3).faces.length]).toEqual([3, 2]);
    // ends three centimetres short, and three too far
    const short = moved([
      squareAt(0, 0, 100),
      [
        [0.03, 50],
        [99.97, 50],
      ],
      [
        [50, -0.03],
        [50, 100.03],
      ],
    ]);
    expect([made(short, 0.01).faces.length, made(short, 0.05).faces.length]).toEqual([2, 4]);
    expect(made(short, 0.01).dangles.length).toBe(2 + 2);
  });
});

describe('lots made of the lines of a plan, on the command line', () => {
  const { folder, remove } = temporaryFolder();
  afterAll(remove);
  const plan = `${folder}/plan.dxf`;
  const derived = (output: string, ...more: string[]): ReturnType<typeof pontrel> =>
    pontrel('derive', 'polygonize', plan, `${folder}/${output}`, '--from', 'EPSG:2193', ...more);
  beforeAll(() => void python('make_linework.py', plan));

  it('are all there, with their numbers, and what is wrong with them is told', () => {
    const { status, json, stderr } = derived('lots.gpkg', '--set', 'tolerance=2cm');
    expect([status, stderr]).toEqual([0, '']);
    expect(json.proof).toMatchObject({ status: 'match', records: { in: 24, out: 24 } });
    expect(json.derived).toMatchObject({ lines: 28 + 29 + 1 + 1, areas: 24, holes: 0, labels: 25, dangles: 1, bridges: 0 });
    // 24 lots of 20 m by 30 m and half a circle of 10 m; ends are off by 4 mm each way
    expect(Math.abs(json.derived.area_m2 - (24 * 600 + (Math.PI * 100) / 2))).toBeLessThan(1);
    expect(json.derived.largestMove_m).toBeGreaterThan(0.002);
    expect(json.derived.largestMove_m).toBeLessThan(0.02);
    expect((json.derived.faults as { kind: string }[]).filter((f) => f.kind === 'line-loose')).toEqual([
      { kind: 'line-loose', at: [expect.closeTo(1_463_999.6, 3), 5_101_500], size: expect.closeTo(0.4, 1), about: '' },
    ]);
    expect(json.findings).toContainEqual(expect.objectContaining({ code: 'curves-as-chords', count: 1 }));
    const told = new Map((json.findings as { code: string; count: number }[]).map((f) => [f.code, f.count]));
    expect(['no-label', 'labels-differ', 'label-on-line', 'label-outside', 'line-loose'].map((code) => told.get(code))).toEqual([
      1, 1, 1, 1, 1,
    ]);
    const db = new Database(`${folder}/lots.gpkg`, { readonly: true });
    const texts = db
      .prepare<[], { text: string | null }>('SELECT text FROM lots')
      .all()
      .map((r) => r.text);
    db.close();
    // the number on a side went to the lot on one of its sides
    const plain = Array.from({ length: 24 }, (_, k) => String(k + 1)).filter((t) => !['1', '2', '3'].includes(t));
    expect(plain.filter((t) => !texts.some((own) => own?.split('\n').includes(t)))).toEqual([]);
    expect(texts).toContain('1\n1A');
    expect(texts.filter((t) => t === null).length).toBe(1);
  });

  it('are fewer, or none, where the ends of lines are farther apart than the tolerance, and go into a shapefile as they are', () => {
    expect(derived('apart.shp', '--set', 'tolerance=0.1mm')).toMatchObject({ status: 1, json: { error: { code: 'no-areas' } } });
    expect(derived('some.shp', '--set', 'tolerance=7mm').json.derived.areas).toBeLessThan(24);
    const { json: same } = derived('lots.shp', '--set', 'tolerance=0.02');
    expect(same.proof.status).toBe('match');
    const [read] = python<{ count: number }[]>('read_shapefiles.py', { files: [`${folder}/lots.shp`] });
    expect(read!.count).toBe(24);
  });

  it('says what cannot be: no lines, an operation that is none, a length that is none, degrees', () => {
    expect(derived('x.gpkg', '--layer', 'NUMBER')).toMatchObject({ status: 1, json: { error: { code: 'no-lines' } } });
    expect(derived('x.gpkg', '--layer', 'BOUNDARIES')).toMatchObject({ status: 1, json: { error: { code: 'layer-unknown' } } });
    expect(derived('x.gpkg', '--set', 'tolerance=wide').status).toBe(2);
    // from a system on the earth nothing leads into a local plane; within one it stays there
    expect(derived('x.gpkg', '--to', 'local').status).toBe(2);
    const local = pontrel(
      'derive',
      'polygonize',
      plan,
      `${folder}/local.gpkg`,
      '--from',
      'local',
      '--to',
      'local',
      '--set',
      'tolerance=0.02',
    );
    expect([local.json.proof.status, local.json.derived.areas]).toEqual(['match', 24]);
    expect(pontrel('derive', 'polygonise', plan, `${folder}/x.gpkg`).status).toBe(2);
    writeFileSync(
      `${folder}/line.geojson`,
      JSON.stringify({
        type: 'LineString',
        coordinates: [
          [171, -44],
          [171.1, -44],
        ],
      }),
    );
    expect(pontrel('derive', 'polygonize', `${folder}/line.geojson`, `${folder}/x.gpkg`).status).toBe(2);
    expect(pontrel('derive', 'polygonize', `${folder}/line.geojson`, `${folder}/x.gpkg`, '--to', 'EPSG:2193')).toMatchObject({
      status: 1,
      json: { error: { code: 'no-areas' } },
    });
    expect(existsSync(`${folder}/x.gpkg`)).toBe(false);
  });

  it('tells of heights, of records without geometry and of what has no place in the system', () => {
    const ring = [
      [171.2, -44.3, 12],
      [171.201, -44.3, 12],
      [171.201, -44.299, 13],
      [171.2, -44.299, 13],
      [171.2, -44.3, 12],
    ];
    const feature = (geometry: object | null, n: number): object => ({ type: 'Feature', properties: { n }, geometry });
    writeFileSync(
      `${folder}/odd.geojson`,
      JSON.stringify({
        type: 'FeatureCollection',
        features: [
          feature({ type: 'LineString', coordinates: ring }, 1),
          feature(null, 2),
          // a transverse Mercator has no image of what lies a quarter of the globe away
          feature(
            {
              type: 'LineString',
              coordinates: [
                [83, 0],
                [83, 1],
              ],
            },
            3,
          ),
          feature({ type: 'Point', coordinates: [171.2005, -44.2995] }, 4),
        ],
      }),
    );
    const { json } = pontrel('derive', 'polygonize', `${folder}/odd.geojson`, `${folder}/odd.gpkg`, '--to', 'EPSG:2193');
    expect(json.proof).toMatchObject({ status: 'match', records: { out: 1 } });
    const told = (json.findings as { code: string; count: number }[]).map((f) => [f.code, f.count]);
    expect(told).toEqual(
      expect.arrayContaining([
        ['heights-left', 1],
        ['no-geometry', 1],
        ['no-place', 1],
      ]),
    );
  });
});
