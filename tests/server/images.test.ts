import { spawnSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { DeliverableForecast, RunProof } from '@pontrel/contract/crossing';
import type { PictureSizes, PieceView, PixelValues } from '@pontrel/contract/pictures';
import { resolutionAt } from '@pontrel/contract/tile-grid';
import type { ImageRunProof } from '@pontrel/core/content/raster/proof';
import type { Deliverable, Recipe } from '@pontrel/core/crossing/recipe';
import { MARKS, place } from '@pontrel/demo/town';
import { inScan } from '@pontrel/demo/plan-scan';
import { readText } from '../../packages/core/test/drawing';
import { QUAY, temporaryFolder, TestServer } from './client';

const demo = path.dirname(QUAY);
const file = (name: string): [string, Uint8Array] => [name, readFileSync(path.join(demo, name))];
const TILES = [1, 2, 3, 4].map((k) => `ortho_2025_${k}.tif`);
const ORTHO = 'ortho_2025_{1..4}.tif';
/** Where the demo's orthophoto begins, and its pixels. */
const [WEST, NORTH, PIXEL] = [1_463_840, 5_101_860, 0.25];

/** What libvips reads at a pixel of a file. */
async function pixelOf(name: string, x: number, y: number): Promise<number[]> {
  const { data } = await sharp(path.join(demo, name))
    .extract({ left: x, top: y, width: 1, height: 1 })
    .raw()
    .toBuffer({ resolveWithObject: true });
  return [...data];
}

type Ring = readonly (readonly (number | undefined)[])[];

/** Area and length of a ring, in its own units. */
const areaOf = (ring: Ring): number =>
  Math.abs(ring.reduce((n, p, k) => n + (ring.at(k - 1)![0]! * p[1]! - p[0]! * ring.at(k - 1)![1]!) / 2, 0));
const lengthOf = (ring: Ring): number =>
  ring.reduce((n, p, k) => n + Math.hypot(p[0]! - ring.at(k - 1)![0]!, p[1]! - ring.at(k - 1)![1]!), 0);

const image = (id: string, change: Partial<Deliverable> = {}): Deliverable => ({
  id,
  name: `Image ${id}`,
  format: 'geotiff',
  crs: 'EPSG:2193',
  grouping: 'kind',
  ...change,
  image: { resampling: 'bilinear', aligned: true, sources: [ORTHO], ...change.image },
});

describe('images in a crossing', () => {
  const { folder, remove } = temporaryFolder();
  let server: TestServer;
  let id: string;
  beforeAll(async () => {
    server = await TestServer.start(path.join(folder, 'data'));
    const files = [...TILES, 'aerial_1962.jpg', 'aerial_1962.jgw', 'quay_plan_1938.tif', 'elevation_2m.tif', 'quay-design.dxf'];
    id = (await server.upload('api/crossings', ...files.map(file))).body.id;
    await server.until(id, (s) => s.sources.length === 5 && s.jobs.length === 0);
  });
  afterAll(async () => {
    await server.stop();
    remove();
  });
  const source = async (name: string) => (await server.state(id)).sources.find((s) => s.name === name)!;
  const change = async (how: (recipe: Recipe) => void) => {
    const { recipe, revision } = await server.state(id);
    how(recipe);
    const answer = await server.call('PUT', `api/crossings/${id}/recipe`, { recipe, revision });
    expect(answer.status).toBe(200);
  };
  const forecastOf = async (deliverable: string): Promise<DeliverableForecast> =>
    (await server.call<DeliverableForecast[]>('GET', `api/crossings/${id}/forecasts`)).body.find((f) => f.deliverable === deliverable)!;
  const run = async (deliverable: string): Promise<RunProof & { proof: ImageRunProof }> => {
    await server.call('POST', `api/crossings/${id}/runs`, { deliverable });
    const state = await server.until(
      id,
      (s) => s.runs.some((r) => r.deliverable === deliverable && r.current) || s.jobs.some((j) => j.status === 'failed'),
    );
    expect(state.jobs.filter((j) => j.status === 'failed').map((j) => j.message)).toEqual([]);
    const { id: made } = state.runs.find((r) => r.deliverable === deliverable)!;
    return (await server.call<RunProof>('GET', `api/runs/${made}`)).body as RunProof & { proof: ImageRunProof };
  };

  it('takes tiles in as one source, tells of their overlaps and brightness, and places what states its system', async () => {
    const { images, findings, crs } = await source(ORTHO);
    expect(images!.members.map((m) => [m.name, m.info.width, m.info.height, m.unfit])).toEqual(TILES.map((t) => [t, 1720, 1520, null]));
    expect(crs!.id).toBe('EPSG:2193');
    expect(images!.overlaps.length).toBe(6);
    // what the generator made the second tile darker by
    const [beside] = images!.overlaps.filter((o) => o.a === TILES[0] && o.b === TILES[1]);
    for (const band of beside!.brighter!) expect(band).toBeCloseTo(-15, 0);
    expect(findings.map((f) => f.code)).toEqual(['mosaic-uneven']);
    const state = await server.state(id);
    expect(state.pictures.map((p) => [p.source, p.outlines.length])).toEqual([
      [ORTHO, 4],
      ['elevation_2m.tif', 1],
    ]);
    // a photograph without a system, and a scan without a position, lie nowhere yet
    expect(state.recipe.sources['aerial_1962.jpg']?.placement ?? null).toBeNull();
    expect((await source('quay_plan_1938.tif')).images!.members[0]!.map).toBeNull();
  });

  it('tells the values of a pixel as the file has them', async () => {
    const [x, y] = [700, 900];
    const at = { x: WEST + (x + 0.5) * PIXEL, y: NORTH - (y + 0.5) * PIXEL };
    const { body } = await server.call<PixelValues>('GET', `api/crossings/${id}/pixels?x=${at.x}&y=${at.y}`);
    const [ortho] = body.filter((v) => v.source === ORTHO);
    expect(ortho).toEqual({ source: ORTHO, name: TILES[0], pixel: [x, y], values: await pixelOf(TILES[0]!, x, y) });
  });

  it('prints them below the records where they lie, as another program draws the sheet', async () => {
    const elevation = 'elevation_2m.tif';
    const hidden = (on: boolean): Promise<void> =>
      change((r) => void (r.sources[elevation]!.image = on ? { shown: { hidden: true } } : {}));
    await hidden(true);
    const [scale, dpi] = [600, 144];
    const middle = [WEST + 150, NORTH - 140] as const;
    const layers = (await source('quay-design.dxf')).layers.map((l) => l.profile.name);
    const response = await fetch(new URL(`api/crossings/${id}/map.pdf`, server.address), {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ title: 'Ortho', middle, scale, paper: 'a4', upright: false, without: { 'quay-design.dxf': layers } }),
    });
    await hidden(false);
    const pdf = path.join(folder, 'ortho.pdf');
    writeFileSync(pdf, Buffer.from(await response.arrayBuffer()));
    expect(spawnSync('pdftotext', [pdf, '-'], { encoding: 'utf8' }).stdout).toContain(`Below the records: ${ORTHO}`);
    expect(spawnSync('pdftoppm', ['-r', String(dpi), '-png', '-singlefile', pdf, path.join(folder, 'ortho')]).status).toBe(0);
    const sheet = sharp(path.join(folder, 'ortho.png')).removeAlpha();
    // where the map lies on the sheet, points
    const map = { x: 43, y: 43, width: 607, height: 451 };
    const unit = (scale * 0.0254) / 72;
    const mean = async (image: ReturnType<typeof sharp>): Promise<number[]> => {
      // sharp sums up what it read, not what was cut out of it
      const { channels } = await sharp(await image.png().toBuffer()).stats();
      return channels.slice(0, 3).map((c) => c.mean);
    };
    // squares of eight metres: as printed, and as libvips has them in the file
    for (const [x, y] of [
      [110, 100],
      [150, 140],
      [190, 170],
      [120, 172],
    ] as const) {
      const left = (map.x + map.width / 2 + (WEST + x - middle[0]) / unit) * (dpi / 72);
      const top = (map.y + map.height / 2 - (NORTH - y - middle[1]) / unit) * (dpi / 72);
      const side = Math.round((8 / unit) * (dpi / 72));
      const printed = await mean(sheet.clone().extract({ left: Math.round(left), top: Math.round(top), width: side, height: side }));
      const own = await mean(
        sharp(path.join(demo, TILES[0]!)).extract({ left: x / PIXEL, top: y / PIXEL, width: 8 / PIXEL, height: 8 / PIXEL }),
      );
      printed.forEach((v, k) => expect(Math.abs(v - own[k]!)).toBeLessThan(2));
    }
  });

  it('draws tiles in the frame where they belong, and nothing where no image is', async () => {
    const { id: own } = await source(ORTHO);
    const { stamp } = (await server.state(id)).pictures[0]!;
    const z = 15;
    const size = 256 * resolutionAt(z, 1);
    const [tx, ty] = [Math.floor((WEST + 200) / size), Math.floor(-(NORTH - 250) / size)];
    const { bytes, headers } = await server.bytes(`api/crossings/${id}/sources/${own}/picture-tiles/${stamp}/${z}/${tx}/${ty}`);
    expect(headers.get('content-type')).toBe('image/webp');
    const { data, info } = await sharp(bytes).removeAlpha().raw().toBuffer({ resolveWithObject: true });
    expect([info.width, info.height]).toEqual([256, 256]);
    // the middle of the tile is the pixel of the file there, but for the loss of the packing
    const [gx, gy] = [(tx + 0.5) * size, -(ty + 0.5) * size];
    const [px, py] = [(gx - WEST) / PIXEL, (NORTH - gy) / PIXEL];
    const around = await sharp(path.join(demo, TILES[0]!))
      .extract({ left: Math.floor(px) - 3, top: Math.floor(py) - 3, width: 6, height: 6 })
      .stats();
    const at = 3 * (128 * 256 + 128);
    for (let b = 0; b < 3; b++) {
      const { min, max } = around.channels[b]!;
      expect(data[at + b]).toBeGreaterThanOrEqual(min - 12);
      expect(data[at + b]).toBeLessThanOrEqual(max + 12);
    }
    const away = await server.bytes(`api/crossings/${id}/sources/${own}/picture-tiles/${stamp}/${z}/${tx + 500}/${ty}`);
    expect(away.bytes.length).toBeLessThan(100);
  });

  it('says beforehand what a run writes, its size within a quarter, and writes just that', async () => {
    await change((r) => void (r.deliverables = [image('card', { format: 'jpeg', crs: 'EPSG:2126', options: { quality: 80 } })]));
    const { picture } = await forecastOf('card');
    expect(picture).toMatchObject({
      blocked: [],
      info: { bands: 3, sampleType: 'uint8' },
      files: ['image_card.jpg', 'image_card.jgw', 'image_card.prj'],
    });
    const { body: size } = await server.call<PictureSizes>('GET', `api/crossings/${id}/deliverables/card/size`);
    expect(size.curve.length).toBeGreaterThan(4);
    const { body: piece } = await server.call<PieceView>(
      'GET',
      `api/crossings/${id}/deliverables/card/piece?x=900&y=900&width=200&height=150`,
    );
    expect([piece.width, piece.height]).toEqual([200, 150]);
    expect(piece.worst).toBeGreaterThan(0);
    const { run: made, proof, places } = await run('card');
    expect(made.status).toBe('match');
    expect([proof.size.width, proof.size.height]).toEqual([picture!.info.width, picture!.info.height]);
    expect(Math.abs(size.bytes / made.bytes - 1)).toBeLessThan(0.25);
    expect(proof.registration.rms_px).toBeLessThan(0.25);
    expect(places!.filter((p) => p.off).length).toBeGreaterThan(10);
    expect(proof.account.every((row) => row.read === row.crossed + row.left.reduce((n, l) => n + l.count, 0))).toBe(true);
    const report = await server.bytes(`api/runs/${made.id}/report`);
    expect(new TextDecoder().decode(report.bytes)).toContain('Account of pixels');
    const shown = await server.bytes(
      `api/runs/${made.id}/picture-tiles/x/12/${Math.floor((WEST + 300) / 512)}/${Math.floor(-(NORTH - 300) / 512)}`,
    );
    expect(shown.bytes.length).toBeGreaterThan(500);
  });

  it('cuts to the areas of a layer to the pixel, and leaves nothing beyond them', async () => {
    await change((r) => {
      r.sources['quay-design.dxf'] = { placement: { crs: 'EPSG:2193', unit_m: 0.001 }, layers: {} };
      r.deliverables = [image('lots', { area: { kind: 'layer', source: 'quay-design.dxf', layer: 'LEASE-PARCEL' } })];
    });
    const { run: made, proof } = await run('lots');
    expect(made.status).toBe('match');
    const { files } = made;
    expect(files.map((f) => f.name)).toEqual(['image_lots.tif']);
    const inside = proof.account.reduce((n, row) => n + row.crossed, 0);
    // the ground under the pixels that crossed is the ground of the leases, as the drawing has their corners
    const { records } = await readText(readFileSync(QUAY, 'utf8'));
    const rings = records.filter((r) => r.layer === 'LEASE-PARCEL').map((r) => r.parts[0]!);
    const [area, around] = rings.reduce(([m2, m], ring) => [m2 + areaOf(ring) / 1e6, m + lengthOf(ring) / 1e3], [0, 0]);
    expect(area).toBeGreaterThan(1000);
    expect(Math.abs(inside * PIXEL ** 2 - area!)).toBeLessThan((around! * PIXEL) / 4);
    expect(proof.shown.info.alpha).toBe(true);
    expect(proof.shown.empty).toBe(proof.size.width * proof.size.height - inside);
  });

  it('matches the brightness of tiles where it is asked to, in what is written', async () => {
    await change((r) => {
      r.sources[ORTHO]!.image = { adjust: { [TILES[1]!]: [15, 15, 15] } };
      r.deliverables = [image('even', { area: { kind: 'box', box: [1_464_300, 5_101_700, 1_464_330, 5_101_730] } })];
    });
    const { run: made } = await run('even');
    expect(made.status).toBe('match');
    const zip = await server.bytes(`api/runs/${made.id}/zip`);
    expect(zip.status).toBe(200);
    const { body } = await server.call<PieceView>('GET', `api/crossings/${id}/deliverables/even/piece?x=0&y=0&width=8&height=8`);
    const piece = await sharp(Buffer.from(body.written.split(',')[1]!, 'base64'))
      .removeAlpha()
      .raw()
      .toBuffer();
    // the place lies in the second tile alone
    const [x, y] = [(1_464_300 - WEST) / PIXEL - 1480, (NORTH - 5_101_730) / PIXEL];
    const own = await pixelOf(TILES[1]!, x, y);
    expect([...piece.subarray(0, 3)]).toEqual(own.map((v) => v + 15));
  });

  it('refuses an image without a position, and writes it once control points place it', async () => {
    const scan = 'quay_plan_1938.tif';
    await change((r) => void (r.deliverables = [image('scan', { image: { resampling: 'bilinear', sources: [scan] } })]));
    expect((await forecastOf('scan')).problem).toMatch(/quay_plan_1938\.tif does not say where it lies\..*control points/);
    await change((r) => {
      const pairs = MARKS.map(({ mark, u, v }) => {
        const [x, y] = inScan(place(u, v));
        return { from: [x, -y] as [number, number], to: place(u, v), name: mark };
      });
      r.sources[scan] = { placement: { crs: 'EPSG:2193', unit_m: null, fit: { kind: 'similarity', pairs } }, layers: {} };
    });
    const { picture } = await forecastOf('scan');
    // 1:2000 at 200 dpi, as the scan was made
    expect(picture!.pixelSize[0]).toBeCloseTo((2000 * 0.0254) / 200, 4);
    expect((await run('scan')).run.status).toBe('match');
  });

  it('saves a crossing with its images and runs, and opens it elsewhere as it was', async () => {
    const saved = await server.bytes(`api/crossings/${id}/saved`);
    const { body } = await server.upload('api/crossings', ['copy.zip', saved.bytes]);
    const before = await server.state(id);
    const copy = await server.until(body.id, (s) => s.sources.length === before.sources.length && s.jobs.length === 0);
    expect(copy.sources.find((s) => s.name === ORTHO)!.images!.members.map((m) => m.name)).toEqual(TILES);
    expect(copy.pictures.map((p) => p.source)).toEqual(before.pictures.map((p) => p.source));
    expect(copy.runs.map((r) => [r.name, r.status])).toEqual(before.runs.map((r) => [r.name, r.status]));
  });
});
