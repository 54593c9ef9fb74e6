import { createServer } from 'node:net';
import { networkInterfaces } from 'node:os';
import { existsSync, readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { request } from 'node:http';
import MVT from 'ol/format/MVT';
import { python } from '../reference/python';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { resolutionAt, TILE_PIXELS, tileBounds } from '@pontrel/contract/tile-grid';
import { MVT_EXTENT } from '@pontrel/server/tiles/mvt';
import { writeManyLines } from '../../bench/many-lines.mjs';
import { QUAY, SURVEY, temporaryFolder, TestServer } from './client';

const NZTM = { crs: 'EPSG:2193', unit_m: 0.001 };

describe('the server', () => {
  const { folder, remove } = temporaryFolder();
  const data = path.join(folder, 'data');
  let server: TestServer;
  beforeAll(async () => {
    server = await TestServer.start(data, { env: { PONTREL_MAX_UPLOAD_MB: '1' } });
  });
  afterAll(async () => {
    await server.stop();
    remove();
  });

  it('listens on loopback only, and answers to no other name', async () => {
    const { port } = new URL(server.address);
    for (const address of Object.values(networkInterfaces())
      .flat()
      .filter((a) => a && !a.internal && a.family === 'IPv4')) {
      await expect(fetch(`http://${address!.address}:${port}/api/about`)).rejects.toThrow();
    }
    // a name of another site that was made to lead here
    const raw = await new Promise<string>((resolve) => {
      request({ host: '127.0.0.1', port, path: '/api/crossings', headers: { host: 'elsewhere.example' } }, (r) => {
        let text = '';
        r.on('data', (c) => (text += c));
        r.on('end', () => resolve(text));
      }).end();
    });
    expect(raw).toContain('not-local');
  });

  it('answers its own page only, and says of every answer what it is made of', async () => {
    const { host } = new URL(server.address);
    const asked = async (method: string, path: string, headers: Record<string, string>): Promise<number> =>
      new Promise((resolve) => {
        const r = request(`${server.address}${path}`, { method, headers }, (answer) => {
          answer.resume();
          resolve(answer.statusCode!);
        });
        r.end();
      });
    // Fetch Standard, 3.2; Fetch Metadata Request Headers, 2.3
    for (const headers of [
      { origin: 'null' },
      { origin: 'http://elsewhere.example' },
      { origin: 'http://127.0.0.1:1' },
      { origin: `https://${host}` },
      { 'sec-fetch-site': 'cross-site' },
      { 'sec-fetch-site': 'same-site' },
    ] as Record<string, string>[]) {
      expect([headers, await asked('POST', 'api/crossings', headers)]).toEqual([headers, 403]);
      expect([headers, await asked('GET', 'api/crossings', headers)]).toEqual([headers, 403]);
    }
    expect(await asked('GET', 'api/crossings', { origin: `http://${host}`, 'sec-fetch-site': 'same-origin' })).toBe(200);
    // a link on another page leads here as any link does
    expect(await asked('GET', '', { 'sec-fetch-site': 'cross-site' })).toBe(200);
    for (const path of ['', 'api/crossings', 'api/none']) {
      const { headers } = await fetch(`${server.address}${path}`);
      expect(headers.get('content-security-policy')).toMatch(/default-src 'none';script-src 'self';.*frame-ancestors 'none'/);
      expect(headers.get('content-security-policy')).not.toMatch(/script-src[^;]*unsafe/);
      expect(headers.get('x-content-type-options')).toBe('nosniff');
      expect(headers.get('referrer-policy')).toBe('no-referrer');
      expect(headers.get('x-frame-options')).toBe('DENY');
    }
  });

  it('never makes a path of a file name', async () => {
    const { body } = await server.upload('api/crossings', ['../../../escape.dxf', readFileSync(SURVEY)]);
    const state = await server.until(body.id, (s) => s.sources.length > 0);
    expect(state.sources[0]!.name).toBe('escape.dxf');
    const everything = readdirSync(folder, { recursive: true }).map(String);
    expect(everything.some((f) => f.includes('escape'))).toBe(false);
    expect(readdirSync(folder)).toEqual(['data']);
  });

  it('refuses what is no drawing before anything is made of it', async () => {
    const before = (await server.call<unknown[]>('GET', 'api/crossings')).body;
    for (const [name, content, message] of [
      ['plan.dwg', 'AC1032\0\0', /plan\.dwg is a DWG drawing \(line 1.*save the drawing as DXF/],
      ['plan.dxf', 'AC1015\0', /plan\.dxf is a DWG drawing/],
      ['letter.pdf', '%PDF-1.4', /letter\.pdf is a PDF/],
      ['roads.shx', 'x', /roads\.shx: this goes with a \.shp file/],
    ] as const) {
      const { status, body } = await server.upload('api/crossings', [name, content]);
      expect(status).toBe(400);
      expect(body.error!.message).toMatch(message);
    }
    const big = await server.upload('api/crossings', ['big.dxf', new Uint8Array(1_200_000)]);
    expect(big.status).toBe(413);
    expect(big.body.error!.message).toMatch(/big\.dxf is larger than the limit/);
    expect((await server.call<unknown[]>('GET', 'api/crossings')).body).toEqual(before);
    expect(readdirSync(path.join(data, 'uploads'))).toEqual([]);
  });

  it('leaves a crossing as it was when a drawing breaks off, and says where', async () => {
    const before = await server.placed(QUAY, NZTM);
    await server.upload(`api/crossings/${before.id}/sources`, ['cut.dxf', readFileSync(QUAY).subarray(0, 300_000)]);
    const after = await server.until(before.id, (s) => s.jobs.some((j) => j.status === 'failed'));
    expect(after.jobs[0]!.message).toMatch(/cut\.dxf breaks off at line \d+/);
    expect({ ...after, jobs: [], opened: '' }).toEqual({ ...before, jobs: [], opened: '' });
    expect(readdirSync(path.join(data, 'crossings', before.id, 'sources'))).toHaveLength(1);
  });

  it('keeps two windows from overwriting each other’s rules', async () => {
    const state = await server.placed(SURVEY, { crs: 'EPSG:2126', unit_m: 1 });
    const change = { recipe: { ...state.recipe, chord_m: 0.02 }, revision: state.revision };
    expect((await server.call('PUT', `api/crossings/${state.id}/recipe`, change)).status).toBe(200);
    const second = await server.call('PUT', `api/crossings/${state.id}/recipe`, change);
    expect(second.status).toBe(409);
    expect(second.body.error!.message).toMatch(/changed in another window/);
  });

  it('cuts tiles in which an object lies within a pixel of where it was drawn', async () => {
    const state = await server.placed(QUAY, NZTM);
    const page = (
      await server.call<{ records: { id: number; at: number[]; attributes: Record<string, string> }[] }>(
        'GET',
        `api/crossings/${state.id}/sources/${state.sources[0]!.id}/records?layer=BOLLARD&limit=1`,
      )
    ).body;
    const bollard = page.records[0]!;
    const [x, y] = [bollard.at[0]! / 1000, bollard.at[1]! / 1000];
    for (const z of [15, 17, 21]) {
      const resolution = resolutionAt(z, 1);
      const size = TILE_PIXELS * resolution;
      const [tx, ty] = [Math.floor(x / size), Math.floor(-y / size)];
      const { bytes, headers } = await server.bytes(`api/crossings/${state.id}/tiles/${state.tileStamp}/${z}/${tx}/${ty}`);
      expect(headers.get('cache-control')).toContain('immutable');
      const own = new MVT({ layerName: 'tileLayer' }).readFeatures(bytes.buffer as ArrayBuffer).filter((f) => f.getId() === bollard.id);
      const feature = own.find((f) => f.get('kind') === 'point')!;
      // its block, two rings and a line, is drawn with it as soon as that can be seen
      expect(own.length).toBe(0.95 / resolution >= 5 ? 4 : 1);
      expect(feature.get('layer')).toBe('BOLLARD');
      const [gx, gy] = (feature as unknown as { getFlatCoordinates(): number[] }).getFlatCoordinates() as [number, number];
      const [minx, , , maxy] = tileBounds(z, tx, ty, 1);
      expect(Math.abs(minx + (gx / MVT_EXTENT) * size - x)).toBeLessThan(resolution);
      expect(Math.abs(maxy - (gy / MVT_EXTENT) * size - y)).toBeLessThan(resolution);
    }
    const near = (await server.call<{ vertex: number[] }>('GET', `api/crossings/${state.id}/vertex?x=${x + 0.02}&y=${y - 0.01}&reach=0.5`))
      .body;
    expect(near.vertex).toEqual([x, y]);
    const none = await server.bytes(`api/crossings/${state.id}/tiles/${state.tileStamp}/14/0/0`);
    expect(none.bytes.length).toBe(0);
  });

  it('tells which record lies at a place, as shapely finds it, or the nearest one within reach', async () => {
    const shp = path.join(path.dirname(QUAY), 'parcels.shp');
    const parts = ['shp', 'shx', 'dbf', 'prj', 'cpg'].map((e): [string, Uint8Array] => [
      `parcels.${e}`,
      readFileSync(shp.replace(/shp$/, e)),
    ]);
    const { body } = await server.upload('api/crossings', ...parts);
    const state = await server.until(body.id, (s) => s.sources.length === 1 && s.frame !== null);
    const told = python<{ inside: number[][]; elsewhere: { at: number[]; nearest: number; off: number }[] }>('places_in.py', shp);
    const recordAt = async ([x, y]: number[], reach: number): Promise<number | null> =>
      (
        await server.call<{ record: number | null }>(
          'GET',
          `api/crossings/${state.id}/sources/${state.sources[0]!.id}/record-at?layer=parcels&x=${x}&y=${y}&reach=${reach}`,
        )
      ).body.record;
    // records are numbered from 1 in the order of the file
    expect(await Promise.all(told.inside.map((at) => recordAt(at, 0.01)))).toEqual(told.inside.map((_, k) => k + 1));
    expect(told.elsewhere.filter((e) => e.off > 0).length).toBeGreaterThan(20);
    for (const { at, nearest, off } of told.elsewhere) {
      expect(await recordAt(at, off + 0.001)).toBe(nearest + 1);
      if (off > 0.01) expect(await recordAt(at, off - 0.01)).toBeNull();
    }
  });

  it('takes a shapefile with its companions, is placed by its .prj, and tells of those that are missing', async () => {
    const state = await server.placed(QUAY, NZTM);
    await server.call('POST', `api/crossings/${state.id}/runs`, { deliverable: 'out' });
    const { runs } = await server.until(state.id, (s) => s.runs.length === 1);
    const folder = path.join(data, 'crossings', state.id, 'runs', runs[0]!.id, 'files');
    const part = (extension: string): [string, Uint8Array] => [
      `Bollard${extension.toUpperCase()}`,
      readFileSync(path.join(folder, `bollard${extension}`)),
    ];
    const whole = await server.upload('api/crossings', part('.dbf'), part('.shp'), part('.prj'), part('.cpg'));
    const placed = await server.until(whole.body.id, (s) => s.sources.length === 1);
    expect(placed.frame?.id).toBe('EPSG:2193');
    expect(placed.sources[0]!.understood).toBe('Understood as EPSG:2193: content, datum and name agree.');
    expect(placed.sources[0]!.layers[0]!.profile.count).toBe(33);
    expect(placed.frameExtent).not.toBeNull();
    const bare = await server.upload('api/crossings', part('.shp'));
    const unplaced = await server.until(bare.body.id, (s) => s.sources.length === 1);
    expect(unplaced.frame).toBeNull();
    expect(unplaced.sources[0]!.findings.map((f) => f.code).sort()).toEqual(['shp-no-dbf', 'shp-no-prj']);
    // a table alone is one of rows that lie nowhere
    const table = await server.upload('api/crossings', part('.dbf'), part('.cpg'));
    const rows = await server.until(table.body.id, (s) => s.sources.length === 1);
    expect(rows.sources[0]!.layers[0]!.profile).toMatchObject({ count: 33, extent: null, groups: [{ kind: 'none' }] });
  });
});

describe('a server that is stopped in the middle', () => {
  const { folder, remove } = temporaryFolder();
  const data = path.join(folder, 'data');
  const lines = path.join(folder, 'lines.dxf');
  let server: TestServer;
  beforeAll(async () => {
    await writeManyLines(lines, 120_000);
    server = await TestServer.start(data);
  });
  afterAll(async () => {
    await server.stop();
    remove();
  });

  it('starts again with the previous state, says what was interrupted, and offers nothing half-written', async () => {
    const crossing = await server.placed(lines, { crs: 'EPSG:2193', unit_m: 1 });
    await server.call('POST', `api/crossings/${crossing.id}/runs`, { deliverable: 'out' });
    const first = (await server.until(crossing.id, (s) => s.runs.length === 1)).runs[0]!;
    const folderOfRuns = path.join(data, 'crossings', crossing.id, 'runs');

    for (const phase of ['Writing', 'Proving']) {
      await server.call('POST', `api/crossings/${crossing.id}/runs`, { deliverable: 'out' });
      await untilPhase(server, crossing.id, phase);
      expect(readdirSync(folderOfRuns).some((n) => n.endsWith('.partial'))).toBe(true);
      await server.stop('SIGKILL');
      server = await TestServer.start(data);
      expect(server.said.join('\n')).toMatch(/was stopped while Council upload was being written.*Nothing half-written was kept/);
      const state = await server.state(crossing.id);
      expect(state.jobs.filter((j) => j.status === 'interrupted').length).toBeGreaterThan(0);
      expect(state.runs.map((r) => r.id)).toEqual([first.id]);
      expect(state.recipe).toEqual(crossing.recipe);
      expect(readdirSync(folderOfRuns)).toEqual([first.id]);
      const zip = await server.bytes(`api/runs/${first.id}/zip`);
      expect(zip.status).toBe(200);
      expect(String.fromCharCode(...zip.bytes.subarray(0, 2))).toBe('PK');
    }

    // the same in the middle of reading
    await server.upload(`api/crossings/${crossing.id}/sources`, ['more.dxf', readFileSync(lines)]);
    await untilPhase(server, crossing.id, 'Reading');
    await server.stop('SIGKILL');
    server = await TestServer.start(data);
    const state = await server.state(crossing.id);
    expect(state.sources).toHaveLength(1);
    expect(state.jobs.at(-1)!.message).toMatch(/was reading more\.dxf.*as it was before/);
    expect(readdirSync(path.join(data, 'crossings', crossing.id, 'sources'))).toHaveLength(1);
  });

  it('stops a run on request and keeps nothing of it', async () => {
    const [row] = (await server.call<{ id: string }[]>('GET', 'api/crossings')).body;
    const job = (await server.call<{ id: string }>('POST', `api/crossings/${row!.id}/runs`, { deliverable: 'out' })).body;
    await untilPhase(server, row!.id, 'Writing');
    await server.call('POST', `api/jobs/${job.id}/cancel`);
    const state = await server.until(row!.id, (s) => s.jobs.some((j) => j.id === job.id && j.status === 'cancelled'));
    expect(state.runs).toHaveLength(1);
    expect(readdirSync(path.join(data, 'crossings', row!.id, 'runs')).filter((n) => n.endsWith('.partial'))).toEqual([]);
  });

  it('deletes a crossing with all of its files', async () => {
    const [row] = (await server.call<{ id: string }[]>('GET', 'api/crossings')).body;
    await server.discard(row!.id);
    expect(existsSync(path.join(data, 'crossings', row!.id))).toBe(false);
    expect((await server.call('GET', `api/crossings/${row!.id}`)).status).toBe(404);
  });
});

describe('a port that is taken', () => {
  it('makes it take the next free one, said aloud', async () => {
    const { folder, remove } = temporaryFolder();
    const blocker = createServer().listen(0, '127.0.0.1');
    await new Promise((resolve) => blocker.once('listening', resolve));
    const { port } = blocker.address() as { port: number };
    const server = await TestServer.start(folder, { port });
    expect(server.said[0]).toBe(`Port ${port} is taken; trying ${port + 1}.`);
    await server.stop();
    blocker.close();
    remove();
  });
});

/** Follows the event stream until a job of the crossing is in a phase. */
async function untilPhase(server: TestServer, crossing: string, phase: string): Promise<void> {
  const response = await fetch(new URL('api/events', server.address));
  const decoder = new TextDecoder();
  for await (const chunk of response.body!) {
    for (const [, json] of decoder.decode(chunk as Uint8Array).matchAll(/data: (.*)\n\n/g)) {
      const event = JSON.parse(json!) as { type: string; job?: { crossing: string; phase: string; status: string } };
      if (event.job?.crossing === crossing && event.job.phase === phase && event.job.status === 'running') return;
      if (event.job?.crossing === crossing && event.job.status === 'done') throw new Error(`It was done before it was seen ${phase}.`);
    }
  }
}
