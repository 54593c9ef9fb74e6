import { readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { strToU8, zipSync } from 'fflate';
import sharp from 'sharp';
import { describe, expect, it } from 'vitest';
import { Findings } from '@pontrel/core/model/finding';
import { groundOverlay } from '@pontrel/core/formats/ground-overlay/index';
import { fileSource } from '@pontrel/host-node/files';
import { registerNodeImageEngine } from '@pontrel/host-node/image-engine';
import { temporaryFolder } from '../server/client';
import { pontrel, python } from './python';

/** Pyramids by regions, written and read, against Python's own tools. Source: OGC 07-147r2 (KML 2.2). */
registerNodeImageEngine();
const { folder } = temporaryFolder();
const [WEST, NORTH, PIXEL] = [171.25, -44.25, [2e-6, 1.5e-6]] as const;

/** A textured picture in degrees. */
async function source(name: string, width: number, height: number): Promise<string> {
  const file = path.join(folder, `${name}.png`);
  await sharp({ create: { width, height, channels: 3, background: 'grey', noise: { type: 'gaussian', mean: 128, sigma: 45 } } })
    .removeAlpha()
    .png()
    .toFile(file);
  writeFileSync(
    path.join(folder, `${name}.pgw`),
    [PIXEL[0], 0, 0, -PIXEL[1], WEST + PIXEL[0] / 2, NORTH - PIXEL[1] / 2].map((v) => v.toFixed(12)).join('\n'),
  );
  return file;
}

describe('a pyramid by regions', () => {
  it.each([
    ['several levels, which end within a tile', 1301, 777],
    ['one tile', 200, 100],
    ['whole tiles', 1024, 512],
    ['a narrow strip', 2050, 3],
  ])('has the very pixels, each coarser tile is the mean of the finer ones, and all regions are right: %s', async (_, width, height) => {
    const file = await source(`s${width}`, width, height);
    const out = path.join(folder, `p${width}.kmz`);
    const { json } = pontrel('convert', file, out, '--from', 'EPSG:4326', '--option', 'layout=pyramid');
    expect(json.error?.message).toBe(undefined);
    expect(json.proof.status).toBe('match');
    const facts = python<{ first: string; faults: string[]; levels: number; tiles: number; off: number[] }>('pyramid_facts.py', {
      file: out,
      source: { file, west: WEST, north: NORTH, pixel: PIXEL },
    });
    expect(facts.first).toBe('doc.kml');
    expect(facts.faults).toEqual([]);
    expect(facts.levels).toBe(1 + Math.ceil(Math.log2(Math.max(1, Math.max(width, height) / 256))));
    for (const off of facts.off) expect(off).toBe(0);
  });

  it('is cut to an area and may be of JPEG; tiles in which nothing is seen are left out', async () => {
    const file = await source('cut', 1400, 900);
    const ring = [
      [0, 0],
      [900, 100],
      [300, 850],
      [0, 0],
    ].map(([x, y]) => [WEST + x! * PIXEL[0], NORTH - y! * PIXEL[1]]);
    const outline = path.join(folder, 'outline.geojson');
    writeFileSync(outline, JSON.stringify({ type: 'Feature', properties: {}, geometry: { type: 'Polygon', coordinates: [ring] } }));
    const out = path.join(folder, 'cut.kmz');
    const options = ['layout=pyramid', 'picture=jpeg', `outline=${outline}`].flatMap((o) => ['--option', o]);
    const { json } = pontrel('convert', file, out, '--from', 'EPSG:4326', ...options);
    expect(json.error?.message).toBe(undefined);
    expect(json.proof.status).toBe('match');
    const [row] = json.account as { read: number; crossed: number; missing: number; left: { count: number }[] }[];
    expect(row!.missing).toBe(0);
    expect(row!.crossed + row!.left.reduce((n, l) => n + l.count, 0)).toBe(1400 * 900);
  });
});

describe('a pyramid that another program made', () => {
  python('pyramid_facts.py', { make: ['flat', 'folders', 'hole', 'gone', 'stacked'], folder });

  const opened = async (name: string) => {
    const findings = new Findings();
    const file = await fileSource(path.join(folder, `${name}.kmz`));
    expect(await groundOverlay.images.holds!(file)).toBe(true);
    return { image: await groundOverlay.images.open(file, findings), told: findings.list() };
  };
  const whole = (name: string): Uint8Array => readFileSync(path.join(folder, `${name}.kmz.raw`));

  /** Pixels of the read picture that are not those of the one that it was made of, by whether they have a value. */
  const off = async (name: string): Promise<{ empty: number; wrong: number }> => {
    const { image } = await opened(name);
    expect([image.info.width, image.info.height]).toEqual([160, 96]);
    // windows that begin and end anywhere
    let [empty, wrong] = [0, 0];
    const wanted = whole(name);
    for (const [x, y, width, height] of [
      [0, 0, 100, 50],
      [100, 0, 60, 50],
      [0, 50, 160, 46],
    ] as const) {
      const raster = await image.read({ x, y, width, height });
      for (let i = 0; i < width * height; i++) {
        const at = 3 * ((y + Math.floor(i / width)) * 160 + x + (i % width));
        if (raster.valid && !raster.valid[i]) empty++;
        else if ([0, 1, 2].some((b) => raster.data[4 * i + b] !== wanted[at + b])) wrong++;
      }
    }
    return { empty, wrong };
  };

  it.each(['flat', 'folders'])('is one picture of all of its finest tiles: %s', async (name) => {
    expect(await off(name)).toEqual({ empty: 0, wrong: 0 });
    const { image } = await opened(name);
    const [x0, dx, , y0, , dy] = image.where.grid!.map;
    expect([x0, y0]).toEqual([171.2, -44.3]);
    expect(dx).toBeCloseTo(1e-5, 12);
    expect(dy).toBeCloseTo(-1e-5, 12);
  });

  it('says where only a coarse tile shows something, and what it leads to that is not there', async () => {
    expect(await off('hole')).toEqual({ empty: 64 * 64, wrong: 0 });
    expect((await opened('hole')).told).toContainEqual(expect.objectContaining({ code: 'tiles-smaller-only', count: 1 }));
    expect((await opened('gone')).told).toContainEqual(expect.objectContaining({ code: 'overlay-missing', count: 1 }));
  });

  it('is none where what it leads to are records, which are read as such', async () => {
    const kml = (inner: string): Uint8Array => strToU8(`<kml xmlns="http://www.opengis.net/kml/2.2"><Document>${inner}</Document></kml>`);
    const file = path.join(folder, 'records.kmz');
    const mark = '<Placemark><name>a</name><Point><coordinates>171,-44</coordinates></Point></Placemark>';
    writeFileSync(
      file,
      zipSync({ 'doc.kml': kml('<NetworkLink><Link><href>more.kml</href></Link></NetworkLink>'), 'more.kml': kml(mark) }),
    );
    expect(await groundOverlay.images.holds!(await fileSource(file))).toBe(false);
    expect(pontrel('inspect', file).json.sources[0].format).toBe('kml');
  });

  it('of pictures over each other is no picture: the first is read, and the other told', async () => {
    const { image, told } = await opened('stacked');
    expect([image.info.width, image.info.height]).toEqual([64, 64]);
    expect(told).toContainEqual(expect.objectContaining({ code: 'image-pages', count: 1 }));
  });
});
