import Database from 'better-sqlite3';
import { writeFileSync } from 'node:fs';
import fc from 'fast-check';
import { incircle } from 'robust-predicates';
import { afterAll, describe, expect, it } from 'vitest';
import { contoursOf } from '@pontrel/core/content/surfaces/contours';
import { onGround } from '@pontrel/core/content/surfaces/drape';
import { outlineTin } from '@pontrel/core/content/surfaces/outline-tin';
import { surfaceFrom, type SurfaceRead } from '@pontrel/core/content/surfaces/surface-from';
import { Ground, heightIn, nextSide, type Tin, twinsOf } from '@pontrel/core/content/surfaces/tin';
import { triangulate } from '@pontrel/core/content/surfaces/triangulate';
import { volumesBetween } from '@pontrel/core/content/surfaces/volume';
import { turn } from '@pontrel/core/geometry/turn';
import { LINE, POINT } from '@pontrel/core/model/batch';
import { BatchBuilder } from '@pontrel/core/model/batch-builder';
import { temporaryFolder } from '../server/client';
import { pontrel, python } from './python';

type XYZ = readonly [number, number, number];

let seed = 5;
const random = (to: number): number => {
  seed = (seed * 16807) % 2147483647;
  return (seed / 2147483647) * to;
};

/** At the size of real eastings and northings. */
const [E, N] = [1_464_000, 5_101_500];

/** A surface of points and lines. */
function made(
  points: readonly XYZ[],
  lines: readonly (readonly XYZ[])[] = [],
  set: { longest?: number; spike?: number } = {},
): Promise<SurfaceRead> {
  const builder = new BatchBuilder('GROUND');
  points.forEach((p, k) => {
    builder.vertex(...p);
    builder.endPart();
    builder.endFeature(POINT, 'Point', k + 1);
  });
  lines.forEach((line, k) => {
    for (const p of line) builder.vertex(...p);
    builder.endPart();
    builder.endFeature(LINE, 'Line', k + 1);
  });
  const batch = builder.take();
  return surfaceFrom(
    (async function* () {
      yield batch;
    })(),
    { height: '', longest: 0, spike: 0, unit_m: 1, ...set },
  );
}

/** A square pyramid: its corners at the height of nought, its top in the middle. */
const pyramid = (side: number, height: number, x = E, y = N): XYZ[] => [
  [x, y, 0],
  [x + side, y, 0],
  [x + side, y + side, 0],
  [x, y + side, 0],
  [x + side / 2, y + side / 2, height],
];
const plane = (side: number, height: (x: number, y: number) => number, x = E, y = N): XYZ[] =>
  [
    [x, y],
    [x + side, y],
    [x + side, y + side],
    [x, y + side],
  ].map(([a, b]): XYZ => [a!, b!, height(a!, b!)]);
const ground = async (points: readonly XYZ[]): Promise<Ground> => new Ground((await made(points)).tin);

describe('the triangles of a surface', () => {
  const xy = fc.tuple(fc.integer({ min: 0, max: 40 }), fc.integer({ min: 0, max: 40 }));

  it('have no point within their circle, and cover the hull of the points as shapely has it', () => {
    const sets = fc.sample(fc.uniqueArray(xy, { minLength: 3, maxLength: 60, selector: String }), { numRuns: 120, seed: 20261201 });
    const hulls = python<number[]>('hulls.py', sets);
    sets.forEach((set, k) => {
      const points = Float64Array.from(set.flatMap(([x, y]) => [E + x + x * y * 1e-3, N + y]));
      const { triangles } = triangulate(points, new Uint32Array(0));
      let area = 0;
      for (let t = 0; t < triangles.length; t += 3) {
        const [a, b, c] = [0, 1, 2].map((n) => [points[2 * triangles[t + n]!]!, points[2 * triangles[t + n]! + 1]!]) as [number, number][];
        area += turn(...a!, ...b!, ...c!) / 2;
        expect(turn(...a!, ...b!, ...c!)).toBeGreaterThan(0);
        for (let p = 0; p < points.length; p += 2) {
          const inside = incircle(...a!, ...b!, ...c!, points[p]!, points[p + 1]!);
          // numbers are brought near the origin first, which costs the last digit
          expect(inside).toBeLessThan(1e-4);
        }
      }
      const sheared = hulls[k]!;
      expect(area).toBeCloseTo(sheared, 3);
    });
  });

  it('keep the lines that are drawn, also where they cross, and cover the plane all the same', () => {
    fc.assert(
      fc.property(
        fc.uniqueArray(xy, { minLength: 4, maxLength: 30, selector: String }),
        fc.array(fc.tuple(fc.nat(29), fc.nat(29)), { maxLength: 8 }),
        (set, pairs) => {
          const points = Float64Array.from(set.flat());
          const lines = pairs.map(([a, b]) => [a % set.length, b % set.length] as const).filter(([a, b]) => a !== b);
          const free = triangulate(points, new Uint32Array(0));
          if (free.triangles.length === 0) return;
          const { points: all, triangles } = triangulate(points, Uint32Array.from(lines.flat()));
          const areaOf = (of: Uint32Array, at: Float64Array): number => {
            let area = 0;
            for (let t = 0; t < of.length; t += 3)
              area += turn(
                ...([0, 1, 2].flatMap((n) => [at[2 * of[t + n]!]!, at[2 * of[t + n]! + 1]!]) as [
                  number,
                  number,
                  number,
                  number,
                  number,
                  number,
                ]),
              );
            return area;
          };
          expect(areaOf(triangles, all)).toBeCloseTo(areaOf(free.triangles, points), 6);
          // no side of a triangle goes across a line that was kept
          for (const [a, b] of lines)
            for (let s = 0; s < triangles.length; s++) {
              const at = (n: number): [number, number] => [all[2 * n]!, all[2 * n + 1]!];
              const [p, q] = [at(triangles[s]!), at(triangles[nextSide(s)]!)];
              const over = turn(...at(a), ...at(b), ...p) * turn(...at(a), ...at(b), ...q) < -1e-9;
              const across = turn(...p, ...q, ...at(a)) * turn(...p, ...q, ...at(b)) < -1e-9;
              expect(over && across).toBe(false);
            }
        },
      ),
      { numRuns: 400, seed: 20261201 },
    );
  });

  it('tell what is not right: heights that stand out, two at one place, contours that cross, one point, points on a line', async () => {
    const grid = Array.from({ length: 49 }, (_, k): XYZ => [E + (k % 7) * 10, N + Math.floor(k / 7) * 10, k === 24 ? 0 : 40 + (k % 3)]);
    const { faults } = await made([...grid, [E, N, 41]], [], { spike: 5 });
    expect(faults.map((f) => [f.kind, f.size, f.at])).toEqual([
      ['spike-height', 41, [E + 30, N + 30]],
      ['two-heights', 1, [E, N]],
    ]);
    const crossed = await made(
      [],
      [
        [
          [E, N, 10],
          [E + 10, N + 10, 10],
        ],
        [
          [E, N + 10, 12],
          [E + 10, N, 12],
        ],
      ],
    );
    expect(crossed.faults).toEqual([{ kind: 'breaklines-cross', at: [E + 5, N + 5], size: 2, about: '' }]);
    expect(new Ground(crossed.tin).at(E + 5, N + 5)).toBe(11);
    await expect(made([[E, N, 1]])).rejects.toMatchObject({ code: 'no-surface' });
    await expect(made([0, 1, 2, 3].map((k): XYZ => [E + k, N + k, k]))).rejects.toMatchObject({ code: 'no-surface' });
    await expect(
      made([
        [E, N, 1],
        [E, N, 1],
        [E, N, 1],
      ]),
    ).rejects.toMatchObject({ code: 'no-surface' });
  });

  it('reach no farther across the edge than is wanted', async () => {
    // an L: the inner corner is filled where nothing is said
    const points = Array.from({ length: 36 }, (_, k): XYZ => [E + (k % 6), N + Math.floor(k / 6), 0]).filter(
      ([x, y]) => x < E + 3 || y < N + 3,
    );
    const area = async (longest: number): Promise<number> => {
      const { tin } = await made(points, [], { longest });
      return volumesBetween(new Ground(tin), -1, null).cut;
    };
    expect(await area(0)).toBeCloseTo(25 - 9 / 2 + 0, 6);
    // the two sides of the L, and half a square in its inner corner
    expect(await area(1.5)).toBeCloseTo(25 - 9 + 0.5, 6);
  });
});

describe('heights and lines on a surface', () => {
  it('are those of the plane that a surface lies in', async () => {
    const height = (x: number, y: number): number => 12 + 0.03 * (x - E) - 0.02 * (y - N);
    const points = Array.from({ length: 400 }, (): XYZ => {
      const [x, y] = [E + random(100), N + random(100)];
      return [x, y, height(x, y)];
    });
    const on = new Ground((await made([...plane(100, height), ...points])).tin);
    for (let k = 0; k < 500; k++) {
      const [x, y] = [E + random(100), N + random(100)];
      expect(on.at(x, y)).toBeCloseTo(height(x, y), 8);
    }
    expect([on.at(E - 0.001, N + 50), on.at(E + 50, N + 100.001)]).toEqual([NaN, NaN]);
    expect(on.at(E, N)).toBe(12);
    const line = onGround(on, [E + 1, N + 2, E + 98, N + 71]);
    expect(line.length / 3).toBeGreaterThan(20);
    for (let k = 0; k < line.length; k += 3) expect(line[k + 2]).toBeCloseTo(height(line[k]!, line[k + 1]!), 6);
    // in order along the way
    for (let k = 3; k < line.length; k += 3) expect(line[k]!).toBeGreaterThan(line[k - 3]!);
  });

  it('are contours that lie at their height, never cross, and are as many as heights between lowest and highest', async () => {
    const points = Array.from({ length: 600 }, (): XYZ => {
      const [x, y] = [random(100), random(100)];
      return [E + x, N + y, 10 * Math.sin(x / 15) * Math.cos(y / 20) + 20];
    });
    const { tin } = await made(points);
    const on = new Ground(tin);
    const lines = [...contoursOf(tin, 1)];
    for (const { height, line } of lines)
      for (let k = 0; k < line.length; k += 2) expect(on.at(line[k]!, line[k + 1]!) || height).toBeCloseTo(height, 5);
    const levels = new Set(lines.map((l) => l.height));
    const z = points.map((p) => p[2]);
    const wanted = Array.from({ length: 60 }, (_, k) => k).filter((h) => h > Math.min(...z) && h <= Math.max(...z));
    expect([...levels].sort((a, b) => a - b)).toEqual(wanted);
    // each triangle that a height goes through has one piece of a contour in it
    let crossed = 0;
    for (let t = 0; t < tin.triangles.length; t += 3) {
      const own = [0, 1, 2].map((k) => tin.xyz[3 * tin.triangles[t + k]! + 2]!);
      crossed += wanted.filter((h) => Math.min(...own) < h && h <= Math.max(...own)).length;
    }
    expect(lines.reduce((n, { line }) => n + line.length / 2 - 1, 0)).toBe(crossed);
    // a contour ends at the border, or where it began
    const twins = twinsOf(tin);
    for (const { line } of lines) {
      const closed = line[0] === line.at(-2) && line[1] === line.at(-1);
      if (!closed) expect([0, line.length - 2].map((k) => borderHolds(tin, twins, line[k]!, line[k + 1]!))).toEqual([true, true]);
    }
  });

  it('are squares about the top of a pyramid', async () => {
    const { tin } = await made(pyramid(100, 10));
    const lengths = [...contoursOf(tin, 2.5)].map(({ height, line }) => {
      let length = 0;
      for (let k = 0; k + 3 < line.length; k += 2) length += Math.hypot(line[k + 2]! - line[k]!, line[k + 3]! - line[k + 1]!);
      return [height, Number(length.toFixed(6))];
    });
    // at a share h of its height a pyramid is 1 - h as wide; the contour of its top has no length
    expect(lengths).toEqual([
      [2.5, 300],
      [5, 200],
      [7.5, 100],
    ]);
  });
});

/** Whether a place lies on the border of a surface. */
function borderHolds({ xyz, triangles }: Tin, twins: Int32Array, x: number, y: number): boolean {
  for (let s = 0; s < triangles.length; s++) {
    if (twins[s] !== -1) continue;
    const [a, b] = [3 * triangles[s]!, 3 * triangles[nextSide(s)]!];
    const [dx, dy] = [xyz[b]! - xyz[a]!, xyz[b + 1]! - xyz[a + 1]!];
    if (Math.abs(dx * (y - xyz[a + 1]!) - dy * (x - xyz[a]!)) / Math.hypot(dx, dy) < 1e-6) return true;
  }
  return false;
}

describe('volumes between surfaces', () => {
  it('are those of the closed formulas: pyramid, prism, frustum, wedge', async () => {
    const top = await ground(pyramid(60, 9));
    // a third of base by height
    expect(volumesBetween(top, 0, null)).toMatchObject({ cut: expect.closeTo((60 * 60 * 9) / 3, 6), fill: 0 });
    // above a height of 3 the pyramid is 40 wide and 6 high; below it the rest of the prism is filled
    const at3 = volumesBetween(top, 3, null);
    expect(at3.cut).toBeCloseTo((40 * 40 * 6) / 3, 6);
    expect(at3.fill).toBeCloseTo(60 * 60 * 3 - ((60 * 60 * 9) / 3 - (40 * 40 * 6) / 3), 6);
    // the frustum below 3: h/3 (A + a + sqrt(A a))
    expect((60 * 60 * 9) / 3 - at3.cut).toBeCloseTo((3 / 3) * (3600 + 1600 + Math.sqrt(3600 * 1600)), 6);
    // a prism between two sloping planes that lie 2 m apart, and a wedge between two that meet in a line
    const slope = (x: number, y: number): number => 5 + 0.1 * (x - E) + 0.04 * (y - N);
    const low = await ground(plane(50, slope)),
      high = await ground(plane(50, (x, y) => slope(x, y) + 2));
    expect(volumesBetween(high, low, null).cut).toBeCloseTo(50 * 50 * 2, 6);
    expect(volumesBetween(low, high, null)).toMatchObject({ cut: 0, fill: expect.closeTo(5000, 6) });
    const tilted = await ground(plane(50, (x, y) => slope(x, y) + 0.08 * (x - E - 25)));
    const wedge = volumesBetween(tilted, low, null);
    expect([wedge.cut, wedge.fill]).toEqual([expect.closeTo((25 * 2 * 50) / 2, 6), expect.closeTo((25 * 2 * 50) / 2, 6)]);
    expect([wedge.cutArea, wedge.fillArea, wedge.area]).toEqual([
      expect.closeTo(1250, 6),
      expect.closeTo(1250, 6),
      expect.closeTo(2500, 6),
    ]);
  });

  it('are the same within outlines of any shape as the sum of small columns, holes left out', async () => {
    const rough = (): XYZ[] => [
      ...plane(100, () => 10 + random(4)),
      ...Array.from({ length: 200 }, (): XYZ => [E + random(100), N + random(100), 8 + random(6)]),
    ];
    const [a, b] = [await ground(rough()), await ground(rough())];
    const box = (x: number, y: number, s: number): number[] =>
      [x, y, x + s, y, x + s, y + s, x, y + s, x, y].map((v, k) => v + (k % 2 === 0 ? E : N));
    const rings = [box(10, 10, 70), box(30, 30, 20)];
    const within = volumesBetween(a, b, outlineTin(rings));
    expect(within.area).toBeCloseTo(70 * 70 - 20 * 20, 6);
    let [cut, fill] = [0, 0];
    const step = 0.2;
    for (let x = 10 + step / 2; x < 80; x += step)
      for (let y = 10 + step / 2; y < 80; y += step) {
        if (x > 30 && x < 50 && y > 30 && y < 50) continue;
        const d = (a.at(E + x, N + y) - b.at(E + x, N + y)) * step * step;
        if (d > 0) cut += d;
        else fill -= d;
      }
    expect(Math.abs(within.cut - cut) / cut).toBeLessThan(1e-3);
    expect(Math.abs(within.fill - fill) / fill).toBeLessThan(1e-3);
    // what is inside and what is outside are all of it
    const whole = volumesBetween(a, b, outlineTin([box(0, 0, 100)]));
    const rest = volumesBetween(a, b, outlineTin([box(0, 0, 100), ...rings]));
    expect(within.cut + rest.cut).toBeCloseTo(whole.cut, 5);
    expect(whole.cut).toBeCloseTo(volumesBetween(a, b, null).cut, 5);
    expect(heightIn(a.tin, 0, a.tin.xyz[3 * a.tin.triangles[0]!]!, a.tin.xyz[3 * a.tin.triangles[0]! + 1]!)).toBe(
      a.tin.xyz[3 * a.tin.triangles[0]! + 2],
    );
  });
});

describe('surfaces on the command line', () => {
  const { folder, remove } = temporaryFolder();
  afterAll(remove);
  const at = (name: string): string => `${folder}/${name}`;
  const csv = (name: string, rows: readonly (readonly (number | string)[])[], head = 'e,n,level'): void =>
    writeFileSync(at(name), [head, ...rows.map((r) => r.join(','))].join('\n') + '\n');
  const derive = (operation: string, ...words: string[]): ReturnType<typeof pontrel> =>
    pontrel('derive', operation, ...words, '--from', 'EPSG:2193');

  it('are made of points whose heights are in a field, cut by contours, and carry what is dropped on them', () => {
    csv('levels.csv', [...pyramid(100, 10)]);
    const { status, json, stderr } = derive('surface', at('levels.csv'), at('ground.gpkg'), '--set', 'height=level');
    expect([status, stderr]).toEqual([0, '']);
    expect(json.proof).toMatchObject({ status: 'match', records: { in: 4, out: 4 } });
    expect(json.derived).toMatchObject({ points: 5, triangles: 4, lowest_m: 0, highest_m: 10, area_m2: 10_000 });
    // four faces, each half of 100 by the slant height
    expect(json.derived.surfaceArea_m2).toBeCloseTo(200 * Math.hypot(50, 10), 6);
    const { json: contours } = derive('contours', at('ground.gpkg'), at('contours.gpkg'), '--set', 'interval=2.5');
    expect(contours.proof.status).toBe('match');
    expect(contours.derived).toMatchObject({ contours: 3, length_m: expect.closeTo(600, 6) });
    const db = new Database(at('contours.gpkg'), { readonly: true });
    expect(db.prepare('SELECT elevation FROM contours ORDER BY elevation').pluck().all()).toEqual([2.5, 5, 7.5]);
    db.close();
    csv('trees.csv', [
      [E + 50, N + 50, 10],
      [E + 50, N + 25, 6],
      [E + 25, N + 50, 0],
      [E + 500, N + 50, 3],
    ]);
    const { json: dropped } = derive(
      'drape',
      at('trees.csv'),
      at('trees.gpkg'),
      '--set',
      `surface=${at('ground.gpkg')}`,
      '--set',
      'offset=0.5',
    );
    expect(dropped.proof).toMatchObject({ status: 'match', records: { in: 4, out: 4 } });
    expect(dropped.derived).toMatchObject({ records: 4, outside: 1 });
    const trees = new Database(at('trees.gpkg'), { readonly: true });
    const heights = trees.prepare<[], { geom: Buffer }>('SELECT geom FROM trees').all();
    trees.close();
    // GeoPackage: a header of 8 bytes and, for points, no box; WKB with z: x, y, z after 5 bytes
    expect(heights.map(({ geom }) => geom.readDoubleLE(geom.length - 8)).slice(0, 3)).toEqual([10.5, 5.5, 5.5]);
  });

  it('are made of an elevation model, one point a pixel that has a value', () => {
    const places: [number, number][] = [
      [E + 31, N + 63],
      [E + 88.25, N + 41.5],
      [E + 15, N + 89],
    ];
    const { heights, pixels } = python<{ heights: number[]; pixels: number }>('make_elevation.py', { file: at('model.tif'), at: places });
    csv('posts.csv', places, 'e,n');
    const { json } = derive('drape', at('posts.csv'), at('posts.gpkg'), '--set', `surface=${at('model.tif')}`);
    expect(json.proof.status).toBe('match');
    const db = new Database(at('posts.gpkg'), { readonly: true });
    const found = db.prepare<[], { geom: Buffer }>('SELECT geom FROM posts').all();
    db.close();
    // the last place is the middle of the pixel without a value: its neighbours lie in one plane with it
    found.forEach(({ geom }, k) => expect(geom.readDoubleLE(geom.length - 8)).toBeCloseTo(heights[k]!, 4));
    expect(derive('surface', at('model.tif'), at('model.gpkg')).json.derived.points).toBe(pixels);
    expect(derive('surface', `${folder}/model.tfw`, at('x.gpkg')).status).toBe(1);
  });

  it('get heights from a field or from the text beside them, and what is not plausible stays as it was', () => {
    const survey = 'packages/demo/data/street-survey.dxf';
    // the surveyor wrote every third level beside its point, rounded to centimetres
    const { json } = pontrel(
      ...['derive', 'heights', survey, at('levels.gpkg'), '--from', 'EPSG:2126', '--layer', 'SPOT-HEIGHT', '--layer', 'SPOT-TEXT'],
      ...['--set', 'texts=SPOT-TEXT', '--set', 'reach=0.9', '--set', 'highest=6'],
    );
    expect(json.proof.status).toBe('match');
    const { records, changed, withoutHeight, implausible, texts } = json.derived as Record<string, number>;
    expect([records, texts, changed! + withoutHeight! + implausible!]).toEqual([420, 140, 420]);
    expect(changed! + implausible!).toBeGreaterThanOrEqual(140);
    for (const f of json.derived.faults as { kind: string; size: number }[]) if (f.kind === 'height-odd') expect(f.size).toBeGreaterThan(6);
    csv('field.csv', [
      [E, N, '3.25'],
      [E + 1, N, 'high'],
      [E + 2, N, '99999'],
    ]);
    const field = derive('heights', at('field.csv'), at('field.gpkg'), '--set', 'field=level', '--set', 'offset=0.5').json;
    expect(field.derived).toMatchObject({ records: 3, changed: 1, withoutHeight: 1, implausible: 1 });
  });

  it('say how much lies between two of them', () => {
    csv(
      'new.csv',
      plane(50, () => 7),
    );
    csv('old.csv', pyramid(50, 9));
    const { json } = derive('volume', at('new.csv'), at('between.gpkg'), '--set', 'height=level', '--set', `against=${at('old.csv')}`);
    // where the pyramid is higher than 7 it is 2/9 as wide and 2 high
    const over = ((50 * (2 / 9)) ** 2 * 2) / 3;
    expect(json.derived.fill_m3).toBeCloseTo(over, 6);
    expect(json.derived.cut_m3).toBeCloseTo(50 * 50 * 7 - (50 * 50 * 9) / 3 + over, 6);
    expect(json.proof.status).toBe('match');
    const { json: level } = derive('volume', at('old.csv'), at('level.gpkg'), '--set', 'height=level', '--set', 'level=0');
    expect(level.derived).toMatchObject({ cut_m3: expect.closeTo((50 * 50 * 9) / 3, 6), fill_m3: 0, area_m2: expect.closeTo(2500, 6) });
  });

  it('become an elevation model whose every pixel is the plane that they lie in, and that is read as the same ground', () => {
    // sides of triangles go through the middles of pixels
    const xs = Array.from({ length: 11 }, (_, k) => 4 * k);
    csv(
      'tilted.csv',
      xs.flatMap((x) => xs.map((y): [number, number, number] => [E + x, N + y, 20 + 0.1 * x - 0.05 * y])),
    );
    const made = derive('surface', at('tilted.csv'), at('model.tif'), '--set', 'height=level', '--pixel-size', '0.5').json;
    expect(made.proof.status).toBe('match');
    expect(made.derived).toMatchObject({ pixelSize: 0.5, triangles: 200 });
    const told = python('elevation_facts.py', { file: at('model.tif'), plane: [20, 0.1, -0.05, E, N], origin: [E, N + 40], pixel: 0.5 });
    expect(told).toEqual({ size: [80, 80], mode: 'F', worst: expect.closeTo(0, 5), empty: [] });
    const volume = (file: string, ...more: string[]): number =>
      derive('volume', at(file), at('v.csv'), ...more).json.derived.cut_m3 as number;
    // a plane over the middles of pixels lacks half a pixel at each edge
    expect(volume('model.tif')).toBeCloseTo(39.5 * 39.5 * (20 + 0.1 * 20 - 0.05 * 20), 2);
    expect(volume('tilted.csv', '--set', 'height=level')).toBeCloseTo(1600 * 21, 6);
    // a surface that is no rectangle has pixels without a height, and nothing is made up for them
    csv('corner.csv', [
      [E, N, 5],
      [E + 10, N, 5],
      [E, N + 10, 5],
    ]);
    derive('surface', at('corner.csv'), at('corner.tif'), '--set', 'height=level', '--pixel-size', '1');
    const { empty } = python<{ empty: [number, number][] }>('elevation_facts.py', {
      file: at('corner.tif'),
      plane: [5, 0, 0, E, N],
      origin: [E, N + 10],
      pixel: 1,
    });
    expect(empty).toHaveLength(45);
    expect(empty.every(([column, row]) => column > row)).toBe(true);
    expect(derive('surface', at('corner.csv'), at('x.tif'), '--set', 'height=level', '--pixel-size', '0.0000001').json.error.code).toBe(
      'grid-large',
    );
    expect(derive('surface', at('corner.csv'), at('x.gpkg'), '--pixel-size', '1').status).toBe(2);
    expect(derive('topology', at('corner.csv'), at('x.tif')).status).toBe(1);
  });

  it('go into a drawing as faces in space, and come back as the same ground', () => {
    derive('surface', at('tilted.csv'), at('faces.dxf'), '--set', 'height=level', '--option', 'areas=faces');
    const told = python<{ objects: { type: string; vertices: number[][] }[]; errors: number }>('drawing_facts.py', {
      file: at('faces.dxf'),
    });
    expect([told.errors, new Set(told.objects.map((o) => o.type)), told.objects.length]).toEqual([0, new Set(['3DFACE']), 200]);
    for (const { vertices } of told.objects)
      for (const [x, y, z] of vertices) expect(z).toBeCloseTo(20 + 0.1 * (x! - E) - 0.05 * (y! - N), 6);
    const back = derive('surface', at('faces.dxf'), at('back.gpkg')).json;
    expect(back.derived).toMatchObject({ triangles: 200, area_m2: expect.closeTo(1600, 4) });
    // a face stays one where nobody says otherwise, and an outline an outline
    expect(pontrel('convert', at('faces.dxf'), at('again.dxf'), '--from', 'EPSG:2193').json.proof.status).toBe('match');
    const again = python<{ objects: { type: string }[] }>('drawing_facts.py', { file: at('again.dxf') });
    expect(new Set(again.objects.map((o) => o.type))).toEqual(new Set(['3DFACE']));
  });

  it('tell when heights that are worked on together are not of one system', () => {
    // 7839 is NZVD2016, 5759 Auckland 1946; EPSG registry
    csv('high.csv', [[E + 5, N + 5, 21]], 'x,y,z');
    csv(
      'ground.csv',
      [
        [E, N, 20],
        [E + 10, N, 20],
        [E, N + 10, 20],
        [E + 10, N + 10, 20],
      ],
      'x,y,z',
    );
    const made = (name: string, crs: string): string => {
      expect(pontrel('convert', at(`${name}.csv`), at(`${name}.gpkg`), '--from', crs).json.proof.status).toBe('match');
      return at(`${name}.gpkg`);
    };
    const dropped = (high: string, ground: string, ...more: string[]): { code: string; message: string }[] =>
      pontrel('derive', 'drape', made('high', high), at('on.gpkg'), '--set', `surface=${made('ground', ground)}`, ...more).json.findings;
    const of = (findings: { code: string; message: string }[], code: string): string[] =>
      findings.filter((f) => f.code === code).map((f) => f.message);
    expect(of(dropped('EPSG:2193+7839', 'EPSG:2193+7839'), 'heights-differ')).toEqual([]);
    expect(of(dropped('EPSG:2193', 'EPSG:2193'), 'heights-differ')).toEqual([]);
    const [one] = of(dropped('EPSG:2193+7839', 'EPSG:2193'), 'heights-differ');
    expect(one).toContain('high.gpkg has those of NZVD2016 height; ground.gpkg does not say which it has');
    const [two] = of(dropped('EPSG:2193+7839', 'EPSG:2193+5759'), 'heights-differ');
    expect(two).toContain('Auckland 1946');
    expect(of(dropped('EPSG:2193+7839', 'EPSG:2193+7839', '--to', 'EPSG:2193'), 'heights-as-they-are').length).toBe(2);
  });

  it('say what cannot be: no heights, no ground, too small an interval', () => {
    csv(
      'flat.csv',
      plane(50, () => 7),
      'e,n,remark',
    );
    expect(derive('surface', at('flat.csv'), at('x.gpkg'))).toMatchObject({ status: 1, json: { error: { code: 'no-surface' } } });
    expect(derive('drape', at('flat.csv'), at('x.gpkg'))).toMatchObject({ status: 1, json: { error: { code: 'role-empty' } } });
    expect(derive('contours', at('new.csv'), at('x.gpkg'), '--set', 'height=level', '--set', 'interval=0')).toMatchObject({
      status: 2,
    });
    expect(derive('contours', at('new.csv'), at('old.csv'), at('x.gpkg'), '--set', 'height=level', '--set', 'interval=1mm').status).toBe(0);
    expect(derive('contours', at('old.csv'), at('x.gpkg'), '--set', 'height=level', '--set', 'interval=0.00001')).toMatchObject({
      status: 1,
      json: { error: { code: 'interval-small' } },
    });
    expect(derive('surface', at('flat.csv'), at('x.gpkg'), '--set', 'tolerance=3').status).toBe(2);
  });
});
