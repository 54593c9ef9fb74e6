import { existsSync, mkdirSync, readdirSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { describe, expect, it } from 'vitest';
import { temporaryFolder } from '../server/client';
import { pontrel, python } from './python';

/** A picture split by the areas of a layer, against shapely. */
const { folder } = temporaryFolder();
const [W, N, PIXEL] = [1_463_000, 5_102_000, 0.5];
python('make_ground.py', {
  pictures: [{ kind: 'texture', stem: `${folder}/ground`, size: [900, 700], origin: [W, N], pixel: [PIXEL, PIXEL], seed: 5 }],
});
const at = (x: number, y: number): [number, number] => [W + x, N - y];
const ring = (...corners: [number, number][]): [number, number][] => [...corners, corners[0]!].map(([x, y]) => at(x, y));
/**
 * Two that share a side, one with a hole, one that overlaps others, one partly and one wholly off the picture, one of two parts;
 * no side goes through the middle of a pixel.
 */
const AREAS: { sheet: string | null; geometry: { type: string; coordinates: unknown } }[] = [
  { sheet: 'A/1', geometry: { type: 'Polygon', coordinates: [ring([10, 10], [110.3, 25], [105, 140], [20, 120.7])] } },
  { sheet: 'a_1', geometry: { type: 'Polygon', coordinates: [ring([110.3, 25], [240, 12], [222, 150], [105, 140])] } },
  {
    sheet: 'Île 3',
    geometry: {
      type: 'Polygon',
      coordinates: [ring([250, 20], [400, 20], [400, 170], [250, 170]), ring([300, 60], [300, 120], [350, 120], [350, 60])],
    },
  },
  { sheet: null, geometry: { type: 'Polygon', coordinates: [ring([90.03, 80.11], [300.07, 90], [280.01, 300.13], [60.09, 280])] } },
  { sheet: 'edge', geometry: { type: 'Polygon', coordinates: [ring([400.03, 250.07], [500.11, 260], [480, 400.01], [390.07, 380.03])] } },
  { sheet: 'off', geometry: { type: 'Polygon', coordinates: [ring([600, 600], [700, 600], [650, 700])] } },
  {
    sheet: 'two',
    geometry: {
      type: 'MultiPolygon',
      coordinates: [[ring([20, 300], [60, 300], [60, 330], [20, 330])], [ring([100, 310], [140, 310], [120, 345])]],
    },
  },
];
const outline = path.join(folder, 'sheets.geojson');
const crs = { type: 'name', properties: { name: 'urn:ogc:def:crs:EPSG::2193' } };
writeFileSync(
  outline,
  JSON.stringify({
    type: 'FeatureCollection',
    crs,
    features: AREAS.map(({ sheet, geometry }) => ({ type: 'Feature', properties: { sheet }, geometry })),
  }),
);

interface Report {
  error?: { message: string };
  outputs: { files: string[] }[];
  proof: { status: string; pixels: { compared: number } };
  account: { read: number; crossed: number; missing: number; left: { reason: string; count: number }[] }[];
  findings: { code: string; count: number }[];
}

const split = (name: string, extension: string, ...options: string[]): Report => {
  mkdirSync(path.join(folder, name));
  const given = ['split=areas', `outline=${outline}`, ...options].flatMap((o) => ['--option', o]);
  const out = path.join(folder, name, `town${extension}`);
  return pontrel('convert', path.join(folder, 'ground.tif'), out, '--from', 'EPSG:2193', ...given).json as Report;
};

/** The tiles of the areas that lie on the picture, by the names that are wanted. */
const against = (name: string, names: readonly string[], more: { cut: boolean; around: number }) =>
  python<{ box: boolean; wrong: number; values: number; pixels: number; square: boolean }[]>('area_tiles.py', {
    source: path.join(folder, 'ground.tif'),
    west: W,
    north: N,
    pixel: PIXEL,
    ...more,
    tiles: AREAS.filter((a) => a.sheet !== 'off').map(({ geometry }, k) => ({
      file: path.join(folder, name, `town_${names[k]}.tif`),
      geometry,
    })),
  });

describe('a picture split by areas', () => {
  it('becomes a tile for each, cut to it and named by a field, of which the account knows every pixel', () => {
    const report = split('named', '.tif', 'names=sheet');
    expect(report.error?.message).toBe(undefined);
    expect(report.proof.status).toBe('match');
    const names = ['A_1', 'a_1_2', 'Île_3', '4', 'edge', 'two'];
    expect(readdirSync(path.join(folder, 'named')).sort()).toEqual(names.map((n) => `town_${n}.tif`).sort());
    const tiles = against('named', names, { cut: true, around: 0 });
    for (const tile of tiles) expect(tile).toMatchObject({ box: true, wrong: 0, values: 0, square: true });
    expect(report.findings).toContainEqual(expect.objectContaining({ code: 'areas-empty', count: 1 }));
    const [row] = report.account;
    expect(row!.missing).toBe(0);
    expect(row!.crossed + row!.left.reduce((n, l) => n + l.count, 0)).toBe(900 * 700);
    // areas overlap, so that fewer pixels of the source crossed than tiles hold
    expect(row!.crossed).toBeLessThan(tiles.reduce((n, t) => n + t.pixels, 0));
    expect(row!.crossed).toBeGreaterThan(Math.max(...tiles.map((t) => t.pixels)));
  });

  it('may keep the boxes of the areas, and some pixels around them', () => {
    const report = split('boxes', '.tif', 'beyond=stays', 'overlap=6');
    expect(report.error?.message).toBe(undefined);
    expect(report.proof.status).toBe('match');
    const tiles = against('boxes', ['1', '2', '3', '4', '5', '7'], { cut: false, around: 6 });
    for (const tile of tiles) expect(tile).toMatchObject({ box: true, wrong: 0, values: 0, square: true });
    // every pixel of every file is compared, those twice that two of them hold
    expect(report.proof.pixels.compared).toBe(tiles.reduce((n, t) => n + t.pixels, 0));
  });

  it.each(['.jpg', '.png', '.jp2'])('is proved in %s as well', (extension) => {
    const report = split(`in${extension.replace('.', '-')}`, extension, 'names=sheet');
    expect(report.error?.message).toBe(undefined);
    expect(report.proof.status).toBe('match');
    expect(report.account[0]!.missing).toBe(0);
  });

  it('says what is wrong when it cannot be split so', () => {
    const fields = split('no-field', '.tif', 'names=Sheet');
    expect(fields.error?.message).toContain('no such field. It has sheet.');
    const none = pontrel(
      'convert',
      path.join(folder, 'ground.tif'),
      path.join(folder, 'no.tif'),
      '--from',
      'EPSG:2193',
      '--option',
      'split=areas',
    ).json as Report;
    expect(none.error?.message).toContain('outline=FILE');
    expect(existsSync(path.join(folder, 'no.tif'))).toBe(false);
  });
});
