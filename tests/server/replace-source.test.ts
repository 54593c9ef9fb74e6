import { readFileSync } from 'node:fs';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { CrossingState } from '@pontrel/contract/crossing';
import type { Recipe } from '@pontrel/core/crossing/recipe';
import { python } from '../reference/python';
import { temporaryFolder, TestServer } from './client';

const NZTM = 'EPSG:2193';

describe('another file in the place of a source', () => {
  const { folder, remove } = temporaryFolder();
  let server: TestServer;
  let id: string;
  let ruled: Recipe;
  beforeAll(async () => {
    python('make_revision.py', { folder });
    server = await TestServer.start(`${folder}/data`);
    const state = await server.placed(`${folder}/mains-a.dxf`, { crs: NZTM, unit_m: 1 });
    id = state.id;
    ruled = {
      ...state.recipe,
      sources: {
        'mains-a.dxf': {
          placement: { crs: NZTM, unit_m: 1 },
          layers: { PIPES: { to: 'water_mains' }, VALVES: { fields: { STATE: { to: 'status' }, VALVE_ID: { to: 'asset' } } } },
        },
      },
      deliverables: [{ ...state.recipe.deliverables[0]!, area: { kind: 'source', source: 'mains-a.dxf', plus_m: 100 } }],
    };
    await save(ruled);
  });
  afterAll(async () => {
    await server.stop();
    remove();
  });

  const save = async (recipe: Recipe): Promise<CrossingState> => {
    const { revision } = await server.state(id);
    return (await server.call<CrossingState>('PUT', `api/crossings/${id}/recipe`, { recipe, revision })).body;
  };
  const put = async (...files: [string, string | Uint8Array][]) => {
    const form = new FormData();
    for (const [name, content] of files) form.append('file', new Blob([content as BlobPart]), name);
    const [source] = (await server.state(id)).sources;
    return server.call('PUT', `api/crossings/${id}/sources/${source!.id}/file`, form);
  };
  const run = async (): Promise<CrossingState> => {
    await server.call('POST', `api/crossings/${id}/runs`, { deliverable: 'out' });
    return server.until(id, (s) => s.runs.some((r) => r.current));
  };

  it('keeps all rules, its own and those of others about it, and makes what was run before old', async () => {
    expect((await run()).runs[0]).toMatchObject({ status: 'match', current: true });
    expect((await put(['mains-b.dxf', readFileSync(`${folder}/mains-b.dxf`)])).status).toBe(200);
    const state = await server.until(id, (s) => s.sources[0]!.name === 'mains-b.dxf' && s.jobs.length === 0);
    expect(state.sources).toHaveLength(1);
    expect(state.sources[0]!.replaces).toEqual(['mains-a.dxf']);
    expect(state.recipe.sources).toEqual({ 'mains-b.dxf': ruled.sources['mains-a.dxf'] });
    expect(state.recipe.deliverables[0]!.area).toMatchObject({ source: 'mains-b.dxf' });
    expect(state.runs[0]!.current).toBe(false);
    expect((await run()).runs.at(-1)).toMatchObject({ status: 'match', account: { read: 13, crossed: 13 } });
  });

  it('rules of before the change, as undo brings them back, find it under its name of now', async () => {
    const { recipe } = await save(ruled);
    expect(Object.keys(recipe.sources)).toEqual(['mains-b.dxf']);
    expect(recipe.deliverables[0]!.area).toMatchObject({ source: 'mains-b.dxf' });
  });

  it('a file of the same name with other records makes what was run before old as well', async () => {
    expect((await server.state(id)).runs.at(-1)!.current).toBe(true);
    const before = (await server.state(id)).sources[0]!.id;
    await put(['mains-b.dxf', readFileSync(`${folder}/mains-a.dxf`)]);
    const state = await server.until(id, (s) => s.sources[0]!.id !== before && s.jobs.length === 0);
    expect(state.sources[0]!.name).toBe('mains-b.dxf');
    expect(state.runs.some((r) => r.current)).toBe(false);
  });

  it('several files, and one that cannot be read, leave it as it is', async () => {
    const before = await server.state(id);
    const content = readFileSync(`${folder}/mains-a.dxf`);
    const two = await put(['x.dxf', content], ['y.dxf', content]);
    expect([two.status, two.body.error!.message]).toEqual([400, expect.stringMatching(/2 were handed in. Choose one/)]);
    await put(['cut.geojson', '{"type":"FeatureCollection","features":[{']);
    const after = await server.until(id, (s) => s.jobs.some((j) => j.status === 'failed'));
    expect(after.sources.map((s) => s.id)).toEqual(before.sources.map((s) => s.id));
    expect(after.recipe).toEqual(before.recipe);
  });
});
