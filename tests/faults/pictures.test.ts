import { readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import sharp from 'sharp';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import type { Deliverable } from '@pontrel/core/crossing/recipe';
import { QUAY, temporaryFolder, TestServer } from '../server/client';

const PRELOAD = fileURLToPath(new URL('./failing-writes.mjs', import.meta.url));
const TILES = [1, 2, 3, 4].map((k) => `ortho_2025_${k}.tif`);
const ORTHO = 'ortho_2025_{1..4}.tif';

/** The systems of formats that have one of their own. */
const OWN: Record<string, string> = { mbtiles: 'EPSG:3857', 'ground-overlay': 'EPSG:4326' };

const deliverable = (id: string, format: string, source: string): Deliverable => ({
  id,
  name: id,
  format,
  crs: OWN[format] ?? 'EPSG:2126',
  grouping: 'kind',
  image: { resampling: 'bilinear', aligned: true, sources: [source] },
});

describe('pictures', () => {
  let data: string, flag: string, remove: () => void;
  let server: TestServer | null = null;
  beforeEach(() => {
    const made = temporaryFolder();
    [data, flag, remove] = [path.join(made.folder, 'data'), path.join(made.folder, 'failing'), made.remove];
  });
  afterEach(async () => {
    await server?.stop();
    remove();
  });

  const change = async (
    own: TestServer,
    id: string,
    deliverables: Deliverable[],
    placed: Record<string, { crs: string; unit_m: null }> = {},
  ) => {
    const { recipe, revision } = await own.state(id);
    recipe.deliverables = deliverables;
    for (const [name, placement] of Object.entries(placed)) recipe.sources[name] = { layers: {}, placement };
    expect((await own.call('PUT', `api/crossings/${id}/recipe`, { recipe, revision })).status).toBe(200);
  };
  const written = (): string[] =>
    readdirSync(path.join(data, 'crossings'), { recursive: true })
      .map(String)
      .filter((f) => /town\.|\.partial/.test(f));

  it.each([
    ['cancelled', 'mbtiles'],
    ['killed', 'geotiff'],
  ])(
    'leave nothing half done when a run is %s: %s',
    async (how, format) => {
      let own = (server = await TestServer.start(data));
      const files = TILES.map((name): [string, Uint8Array] => [name, readFileSync(path.join(path.dirname(QUAY), name))]);
      const { id } = (await own.upload('api/crossings', ...files)).body;
      await own.until(id, (s) => s.sources.length === 1 && s.jobs.length === 0);
      await change(own, id, [deliverable('town', format, ORTHO)]);
      await own.call('POST', `api/crossings/${id}/runs`, { deliverable: 'town' });
      // in the midst of it, with bytes on the disk
      await expect.poll(written, { timeout: 60_000 }).not.toEqual([]);
      const { jobs } = await own.state(id);
      if (how === 'cancelled') await own.call('POST', `api/jobs/${jobs[0]!.id}/cancel`);
      else {
        await own.stop('SIGKILL');
        own = server = await TestServer.start(data);
      }
      const after = await own.until(id, (s) => s.jobs.every((j) => j.status !== 'running' && j.status !== 'waiting'), 90_000);
      expect(after.runs).toEqual([]);
      expect(after.jobs.map((j) => j.status)).toEqual([how === 'cancelled' ? 'cancelled' : 'interrupted']);
      await expect.poll(written, { timeout: 10_000 }).toEqual([]);
      await own.call('POST', `api/crossings/${id}/runs`, { deliverable: 'town' });
      const again = await own.until(id, (s) => s.runs.length > 0, 120_000);
      expect(again.runs.map((r) => r.status)).toEqual(['match']);
    },
    200_000,
  );

  it.each([3, 11, 37])(
    'on a disk of which every %i th write fails are whole or told in a sentence',
    async (every) => {
      const [width, height] = [700, 500];
      const pixels = Buffer.from(Uint8Array.from({ length: 3 * width * height }, (_, k) => 128 + 100 * Math.sin(k / 500)));
      const tif = await sharp(pixels, { raw: { width, height, channels: 3 } })
        .tiff({ compression: 'none' })
        .toBuffer();
      const world = Buffer.from('0.5\n0\n0\n-0.5\n1463000.25\n5101999.75\n');
      const own = (server = await TestServer.start(data, { env: { NODE_OPTIONS: `--import ${PRELOAD}`, FAILING: flag } }));
      const { id } = (await own.upload('api/crossings', ['town_plan.tif', tif], ['town_plan.tfw', world])).body;
      await own.until(id, (s) => s.sources.length === 1 && s.jobs.length === 0);
      const formats = ['geotiff', 'jpeg', 'geopackage-tiles', 'mbtiles', 'ground-overlay'];
      await change(
        own,
        id,
        formats.map((f) => deliverable(f, f, 'town_plan.tif')),
        { 'town_plan.tif': { crs: 'EPSG:2193', unit_m: null } },
      );
      const said: string[] = [];
      const tell = ({ status, body }: { status: number; body: { error?: { message: string } } }): void => {
        if (status >= 300) said.push(body.error!.message);
      };
      writeFileSync(flag, String(every));
      for (const format of formats) {
        tell(await own.call('POST', `api/crossings/${id}/runs`, { deliverable: format }));
        tell(await own.upload(`api/crossings/${id}/sources`, [`more-${format}.tif`, tif]));
      }
      const state = await own.until(id, (s) => s.jobs.every((j) => j.status !== 'running' && j.status !== 'waiting'), 120_000);
      rmSync(flag);
      said.push(...state.jobs.map((j) => j.message!));
      expect(said.filter((message) => !/^The disk/.test(message))).toEqual([]);
      // with every third write failing nothing can come through
      if (every === 3) expect(said.length).toBeGreaterThan(0);
      for (const { id: run, status } of state.runs) {
        expect(status).toBe('match');
        expect((await own.bytes(`api/runs/${run}/zip`)).status).toBe(200);
      }
      for (const format of formats) await own.call('POST', `api/crossings/${id}/runs`, { deliverable: format });
      const done = await own.until(id, (s) => formats.every((f) => s.runs.some((r) => r.deliverable === f && r.current)), 120_000);
      expect(done.runs.map((r) => r.status).filter((s) => s !== 'match')).toEqual([]);
      expect(written().filter((f) => f.endsWith('.partial'))).toEqual([]);
    },
    300_000,
  );
});
