import { readFile } from 'node:fs/promises';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { CrossingState, DeriveRequest, FaultList, LongProfileView } from '@pontrel/contract/crossing';
import type { Job } from '@pontrel/contract/job';
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
});
