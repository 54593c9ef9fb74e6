import { copyFileSync, existsSync, mkdirSync, readdirSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { describe, expect, it } from 'vitest';
import { runWithImages } from '@pontrel/core/crossing/drawing-images';
import { EMPTY_RECIPE, type Recipe } from '@pontrel/core/crossing/recipe';
import { dxf } from '@pontrel/core/formats/dxf/index';
import type { WriteContext } from '@pontrel/core/formats/format';
import { fileImage } from '@pontrel/host-node/file-image';
import { folderAt } from '@pontrel/host-node/files';
import { registerNodeImageEngine } from '@pontrel/host-node/image-engine';
import { temporaryFolder } from '../server/client';
import { gather, sourceOf } from './cross-file';
import { pontrel, python } from './python';

/** A drawing that shows an image below its records, read by ezdxf. */
registerNodeImageEngine();
const { folder } = temporaryFolder();
const [W, N, PIXEL, COLUMNS, ROWS] = [1_463_000, 5_102_000, 0.5, 420, 330];
python('make_ground.py', {
  pictures: ['left', 'right'].map((stem, k) => ({
    kind: 'texture',
    stem: `${folder}/${stem}`,
    size: [COLUMNS, ROWS],
    origin: [W + 150 * k, N],
    pixel: [PIXEL, PIXEL],
    seed: 8 + k,
  })),
});
const lines = path.join(folder, 'lines.geojson');
writeFileSync(
  lines,
  JSON.stringify({
    type: 'FeatureCollection',
    crs: { type: 'name', properties: { name: 'urn:ogc:def:crs:EPSG::2193' } },
    features: [10, 60, 150].map((x) => ({
      type: 'Feature',
      properties: { name: `line ${x}` },
      geometry: {
        type: 'LineString',
        coordinates: [
          [W + x, N - 20],
          [W + x + 30, N - 90],
        ],
      },
    })),
  }),
);

interface Read {
  errors: string[];
  pictures: {
    number: number;
    layer: string;
    file: string;
    size: number[];
    file_size: number[];
    upper_left: number[];
    lower_right: number[];
    shown: boolean;
  }[];
  others: number;
  extent: [number, number][];
}

const written = (name: string, to: string, ...options: string[]) => {
  mkdirSync(path.join(folder, name));
  const out = path.join(folder, name, 'site.dxf');
  const inputs = [lines, path.join(folder, 'left.tif'), path.join(folder, 'right.tif')];
  const { json } = pontrel('convert', ...inputs, out, '--from', 'EPSG:2193', '--to', to, ...options);
  expect(json.error?.message).toBe(undefined);
  return { json, read: python<Read>('read_below.py', { file: out }) };
};

describe('a drawing with an image below its records', () => {
  it.each([
    ['R2010', 'jpeg', 'site_image.jpg'],
    ['R2000', 'png', 'site_image.png'],
    ['R2018', 'tiff', 'site_image.tif'],
  ])('is sound in %s, and shows a %s before all else, in its place', (version, packed, file) => {
    const { json, read } = written(version, 'EPSG:2193', '--option', `packed=${packed}`, '--option', `version=${version}`);
    expect(json.proof.status).toBe('match');
    expect(json.proof.below).toMatchObject([{ status: 'match', size: { width: COLUMNS + 300, height: ROWS } }]);
    expect(json.proof.records).toEqual({ in: 3, out: 3 });
    expect(read.errors).toEqual([]);
    expect(read.pictures).toEqual([
      {
        number: 0,
        layer: 'IMAGES',
        file,
        size: [COLUMNS + 300, ROWS],
        file_size: [COLUMNS + 300, ROWS],
        upper_left: [W, N],
        lower_right: [W + (COLUMNS + 300) * PIXEL, N - ROWS * PIXEL],
        shown: true,
      },
    ]);
    expect(read.others).toBe(3);
    // it opens at the right place
    expect(read.extent).toEqual([
      [W, N - ROWS * PIXEL],
      [W + (COLUMNS + 300) * PIXEL, N],
    ]);
  });

  it('shows it in tiles, warped into another system, with the account of every pixel', () => {
    const { json, read } = written('tiles', 'EPSG:2126', '--option', 'split=2x2', '--quality', '92');
    expect(json.proof.status).toBe('match');
    expect(read.errors).toEqual([]);
    expect(read.pictures.map((p) => p.number)).toEqual([0, 1, 2, 3]);
    for (const p of read.pictures) expect(p.file_size).toEqual(p.size);
    const [below] = json.proof.below as { account: { read: number; crossed: number; missing: number; left: { count: number }[] }[] }[];
    for (const row of below!.account) {
      expect(row.missing).toBe(0);
      expect(row.crossed + row.left.reduce((n, l) => n + l.count, 0)).toBe(row.read);
    }
    // read again as a source, it says where its pictures lie, and its lines are the same
    const again = pontrel('inspect', path.join(folder, 'tiles', 'site.dxf')).json;
    expect(again.sources[0].layers.flatMap((l: { count: number }) => l.count).reduce((a: number, b: number) => a + b)).toBe(7);
  });

  it('is made by a saved recipe as well, as an image by itself is, of a mosaic that is known by its name', () => {
    const own = path.join(folder, 'recipe');
    mkdirSync(own);
    const tiles = ['left', 'right'].map((name, k) => {
      for (const extension of ['.tif', '.tfw'])
        copyFileSync(path.join(folder, name + extension), path.join(own, `tile_${k + 1}${extension}`));
      return path.join(own, `tile_${k + 1}.tif`);
    });
    const placement = { crs: 'EPSG:2193', unit_m: null };
    const image = { resampling: 'bilinear' as const, sources: ['tile_{1..2}.tif'] };
    const base = { crs: 'EPSG:2193', grouping: 'layer' as const, image };
    const recipe: Recipe = {
      ...EMPTY_RECIPE,
      frame: { crs: 'EPSG:2193' },
      sources: {
        'lines.geojson': { placement, layers: {} },
        'tile_{1..2}.tif': { placement, layers: {}, image: { order: ['tile_2.tif', 'tile_1.tif'], adjust: { 'tile_1.tif': [3, 3, 3] } } },
      },
      deliverables: [
        { ...base, id: 'a', name: 'Plan', format: 'dxf' },
        { ...base, id: 'b', name: 'Backdrop', format: 'geotiff' },
      ],
    };
    const file = path.join(own, 'rules.json');
    writeFileSync(file, JSON.stringify(recipe));
    const out = path.join(own, 'out');
    const { json, status } = pontrel('convert', lines, ...tiles, out, '--recipe', file);
    expect(json.error?.message).toBe(undefined);
    expect(status).toBe(0);
    expect(json.proof.status).toBe('match');
    expect(json.findings.filter((f: { code: string }) => f.code.startsWith('recipe'))).toEqual([]);
    expect(readdirSync(out).sort()).toEqual(['backdrop', 'plan']);
    expect(readdirSync(path.join(out, 'plan')).sort()).toEqual(['plan.dxf', 'plan_image.jgw', 'plan_image.jpg', 'plan_image.prj']);
    const rows = (json.account as { source: string; layer: string; crossed: number; left: { reason: string; count: number }[] }[]).filter(
      (r) => r.source === 'tile_{1..2}.tif',
    );
    // the second tile lies on top: only the first one is covered
    expect(rows.map((r) => [r.layer, r.left.find((l) => l.reason === 'covered')?.count ?? 0])).toEqual([
      ['tile_2.tif', 0],
      ['tile_1.tif', (COLUMNS - 300) * ROWS],
    ]);
    // a tile of another system is none of the mosaic
    const other = pontrel('convert', path.join(out, 'backdrop', 'backdrop.tif'), path.join(own, 'tile_3.tif'), '--to', 'EPSG:2126').json;
    expect(other.proof.status).toBe('match');
    pontrel('convert', tiles[0]!, path.join(own, 'tile_4.tif'), '--from', 'EPSG:2193');
    const mixed = pontrel(
      'convert',
      path.join(own, 'tile_3.tif'),
      path.join(own, 'tile_4.tif'),
      path.join(own, 'no'),
      '--recipe',
      file,
    ).json;
    expect(mixed.error.code).toBe('mosaic-systems');
  });

  it('says so where the format, or its version, cannot show one', () => {
    const none = pontrel('convert', lines, path.join(folder, 'left.tif'), path.join(folder, 'no.shp'), '--from', 'EPSG:2193').json;
    expect(none.error.message).toContain('both into a drawing (.dxf)');
    const old = pontrel(
      'convert',
      lines,
      path.join(folder, 'left.tif'),
      path.join(folder, 'no.dxf'),
      '--from',
      'EPSG:2193',
      '--option',
      'version=R12',
    ).json;
    expect(old.error.message).toContain('cannot show images');
    expect(existsSync(path.join(folder, 'no.dxf'))).toBe(false);
  });
});

describe('a writer of drawings', () => {
  const recipe: Recipe = {
    ...EMPTY_RECIPE,
    frame: { crs: 'EPSG:2193' },
    sources: { 'left.tif': { placement: { crs: 'EPSG:2193', unit_m: null }, layers: {} } },
  };
  let count = 0;

  /** What the proof says when the writer is told something else of the pictures than what is so. */
  async function statusWith(change: (shown: NonNullable<WriteContext['shown']>) => WriteContext['shown']): Promise<string> {
    const own = path.join(folder, `writer-${count++}`);
    mkdirSync(own);
    const write = dxf.features.write!;
    const { create } = write;
    write.create = (to, sets, context) => create(to, sets, { ...context, shown: change(context.shown!) });
    const deliverable = {
      id: 'd',
      name: 'site',
      format: 'dxf',
      crs: 'EPSG:2193',
      grouping: 'layer' as const,
      image: { resampling: 'bilinear' as const },
    };
    try {
      const source = sourceOf(await gather(lines));
      const sources = { ...recipe.sources, [source.name]: { placement: { crs: 'EPSG:2193', unit_m: null }, layers: {} } };
      const image = { source: 'left.tif', name: 'left.tif', file: path.join(folder, 'left.tif'), format: 'geotiff' };
      const whole = { ...recipe, sources, deliverables: [deliverable] };
      return (await runWithImages(whole, deliverable, [source], [fileImage(image)], folderAt(own), {}, {})).proof.status;
    } finally {
      write.create = create;
    }
  }

  it('is believed when it shows the picture where it lies', async () => expect(await statusWith((shown) => shown)).toBe('match'));

  it.each([
    ['leaves it out', (_: NonNullable<WriteContext['shown']>) => []],
    ['shows it twice', (shown: NonNullable<WriteContext['shown']>) => [...shown, ...shown]],
    ['names another file', (shown: NonNullable<WriteContext['shown']>) => shown.map((s) => ({ ...s, file: 'left.tif' }))],
    [
      'puts it a fiftieth of a pixel off',
      (shown: NonNullable<WriteContext['shown']>) =>
        shown.map((s) => ({ ...s, map: [s.map[0] + 0.02 * PIXEL, ...s.map.slice(1)] as unknown as typeof s.map })),
    ],
    ['says another size', (shown: NonNullable<WriteContext['shown']>) => shown.map((s) => ({ ...s, width: s.width - 1 }))],
  ])('is not believed when it %s', async (_, change) => expect(await statusWith(change)).not.toBe('match'));
});
