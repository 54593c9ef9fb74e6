import { readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { afterAll, describe, expect, it } from 'vitest';
import { temporaryFolder } from '../server/client';
import { pontrel, python } from './python';

const { folder, remove } = temporaryFolder();
afterAll(remove);

interface Told {
  code: string;
  severity: string;
  message: string;
}
const finding = (json: { findings: Told[] }, code: string): Told | undefined => json.findings.find((f) => f.code === code);
const degrees = (a: readonly number[], b: readonly number[]): number => Math.max(Math.abs(a[0]! - b[0]!), Math.abs(a[1]! - b[1]!));
const geoJson = (file: string): { features: { geometry: { coordinates: number[][][] } }[] } => JSON.parse(readFileSync(file, 'utf8'));

describe('a drawing whose unit is not that of its system, against pyproj', () => {
  const file = path.join(folder, 'lots.dxf');
  const US_FOOT = 1200 / 3937;
  const corners = python<[number, number][]>('make_lots.py', { file, insunits: 2, origin: [6_489_000, 1_842_000], size: 100 });
  const written = (name: string, ...options: string[]): { json: { findings: Told[] }; at: number[][] } => {
    const out = path.join(folder, `${name}.geojson`);
    const { status, json } = pontrel('convert', file, out, '--from', 'EPSG:2229', '--option', 'precision=0.00001', ...options);
    expect(status, JSON.stringify(json)).toBe(0);
    return { json, at: geoJson(out).features[0]!.geometry.coordinates[0]!.slice(0, 4) };
  };
  const expected = (points: readonly (readonly number[])[]): number[][] =>
    python<number[][][]>('transform.py', [{ from: 'EPSG:2229', to: 'EPSG:4326', points }])[0]!;
  const farthest = (a: number[][], b: number[][]): number => Math.max(...a.map((p) => Math.min(...b.map((q) => degrees(p, q)))));

  it('is taken in the unit of the system, and it is said how far off the stated one would put it', () => {
    const { json, at } = written('own');
    expect(farthest(at, expected(corners))).toBeLessThan(2e-9);
    const { severity, message } = finding(json, 'unit-question')!;
    expect(severity).toBe('caution');
    const shift = (v: number): number => v * (0.3048 / US_FOOT - 1);
    expect(message).toContain(
      `${Math.abs(shift(6_489_470)).toFixed(0)} US survey feet west and ${Math.abs(shift(1_842_350)).toFixed(2)} US survey feet south`,
    );
  });

  it('is taken as --unit says, without a question', () => {
    const asStated = written('stated', '--unit', 'foot');
    const scaled = corners.map((p) => p.map((v) => (v * 0.3048) / US_FOOT));
    expect(farthest(asStated.at, expected(scaled))).toBeLessThan(2e-9);
    expect(finding(asStated.json, 'unit-question')).toBeUndefined();
    const own = written('settled', '--unit', 'US survey foot');
    expect(farthest(own.at, expected(corners))).toBeLessThan(2e-9);
    expect(finding(own.json, 'unit-question')).toBeUndefined();
  });
});

describe('a stated system that cannot be true', () => {
  const misplaced = (name: string, points: [number, number][], prj: string): ReturnType<typeof pontrel> => {
    const stem = path.join(folder, name);
    python('make_misplaced.py', { stem, points, prj });
    return pontrel('convert', `${stem}.shp`, path.join(folder, `${name}.gpkg`));
  };
  const town: [number, number][] = [
    [171.29, -44.22],
    [171.31, -44.21],
  ];

  it('is told with what would fit: degrees under a plane, metres under degrees, and a plane of another part of the earth', () => {
    const cases: [string, [number, number][], string, string, RegExp, RegExp][] = [
      ['degrees', town, 'EPSG:2193', 'system-degrees', /EPSG:4326 \(WGS 84\)/, /look like degrees/],
      ['mercator', town, 'EPSG:3857', 'system-degrees', /EPSG:4167 \(NZGD2000\)/, /look like degrees/],
      [
        'metres',
        [
          [1_464_000, 5_101_000],
          [1_464_500, 5_101_500],
        ],
        'EPSG:4326',
        'system-metres',
        /EPSG:/,
        /are no degrees/,
      ],
      [
        'far',
        [
          [389_000, 3_760_000],
          [389_500, 3_760_500],
        ],
        'EPSG:2193',
        'system-outside',
        /EPSG:/,
        /Nothing of it lies in the area of use/,
      ],
    ];
    for (const [name, points, prj, code, fits, said] of cases) {
      const { json } = misplaced(name, points, prj);
      // metres as degrees have no image anywhere: nothing is left to convert, and the error says why
      const told = json.error ? json.error.message : `${finding(json, code)!.message} ${finding(json, 'system-fits')!.message}`;
      expect(told, name).toMatch(fits);
      expect(told, name).toMatch(said);
      if (!json.error) expect(finding(json, code)).toMatchObject({ severity: 'caution' });
    }
  });

  it('is not doubted where its area of use holds the data', () => {
    const [points] = python<[number, number][][]>('transform.py', [{ from: 'EPSG:4326', to: 'EPSG:2193', points: town }]);
    const { json } = misplaced('true', points!, 'EPSG:2193');
    expect(json.findings).toEqual([]);
  });
});

describe('data in the areas of several operations, against pyproj', () => {
  const written = (name: string, points: number[][]): { json: { findings: Told[] }; at: number[][] } => {
    const file = path.join(folder, `${name}.geojson`);
    const feature = (coordinates: number[], id: number): object => ({
      type: 'Feature',
      properties: { id },
      geometry: { type: 'Point', coordinates },
    });
    const crs = { type: 'name', properties: { name: 'urn:ogc:def:crs:EPSG::4168' } };
    writeFileSync(file, JSON.stringify({ type: 'FeatureCollection', crs, features: points.map(feature) }));
    const out = path.join(folder, `${name}-wgs84.geojson`);
    const { status, json } = pontrel('convert', file, out, '--option', 'precision=0.00001');
    expect(status, JSON.stringify(json)).toBe(0);
    return { json, at: geoJson(out).features.map((f) => f.geometry.coordinates as unknown as number[]) };
  };
  const onshore = [
    [-1.5, 6.5],
    [-1.2, 7.1],
    [-0.4, 5.9],
  ];
  const ofProj = (points: number[][]): number[][] =>
    python<{ point: number[] }[][]>('run_time.py', [{ from: 'EPSG:4168', to: 'EPSG:4326', points }])[0]!.map((p) => p.point);

  it('takes the operation for all of it, and says which would be better for a part', () => {
    const there = written('onshore', onshore);
    const expected = ofProj(onshore);
    there.at.forEach((p, i) => expect(degrees(p, expected[i]!)).toBeLessThan(1e-9));
    expect(finding(there.json, 'operation-parts')).toBeUndefined();
    const both = written('both', [...onshore, [-1.5, 3]]);
    expect(finding(both.json, 'operation-parts')!.message).toMatch(
      /Accra to WGS 84 \(1\), accurate to 25 m, serves all of it; Accra to WGS 84 \(4\) \(accurate to 6 m/,
    );
  });
});
