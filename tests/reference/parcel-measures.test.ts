import { writeFileSync } from 'node:fs';
import Database from 'better-sqlite3';
import { afterAll, describe, expect, it } from 'vitest';
import { bearingText, parseBearing, planeBearing, quadrantText } from '@pontrel/core/geometry/bearing';
import { temporaryFolder } from '../server/client';
import { pontrel, python } from './python';

/** Lots at three places of a transverse Mercator, one of them far from its central meridian, in EPSG:2193. */
const RINGS = [
  [1_464_000, 5_101_500, 40, 25],
  [1_600_000, 5_400_000, 300, 800],
  [2_090_000, 5_800_000, 2000, 1500],
].map(([x, y, w, h]): [number, number][] => [
  [x!, y!],
  [x! + w!, y! + h! * 0.1],
  [x! + w! * 0.9, y! + h!],
  [x! - w! * 0.05, y! + h! * 0.8],
  [x!, y!],
]);

describe('areas and lengths of lots', () => {
  const { folder, remove } = temporaryFolder();
  afterAll(remove);
  const rows = (file: string, table: string): Record<string, number & string>[] => {
    const db = new Database(`${folder}/${file}`, { readonly: true });
    const found = db.prepare<[], Record<string, number & string>>(`SELECT * FROM "${table}"`).all();
    db.close();
    return found;
  };
  const wkt = (ring: readonly (readonly [number, number])[]): string => `"POLYGON((${ring.map((p) => p.join(' ')).join(',')}))"`;

  it('are those of pyproj on the ellipsoid, and larger on the ground by the square of how much higher it is', () => {
    // what each is stated to be: the first right, the second off by 3 m2, the third not at all
    const grid = RINGS.map((r) => Math.abs(r.slice(1).reduce((n, p, k) => n + (r[k]![0] * p[1] - p[0] * r[k]![1]), 0)) / 2);
    const stated = [grid[0]!.toFixed(1), (grid[1]! + 3).toFixed(1), ''];
    writeFileSync(`${folder}/lots.csv`, `lot,area,wkt\n${RINGS.map((r, k) => `L${k},${stated[k]},${wkt(r)}`).join('\n')}\n`);
    const { status, json } = pontrel(
      ...['derive', 'areas', `${folder}/lots.csv`, `${folder}/measured.gpkg`, '--from', 'EPSG:2193'],
      ...['--set', 'height=350', '--set', 'stated=area', '--set', 'names=lot'],
    );
    expect([status, json.proof.status]).toEqual([0, 'match']);
    const theirs = python<{ area: number; around: number; scale: number }[]>('parcel_measures.py', { crs: 'EPSG:2193', rings: RINGS });
    const ours = rows('measured.gpkg', 'measured');
    theirs.forEach(({ area, around, scale }, k) => {
      const own = ours[k]!;
      expect(Math.abs(own.area_ell! / area - 1)).toBeLessThan(1e-8);
      expect(Math.abs(own.perim_ell! / around - 1)).toBeLessThan(1e-6);
      // the grid scale of a place, over a parcel: parts in a million over two kilometres
      expect(Math.abs(Math.sqrt(own.area_grid! / own.area_ell!) / scale - 1)).toBeLessThan(k === 2 ? 4e-5 : 3e-6);
      // 350 m over a mean radius of 6 378 km or so
      expect(Math.sqrt(own.area_gnd! / own.area_ell!) - 1).toBeGreaterThan(350 / 6.4e6);
      expect(Math.sqrt(own.area_gnd! / own.area_ell!) - 1).toBeLessThan(350 / 6.34e6);
      expect(own.comb_scale!).toBeCloseTo(Math.sqrt(own.area_grid! / own.area_gnd!), 8);
    });
    expect(json.derived).toMatchObject({ areas: 3, compared: 2, within: 1 });
    expect(json.derived.faults).toEqual([
      { kind: 'area-differs', at: [1_600_000, 5_400_000], size: expect.closeTo(3, 0), about: 'L1, smaller than stated' },
    ]);
  });

  it('are sides with bearings as surveyors write them', () => {
    // by hand: a side of 30 east and 40 north is 50 long at atan(3/4) = 36 degrees 52 minutes 11.6 seconds
    expect(bearingText(planeBearing(0, 0, 30, 40))).toBe('036°52′12″');
    expect(quadrantText(planeBearing(0, 0, 30, 40), 1)).toBe('N 36°52′11.6″ E');
    expect([bearingText(planeBearing(0, 0, -30, -40)), quadrantText(planeBearing(0, 0, -30, -40))]).toEqual([
      '216°52′12″',
      'S 36°52′12″ W',
    ]);
    expect([bearingText(359.99999), quadrantText(359.99999)]).toEqual(['000°00′00″', 'N 00°00′00″ W']);
    expect([0, 90, 180, 270].map((b) => quadrantText(b))).toEqual(['N 00°00′00″ E', 'N 90°00′00″ E', 'S 00°00′00″ E', 'N 90°00′00″ W']);
    writeFileSync(`${folder}/one.csv`, 'lot,wkt\nA,"POLYGON((0 0,30 40,80 40,50 0,0 0))"\n');
    const { json } = pontrel('derive', 'sides', `${folder}/one.csv`, `${folder}/sides.gpkg`, '--from', 'local', '--set', 'names=lot');
    expect(json.proof.status).toBe('match');
    expect(json.derived).toMatchObject({ outlines: 1, sides: 4, length_m: 200 });
    expect(rows('sides.gpkg', 'sides').map((r) => [r.outline, r.side, r.bearing_t, r.quadrant, r.distance])).toEqual([
      ['A', 1, '036°52′12″', 'N 36°52′12″ E', 50],
      ['A', 2, '090°00′00″', 'N 90°00′00″ E', 50],
      ['A', 3, '216°52′12″', 'S 36°52′12″ W', 50],
      ['A', 4, '270°00′00″', 'N 90°00′00″ W', 50],
    ]);
  });

  it('are labels of a plan along the sides, one a side that two lots share, none over another, none upside down', () => {
    // nine lots of 20 m by 30 m, turned by 200 degrees, so that half of their sides run backwards
    const turn = (200 * Math.PI) / 180;
    const at = (x: number, y: number): [number, number] => [
      x * Math.cos(turn) - y * Math.sin(turn),
      x * Math.sin(turn) + y * Math.cos(turn),
    ];
    const lots = Array.from({ length: 9 }, (_, k): [number, number][] => {
      const [x, y] = [(k % 3) * 20, Math.floor(k / 3) * 30];
      return [at(x, y), at(x + 20, y), at(x + 20, y + 30), at(x, y + 30), at(x, y)];
    });
    // and a strip of 1 m: its ends are too short for a label, and those of its long sides would lie over each other
    const small: [number, number][] = [at(100, 0), at(101, 0), at(101, 30), at(100, 30), at(100, 0)];
    writeFileSync(`${folder}/grid.csv`, `lot,wkt\n${[...lots, small].map((r, k) => `L${k},${wkt(r)}`).join('\n')}\n`);
    const { json } = pontrel(
      ...['derive', 'sides', `${folder}/grid.csv`, `${folder}/plan.dxf`, '--from', 'local', '--set', 'names=lot'],
      ...['--set', 'labels=both', '--set', 'letters=1'],
    );
    expect(json.proof.status).toBe('match');
    // of 36 sides of the grid 12 are shared
    expect(json.derived).toMatchObject({ outlines: 10, sides: 40, shared: 12, labels: 24 + 1, labelsLeft: 3 });
    const plan = python<{ text: string; angle: number; at: number[] }[]>('texts_of.py', `${folder}/plan.dxf`);
    expect(plan.length).toBe(25);
    for (const { text, angle } of plan) {
      expect(angle > -90 && angle <= 90).toBe(true);
      expect(text).toMatch(/^\d{3}°\d\d′\d\d″ {2}[23]0\.00$/);
    }
    pontrel('derive', 'sides', `${folder}/grid.csv`, `${folder}/grid.gpkg`, '--from', 'local', '--set', 'names=lot');
    const middle = rows('grid.gpkg', 'grid').filter((r) => String(r.outline) === 'L4');
    expect(middle.map((r) => r.adjoins)).toEqual(['L1', 'L5', 'L7', 'L3']);
  });

  it('are the course of a traverse, with what it misses its end by, spread by the compass rule', () => {
    for (const [text, degrees] of [
      ['36.87', 36.87],
      ['036°52′12″', 36.87],
      ['36 52 12', 36.87],
      ['36-52\'12"', 36.87],
      ['N 36°52′12″ E', 36.87],
      ['s36°52′12″w', 216.87],
      ['S 10° E', 170],
      ['N 90° W', 270],
    ] as const)
      expect([text, parseBearing(text)]).toEqual([text, expect.closeTo(degrees, 9)]);
    for (const text of ['', 'north', '36°72′', 'N 95° E', 'N 10°', '400', '10° E'])
      expect([text, parseBearing(text)]).toEqual([text, null]);
    // worked by hand: a square of 100 m whose second leg is 0.08 m too long and whose last is 0.06 m too short misses by 0.06 m north and 0.08 m
    // east, 0.1 m over 400.02 m; each station is moved by its share, a quarter or so at each
    writeFileSync(`${folder}/legs.csv`, 'bearing,distance\n0°00′00″,100\nN 90° E,100.08\n180 00 00,99.94\n270,100\n');
    const run = (adjust: string): { derived: Record<string, number>; proof: { status: string } } =>
      pontrel(
        ...['derive', 'traverse', `${folder}/legs.csv`, `${folder}/${adjust}.gpkg`, '--from', 'local'],
        ...['--set', 'east=1000', '--set', 'north=2000', '--set', `adjust=${adjust}`],
      ).json;
    const raw = run('none');
    expect(raw.proof.status).toBe('match');
    expect(raw.derived).toMatchObject({
      legs: 4,
      length_m: expect.closeTo(400.02, 9),
      misclosureEast_m: expect.closeTo(0.08, 9),
      misclosureNorth_m: expect.closeTo(0.06, 9),
      misclosure_m: expect.closeTo(0.1, 9),
      closesTo: expect.closeTo(4000.2, 4),
    });
    expect(raw.derived.faults).toEqual([expect.objectContaining({ kind: 'misclosure', size: expect.closeTo(0.1, 9) })]);
    const even = run('compass');
    expect(even.proof.status).toBe('match');
    const legs = rows('compass.gpkg', 'compass-legs');
    // north of the first leg: 100 less 0.06 times 100 by 400.02; east of the second: 100.08 less 0.08 times 100.08 by 400.02
    expect(legs[0]!.distance).toBeCloseTo(Math.hypot(100 - (0.06 * 100) / 400.02, (0.08 * 100) / 400.02), 6);
    expect(legs[1]!.distance).toBeCloseTo(Math.hypot(100.08 - (0.08 * 100.08) / 400.02, (0.06 * 100.08) / 400.02), 6);
    expect(even.derived.area_m2).toBeGreaterThan(9990);
    writeFileSync(`${folder}/bad.csv`, 'bearing,distance\n0,100\nwest,20\n');
    expect(pontrel('derive', 'traverse', `${folder}/bad.csv`, `${folder}/x.gpkg`, '--from', 'local')).toMatchObject({
      status: 1,
      json: { error: { code: 'leg-unread' } },
    });
  });
});
