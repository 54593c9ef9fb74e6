import { writeFileSync } from 'node:fs';
import Database from 'better-sqlite3';
import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Derivation, Derived } from '@pontrel/core/content/derived/derivation';
import type { Fault } from '@pontrel/core/content/derived/fault';
import { chosenText, isMendable } from '@pontrel/core/content/parcels/chosen-faults';
import { MEND } from '@pontrel/core/content/parcels/mend';
import { TOPOLOGY } from '@pontrel/core/content/parcels/topology';
import { localPlane, METRE } from '@pontrel/core/crs/local-plane';
import { settingsOf } from '@pontrel/core/crossing/derive-records';
import { type FeatureBatch, POLYGON } from '@pontrel/core/model/batch';
import { BatchBuilder } from '@pontrel/core/model/batch-builder';
import { temporaryFolder } from '../server/client';
import { pontrel, python } from './python';

type Ring = [number, number][];
type Areas = Ring[][];

function batchOf(areas: Areas): FeatureBatch {
  const builder = new BatchBuilder('LOTS');
  areas.forEach((rings, k) => {
    for (const ring of rings) {
      for (const [x, y] of ring) builder.vertex(x, y, NaN);
      builder.endPart();
    }
    builder.endFeature(POLYGON, 'Polygon', k + 1);
  });
  return builder.take();
}

const run = (derivation: Derivation, batches: readonly FeatureBatch[], set: Record<string, number | string>): Promise<Derived> =>
  derivation.run({
    async *records() {
      yield* batches;
    },
    has: () => true,
    settings: settingsOf(derivation, set),
    name: 'out',
    unit_m: 1,
    crs: localPlane(METRE),
  });
const looked = (areas: Areas): Promise<Derived> => run(TOPOLOGY, [batchOf(areas)], {});

let seed = 7;
const random = (to: number): number => {
  seed = (seed * 16807) % 2147483647;
  return (seed / 2147483647) * to;
};
const box = (x: number, y: number, w: number, h: number): Ring => [
  [x, y],
  [x + w, y],
  [x + w, y + h],
  [x, y + h],
  [x, y],
];
/** A star of many corners, which crosses itself nowhere. */
const star = (x: number, y: number, corners: number): Ring => {
  const ring = Array.from({ length: corners }, (_, k): [number, number] => {
    const [angle, r] = [(2 * Math.PI * k) / corners, 5 + random(20)];
    return [x + r * Math.cos(angle), y + r * Math.sin(angle)];
  });
  return [...ring, ring[0]!];
};

/** At the size of real eastings and northings. */
const [E, N] = [1_464_000, 5_101_500];
const CASES: readonly Areas[] = [
  // a grid with walls between, in which nothing is at fault but the gaps
  Array.from({ length: 36 }, (_, k) => [box(E + (k % 6) * 10, N + Math.floor(k / 6) * 10, 10, 10)]).filter((_, k) => k % 8 !== 7),
  ...[5, 25, 60].map((n) => Array.from({ length: n }, () => [star(E + random(150), N + random(150), 3 + Math.floor(random(20)))])),
  Array.from({ length: 40 }, () => [
    box(E + Math.floor(random(50)), N + Math.floor(random(50)), 2 + Math.floor(random(9)), 2 + Math.floor(random(9))),
  ]),
  // areas with holes, of which one is filled, one in part, one by something that lies over its edge
  [
    [
      box(E, N, 60, 60),
      [...box(E + 5, N + 5, 10, 10)].reverse(),
      [...box(E + 25, N + 5, 10, 10)].reverse(),
      [...box(E + 40, N + 40, 10, 10)].reverse(),
    ],
    [box(E + 5, N + 5, 10, 10)],
    [box(E + 27, N + 7, 5, 5)],
    [box(E + 38, N + 38, 5, 5)],
  ],
];

describe('faults of areas', () => {
  it('are what shapely finds: what is covered, what is covered twice, and what is left between', async () => {
    const theirs = python<{ covered: number; twice: number; holes: number[] }[]>('topology.py', CASES);
    for (const [k, areas] of CASES.entries()) {
      const { figures, faults } = await looked(areas);
      expect(figures.covered_m2, `case ${k}`).toBeCloseTo(theirs[k]!.covered, 4);
      expect(figures.overlaps_m2, `case ${k}`).toBeCloseTo(theirs[k]!.twice, 4);
      const gaps = faults.filter((f) => f.kind === 'gap').map((f) => f.size!);
      // pieces too small for a number of this size to tell are none of ours
      const holes = theirs[k]!.holes.filter((h) => h > 1e-6);
      expect(
        gaps
          .filter((g) => g > 1e-6)
          .sort((a, b) => a - b)
          .map((g) => g.toFixed(4)),
        `case ${k}`,
      ).toEqual(holes.map((h) => h.toFixed(4)));
      expect(figures.selfCrossings).toBe(0);
    }
  });

  it('are none of a valid outline, and some of one that is not, as shapely tells them apart', async () => {
    const corner = fc.tuple(fc.integer({ min: 0, max: 6 }), fc.integer({ min: 0, max: 6 }));
    const rings = fc.sample(fc.array(corner, { minLength: 3, maxLength: 9 }), { numRuns: 1500, seed: 20261201 });
    const areas = rings.map((r): Ring[] => [[...r, r[0]!]]);
    const theirs = python<{ valid: boolean[] }[]>(
      'topology.py',
      areas.map((a) => [a]),
    );
    let [sound, not] = [0, 0];
    for (const [k, area] of areas.entries()) {
      // a repeated vertex alone leaves an outline valid
      const told = (await looked([area])).faults.filter((f) => ['self-crossing', 'self-touch', 'spike', 'collapsed'].includes(f.kind));
      if (theirs[k]!.valid[0]) sound++;
      else not++;
      expect([JSON.stringify(area), told.length > 0]).toEqual([JSON.stringify(area), !theirs[k]!.valid[0]]);
    }
    expect([sound > 100, not > 100]).toEqual([true, true]);
  });
});

describe('areas that were mended', () => {
  it('cover what they covered and the gaps, each place once, as shapely has it', async () => {
    const theirs = python<{ covered: number; twice: number; holes: number[] }[]>('topology.py', CASES);
    for (const [k, areas] of CASES.entries())
      for (const overlaps of ['first', 'larger', 'smaller']) {
        const { records, figures } = await run(MEND, [batchOf(areas)], { snap: 0, gaps: 1e9, overlaps });
        const after = await run(TOPOLOGY, [...records()], {});
        const filled = theirs[k]!.holes.reduce((n, h) => n + h, 0);
        expect(after.figures.covered_m2, `case ${k}`).toBeCloseTo(theirs[k]!.covered + filled, 3);
        expect(after.figures.overlaps_m2, `case ${k}`).toBeLessThan(1e-6);
        expect(after.figures.gaps_m2, `case ${k}`).toBeLessThan(1e-6);
        expect(after.figures.selfCrossings).toBe(0);
        expect(figures.overlapsSettled_m2, `case ${k}`).toBeCloseTo(theirs[k]!.twice, 3);
      }
  });

  it('are mended one by one where somebody chooses so: that fault is gone, all others are what they were', async () => {
    // rows of boxes with gaps and overlaps of their own, and one that crosses itself
    const areas: Areas = Array.from({ length: 12 }, (_, k) => [box(20 * k - (k % 3 === 1 ? 1.5 : 0), 0, 20 - (k % 3 === 2 ? 0.8 : 0), 30)]);
    areas.push([box(0, -10, 240, 10)], [box(0, 30, 240, 10)]);
    areas.push([
      [
        [0, 60],
        [10, 70],
        [10, 60],
        [0, 70],
        [0, 60],
      ],
    ]);
    const batch = batchOf(areas);
    const before = await run(TOPOLOGY, [batch], {});
    const keyOf = ({ kind, at, about, size }: Fault): string =>
      `${kind} ${at.map((v) => v.toFixed(6)).join(' ')} ${about.replaceAll('LOTS', 'out')} ${size?.toFixed(9)}`;
    const mendable = before.faults.filter((f) => isMendable(f.kind));
    expect(new Set(mendable.map((f) => f.kind))).toEqual(new Set(['gap', 'overlap', 'self-crossing']));
    for (const fault of mendable) {
      const mended = await run(MEND, [batch], { only: chosenText([fault]), snap: 5, gaps: 0 });
      const after = await run(TOPOLOGY, [...mended.records()], {});
      const [was, is] = [before, after].map(({ faults }) => faults.map(keyOf));
      expect([fault.kind, is!.sort()]).toEqual([fault.kind, was!.filter((key) => key !== keyOf(fault)).sort()]);
      const touched = fault.kind === 'self-crossing' ? 1 : fault.kind === 'gap' ? 1 : 2;
      expect(mended.figures.changed).toBeLessThanOrEqual(touched);
    }
    // several at once, and lines that are none
    const all = await run(MEND, [batch], { only: `${chosenText(mendable)}\n-\ngap x y` });
    expect((await run(TOPOLOGY, [...all.records()], {})).faults.filter((f) => isMendable(f.kind))).toEqual([]);
    const none = await run(MEND, [batch], { only: '-' });
    expect(none.figures).toMatchObject({ changed: 0, gapsFilled: 0, overlapsSettled: 0 });
    expect([...none.records()].flatMap((b) => [...b.coords])).toEqual([...batch.coords]);
  });

  it('keep what is sound to the last digit, with its heights', async () => {
    const builder = new BatchBuilder('LOTS');
    [box(E, N, 10, 10), box(E + 10, N, 10, 10), box(E + 20.004, N, 10, 10)].forEach((ring, k) => {
      for (const [x, y] of ring) builder.vertex(x, y, k + 1);
      builder.endPart();
      builder.set('lot', `L${k}`);
      builder.endFeature(POLYGON, 'Polygon', k + 1);
    });
    const batch = builder.take();
    const { records, figures } = await run(MEND, [batch], { snap: 0.01 });
    const [out] = [...records()];
    expect(figures).toMatchObject({ areas: 3, changed: 1, gone: 0, gapsFilled: 0 });
    expect(figures.largestMove_m).toBeCloseTo(0.004, 6);
    expect(Array.from(out!.coords.subarray(0, 30))).toEqual(Array.from(batch.coords.subarray(0, 30)));
    expect(out!.columns.get('lot')).toEqual(['L0', 'L1', 'L2']);
    // the third meets the second, and keeps the heights of the corners that stayed where they were
    const third = Array.from(out!.coords.subarray(30));
    expect(third.filter((_, k) => k % 3 === 0).sort()).toEqual([E + 20, E + 20, E + 20, E + 30.004, E + 30.004].sort());
    expect(third.filter((z, k) => k % 3 === 2 && z === 3).length).toBeGreaterThanOrEqual(2);
  });
});

describe('faults of the lots of a shapefile, on the command line', () => {
  const { folder, remove } = temporaryFolder();
  afterAll(remove);
  const lots = `${folder}/lots.shp`;
  beforeAll(() => void python('make_coverage.py', `${folder}/lots`));
  const derived = (output: string, ...more: string[]): ReturnType<typeof pontrel> =>
    pontrel('derive', 'topology', lots, `${folder}/${output}`, '--from', 'EPSG:2193', '--set', 'names=LOT', ...more);

  it('are found, each with its size and its lots', () => {
    const { status, json, stderr } = derived('faults.gpkg');
    expect([status, stderr]).toEqual([0, '']);
    expect(json.proof.status).toBe('match');
    const of = (kind: string): unknown[] =>
      (json.derived.faults as { kind: string; size: number | null; about: string }[])
        .filter((f) => f.kind === kind)
        .map((f) => [f.about, f.size === null ? null : Number(f.size.toFixed(6))]);
    expect(of('overlap')).toEqual([['1-1 and 2-1', 12]]);
    expect(of('duplicate')).toEqual([['5-0 and again', 600]]);
    // the gap at the corner is a triangle of 12 mm by a lot's side, on either side
    expect(of('gap')).toEqual(
      expect.arrayContaining([
        ['', 6],
        ['', 0.18],
      ]),
    );
    expect(of('sliver')).toEqual([['strip', 0.099938]]);
    expect(of('self-crossing')).toEqual([['0-4', null]]);
    expect(of('spike')).toEqual([['7-4', 2]]);
    expect(of('repeated-vertex')).toEqual([
      ['7-0', null],
      ['7-0', null],
    ]);
    expect(of('corner-near').flatMap((f) => (f as [string, number])[1])).toContain(0.012);
    // the file holds what was told
    const told = json.derived.faults.length;
    expect(json.proof.records).toEqual({ in: told, out: told });
    const db = new Database(`${folder}/faults.gpkg`, { readonly: true });
    const tables = (json.outputs[0].layers as { name: string }[]).map((l) => l.name);
    const kept = tables.flatMap((t) =>
      db.prepare<[], { fault: string; about: string | null; area_m2: number | null }>(`SELECT * FROM "${t}"`).all(),
    );
    db.close();
    expect(kept.filter((r) => r.fault === 'Overlap')).toEqual([
      expect.objectContaining({ about: '1-1 and 2-1', area_m2: expect.closeTo(12, 5) }),
    ]);
    expect(kept.length).toBe(told);
  });

  it('are mended with what changed told, and are none then but what a person has to settle', () => {
    const { status, json } = pontrel(
      ...['derive', 'mend', lots, `${folder}/mended.shp`, '--from', 'EPSG:2193', '--set', 'names=LOT'],
      ...['--set', 'snap=20mm', '--set', 'gaps=0.5', '--set', 'overlaps=first'],
    );
    expect([status, json.proof.status]).toEqual([0, 'match']);
    expect(json.derived).toMatchObject({ areas: 42, gone: 1, gapsFilled: 1, overlapsSettled: 2 });
    expect(json.derived.largestMove_m).toBeCloseTo(0.012, 4);
    expect(json.findings).toContainEqual(expect.objectContaining({ code: 'area-gone', message: expect.stringContaining('(again)') }));
    const { json: after } = pontrel('derive', 'topology', `${folder}/mended.shp`, `${folder}/after.gpkg`, '--set', 'names=LOT');
    const left = (after.derived.faults as { kind: string; about: string }[]).map((f) => `${f.kind} ${f.about}`);
    // a quarter of the bow-tie's lot is an enclosed gap, wider than those that are filled
    expect(left.filter((f) => !f.startsWith('gap'))).toEqual(['sliver strip']);
    expect(after.derived.gaps_m2).toBeCloseTo(150, 6);
  });

  it('are none of lots that hold together, which is a report without records', () => {
    writeFileSync(`${folder}/one.csv`, 'id,wkt\n1,"POLYGON((0 0,10 0,10 10,0 10,0 0))"\n2,"POLYGON((10 0,20 0,20 10,10 10,10 0))"\n');
    const { status, json } = pontrel('derive', 'topology', `${folder}/one.csv`, `${folder}/none.gpkg`, '--from', 'EPSG:2193');
    expect([status, json.derived?.faults, json.derived?.areas, json.proof?.status]).toEqual([0, [], 2, 'match']);
  });
});
