import { spawnSync } from 'node:child_process';
import { readFile, writeFile } from 'node:fs/promises';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { CrossingState, DeriveRequest, FaultList, LongProfileView } from '@pontrel/contract/crossing';
import type { Job } from '@pontrel/contract/job';
import type { AccountRow } from '@pontrel/core/content/account';
import { feature, featuresOf, POINT } from '../odd/files';
import { QUAY, temporaryFolder, TestServer } from './client';

const ELEVATION = 'packages/demo/data/elevation_2m.tif';

describe('records worked out of layers, over the HTTP API', () => {
  const { folder, remove } = temporaryFolder();
  let server: TestServer;
  let id: string;
  beforeAll(async () => {
    server = await TestServer.start(`${folder}/data`);
    const { body } = await server.upload(
      'api/crossings',
      ['quay-design.dxf', await readFile(QUAY)],
      ['elevation_2m.tif', await readFile(ELEVATION)],
    );
    id = body.id;
    await server.until(id, (s) => s.sources.length === 2);
  });
  afterAll(async () => {
    await server.stop();
    remove();
  });

  const request = (more: Partial<DeriveRequest>): DeriveRequest => ({
    operation: 'drape',
    name: 'Bollards',
    roles: {
      records: [{ source: 'quay-design.dxf', layer: 'BOLLARD' }],
      surface: [{ source: 'elevation_2m.tif', layer: 'elevation_2m.tif' }],
    },
    settings: {},
    ...more,
  });
  const derive = (more: Partial<DeriveRequest> = {}): Promise<{ status: number; body: Job & { error?: { code: string } } }> =>
    server.call('POST', `api/crossings/${id}/derived`, request(more));
  const change = async (how: (state: CrossingState) => CrossingState['recipe']): Promise<void> => {
    const state = await server.state(id);
    await server.call('PUT', `api/crossings/${id}/recipe`, { revision: state.revision, recipe: how(state) });
  };
  const placed = (crs: string): Promise<void> =>
    change(({ recipe }) => ({
      ...recipe,
      frame: { crs },
      sources: { ...recipe.sources, 'quay-design.dxf': { placement: { crs: 'EPSG:2193', unit_m: 0.001 }, layers: {} } },
    }));

  it('are refused with the reason while they cannot be had', async () => {
    const code = async (more: Partial<DeriveRequest> = {}): Promise<string | undefined> => (await derive(more)).body.error?.code;
    await change(({ recipe }) => ({ ...recipe, frame: { crs: 'EPSG:2193' } }));
    expect(await code()).toBe('derive-unplaced');
    await placed('EPSG:4167');
    expect(await code()).toBe('frame-degrees');
    await placed('EPSG:2193');
    expect(await code({ operation: 'guess' })).toBe('operation-unknown');
    expect(await code({ roles: { records: request({}).roles.records! } })).toBe('role-empty');
    expect(await code({ roles: { ...request({}).roles, records: [{ source: 'quay-design.dxf', layer: 'gone' }] } })).toBe('layer-unknown');
    expect((await server.state(id)).sources.length).toBe(2);
  });

  it('come of an elevation model as of a layer, with their faults in the frame, and are old once something has moved', async () => {
    expect((await derive()).status).toBe(200);
    const { sources } = await server.until(id, (s) => s.sources.length === 3);
    const made = sources.find((s) => s.name === 'Bollards.gpkg')!;
    expect(made.derived).toMatchObject({ operation: 'drape', current: true, figures: { records: 33, changed: 33, outside: 0 } });
    const { body } = await server.call<FaultList>('GET', `api/crossings/${id}/sources/${made.id}/faults`);
    expect(body.total).toBe(Object.values(made.derived!.faults).reduce((n, c) => n + c, 0));
    for (const { at } of body.faults)
      expect([at[0] > 1_463_000 && at[0] < 1_465_000, at[1] > 5_100_000 && at[1] < 5_103_000]).toEqual([true, true]);
    expect(
      (await derive({ again: made.id, roles: { ...request({}).roles, records: [{ source: made.name, layer: 'Bollards' }] } })).body.error
        ?.code,
    ).toBe('derive-itself');
    // a source that is no network has no profile
    const none = await server.call<LongProfileView & { error?: { code: string } }>(
      'GET',
      `api/crossings/${id}/sources/${made.id}/profile?from=a&way=downstream`,
    );
    expect([none.status, none.body.error?.code]).toEqual([400, 'no-network']);
    await change(({ recipe }) => ({
      ...recipe,
      sources: { ...recipe.sources, 'quay-design.dxf': { placement: { crs: 'EPSG:2193', unit_m: 0.0009999 }, layers: {} } },
    }));
    expect((await server.state(id)).sources.find((s) => s.id === made.id)!.derived!.current).toBe(false);
    // made again it is under its name in the same place, and of what there is now
    expect((await derive({ again: made.id, name: 'Bollards', settings: { tolerance: 0.5 } })).status).toBe(200);
    const again = await server.until(id, (s) => s.sources.some((own) => own.name === 'Bollards.gpkg' && own.id !== made.id));
    expect(again.sources.length).toBe(3);
    expect(again.sources.find((s) => s.derived)!.derived).toMatchObject({ current: true, settings: { tolerance: 0.5 } });
  });

  it('are in the recipe: the command line works them out of the same files, and delivers the same', async () => {
    const points = (...at: number[]): string =>
      featuresOf(...at.map((x) => feature(`{"type":"Point","coordinates":[${171.2 + x / 1e4},-44.4]}`, `{"id":${x}}`)));
    await server.upload(`api/crossings/${id}/sources`, ['marks-a.geojson', points(1, 2, 3)], ['marks-b.geojson', points(1, 2, 4, 5)]);
    const { sources } = await server.until(id, (s) => s.sources.length === 5);
    const [old, next] = ['marks-a.geojson', 'marks-b.geojson'].map((name) => sources.find((s) => s.name === name)!.id);
    await server.call('POST', `api/crossings/${id}/comparisons`, { old, next, key: 'id', tolerance_m: 0.5 });
    const compared = await server.until(id, (s) => s.sources.length === 6);
    expect(compared.sources.find((s) => s.name === 'marks-a to marks-b.gpkg')!.compared).toMatchObject({
      old: 'marks-a.geojson',
      key: 'id',
    });
    // made of what was made
    await derive({ operation: 'areas', name: 'More', roles: { records: [{ source: 'Bollards.gpkg', layer: 'Bollards' }] } });
    const refused = await server.until(id, (s) => s.jobs.length === 0);
    expect(refused.sources.length).toBe(6);
    await derive({ operation: 'heights', name: 'Higher', roles: { records: [{ source: 'Bollards.gpkg', layer: 'Bollards' }] } });
    await server.until(id, (s) => s.sources.length === 7);
    const deliverable = { id: 'all', name: 'All', format: 'geopackage', crs: 'EPSG:2193', grouping: 'layer' as const };
    await change(({ recipe }) => ({ ...recipe, deliverables: [deliverable] }));
    // what a page says of the rules, or does not, changes nothing of them
    await change(({ recipe }) => ({
      ...recipe,
      sources: Object.fromEntries(Object.entries(recipe.sources).map(([name, { workedOut: _none, ...source }]) => [name, source])),
    }));
    await server.call('POST', `api/crossings/${id}/runs`, { deliverable: 'all' });
    const run = await server.until(id, (s) => s.jobs.length === 0 && s.runs.length === 1);
    const { recipe } = run;
    expect(
      Object.keys(recipe.sources)
        .filter((name) => recipe.sources[name]!.workedOut)
        .sort(),
    ).toEqual(['Bollards.gpkg', 'Higher.gpkg', 'marks-a to marks-b.gpkg']);
    await writeFile(`${folder}/recipe.json`, JSON.stringify(recipe));
    await writeFile(`${folder}/marks-a.geojson`, points(1, 2, 3));
    await writeFile(`${folder}/marks-b.geojson`, points(1, 2, 4, 5));
    const pontrel = (...inputs: string[]) => {
      const words = ['dist/cli.mjs', 'convert', ...inputs, `${folder}/out`, '--recipe', `${folder}/recipe.json`, '--json'];
      return JSON.parse(spawnSync(process.execPath, words, { encoding: 'utf8' }).stdout) as {
        proof: { status: string; records: unknown };
        account: AccountRow[];
        findings: { code: string; message: string }[];
      };
    };
    const told = pontrel(QUAY, ELEVATION, `${folder}/marks-a.geojson`, `${folder}/marks-b.geojson`);
    expect(told.proof).toMatchObject({ status: run.runs[0]!.status, records: run.runs[0]!.records });
    const { body: proved } = await server.call<{ proof: { account: AccountRow[] } }>('GET', `api/runs/${run.runs[0]!.id}`);
    const rows = (account: readonly AccountRow[]) => account.map((r) => [r.source, r.layer, r.read, r.crossed]).sort();
    expect(rows(told.account)).toEqual(rows(proved.proof.account));
    expect(told.account.find((r) => r.source === 'Higher.gpkg')).toMatchObject({ read: 33, crossed: 33 });
    // without a file nothing is made of it, which is said, down to what would have been made of that
    const less = pontrel(QUAY, `${folder}/marks-a.geojson`, `${folder}/marks-b.geojson`);
    expect(less.account.map((r) => r.source)).not.toContain('Bollards.gpkg');
    const missing = less.findings.filter((f) => f.code === 'recipe-source').map((f) => f.message);
    expect(missing.filter((m) => m.includes('worked out of'))).toEqual([
      expect.stringContaining('worked out of elevation_2m.tif,'),
      expect.stringContaining('worked out of Bollards.gpkg,'),
    ]);
  });

  it('are what they were in a crossing that was saved and opened again, with their faults', async () => {
    const { bytes } = await server.bytes(`api/crossings/${id}/saved`);
    const { body } = await server.upload('api/crossings', ['again.crossing.zip', bytes]);
    const [before, after] = [await server.state(id), await server.until(body.id, (s) => s.sources.length === 7 && s.jobs.length === 0)];
    const told = ({ sources }: CrossingState) => sources.map(({ name, compared, derived }) => ({ name, compared, derived }));
    expect(told(after)).toEqual(told(before));
    const faults = async (state: CrossingState) => {
      const own = state.sources.find((s) => s.name === 'Bollards.gpkg')!;
      return (await server.call<FaultList>('GET', `api/crossings/${state.id}/sources/${own.id}/faults`)).body;
    };
    expect(await faults(after)).toEqual(await faults(before));
  });

  it('follow a source in whose place another file is put', async () => {
    const { sources } = await server.state(id);
    const marks = sources.find((s) => s.name === 'marks-b.geojson')!;
    const form = new FormData();
    form.append('file', new Blob([featuresOf(feature(POINT))]), 'marks-c.geojson');
    expect((await server.call('PUT', `api/crossings/${id}/sources/${marks.id}/file`, form)).status).toBe(200);
    const state = await server.until(id, (s) => s.sources.some((own) => own.name === 'marks-c.geojson'));
    expect(state.sources.find((s) => s.name === 'marks-a to marks-b.gpkg')!.compared).toMatchObject({ next: 'marks-c.geojson' });
  });
});
