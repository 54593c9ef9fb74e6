import type { Proof } from '@pontrel/core/content/features/proof';
import { readFileSync } from 'node:fs';
import { unzipSync } from 'fflate';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { CrossingState, FieldValue, RecordIds, RecordPage, RunProof } from '@pontrel/contract/crossing';
import type { Recipe } from '@pontrel/core/crossing/recipe';
import { QUAY, temporaryFolder, TestServer } from './client';

const parcels = (extension: string): Uint8Array => readFileSync(QUAY.replace(/[^/]+$/, `parcels.${extension}`));

// invented parcels of the demo: 204 lots along a harbour
describe('records that are chosen', () => {
  const { folder, remove } = temporaryFolder();
  let server: TestServer;
  let id: string;
  let source: string;
  beforeAll(async () => {
    server = await TestServer.start(`${folder}/data`);
    id = (
      await server.upload('api/crossings', ...['shp', 'shx', 'dbf', 'prj'].map((e): [string, Uint8Array] => [`parcels.${e}`, parcels(e)]))
    ).body.id;
    source = (await server.until(id, (s) => s.sources.length === 1)).sources[0]!.id;
  });
  afterAll(async () => {
    await server.stop();
    remove();
  });

  const at = (what: string, query: Record<string, string>): string =>
    `api/crossings/${id}/sources/${source}/${what}?${new URLSearchParams({ layer: 'parcels', ...query }).toString()}`;
  const page = async (query: Record<string, string>): Promise<RecordPage & { error?: { message: string } }> =>
    (await server.call<RecordPage>('GET', at('records', { limit: '200', ...query }))).body;
  const change = async (edit: (recipe: Recipe) => void): Promise<CrossingState> => {
    const state = await server.state(id);
    const recipe = structuredClone(state.recipe);
    edit(recipe);
    return (await server.call<CrossingState>('PUT', `api/crossings/${id}/recipe`, { recipe, revision: state.revision })).body;
  };

  it('are those in a box, of the frame, in their order, whichever system their source is in', async () => {
    const all = await page({});
    const [x0, y0, x1, y1] = (await server.state(id)).frameExtent!;
    const west = `S_INTERSECTS(geometry, BBOX(${x0}, ${y0}, ${(x0 + x1) / 2}, ${y1}))`;
    const taken = await page({ where: west, sort: 'LAND_AREA' });
    expect(taken.total).toBeGreaterThan(20);
    expect(taken.total).toBeLessThan(all.total - 20);
    const areas = taken.records.map((r) => r.attributes.LAND_AREA as number);
    expect(areas).toEqual([...areas].sort((a, b) => a - b));
    const ids = (await server.call<RecordIds>('GET', at('ids', { where: west }))).body.ids!;
    expect(ids).toEqual(taken.records.map((r) => r.id).sort((a, b) => a - b));
    // the frame in another system: its numbers are others, the records the same
    await change((r) => void (r.frame = { crs: 'EPSG:2126' }));
    const [, , , top] = (await server.state(id)).frameExtent!;
    expect((await page({ where: west })).total).toBe(0);
    expect((await page({ where: `S_WITHIN(geometry, BBOX(0, 0, 9000000, ${top + 1}))` })).total).toBe(all.total);
    await change((r) => void (r.frame = { crs: 'EPSG:2193' }));
    expect((await page({ where: west })).total).toBe(taken.total);
  });

  it('may be thousands, named one by one', async () => {
    const where = `record() IN (${Array.from({ length: 2000 }, (_, k) => k + 200).join(', ')})`;
    expect((await page({ where })).records.map((r) => r.place)).toEqual([200, 201, 202, 203, 204]);
  });

  it('need a place to be asked where they lie', async () => {
    const placement = (await server.state(id)).recipe.sources['parcels.shp']!.placement;
    await change((r) => void (r.sources['parcels.shp']!.placement = null));
    expect((await page({ where: 'S_INTERSECTS(geometry, BBOX(0, 0, 1, 1))' })).error!.message).toBe(
      'Where a record lies is known only once its source is placed. Place it first.',
    );
    await change((r) => void (r.sources['parcels.shp']!.placement = placement));
  });

  it('are all that crosses when a rule says so, and what is only kept changes no run', async () => {
    const [x0, y0, x1, y1] = (await server.state(id)).frameExtent!;
    const where = `S_WITHIN(geometry, POLYGON((${x0} ${y0}, ${x1} ${y0}, ${x1} ${y1}, ${x0} ${y0}))) AND LEASED = TRUE`;
    const taken = await page({ where });
    await change((r) => {
      r.sources['parcels.shp']!.layers.parcels = { where };
      r.deliverables = [{ id: 'out', name: 'Leases', format: 'geojson', crs: 'EPSG:4326', grouping: 'layer' }];
    });
    await server.call('POST', `api/crossings/${id}/runs`, { deliverable: 'out' });
    const [run] = (await server.until(id, (s) => s.runs.length === 1)).runs;
    const proof = (await server.call<RunProof>('GET', `api/runs/${run!.id}`)).body.proof as Proof;
    expect([proof.status, proof.records.out]).toEqual(['match', taken.total]);
    expect(taken.total).toBeGreaterThan(3);
    const kept = await change((r) => void (r.sources['parcels.shp']!.layers.parcels!.selections = [{ name: 'leased lots', where }]));
    expect(kept.runs[0]!.current).toBe(true);
  });

  it('are found by values that their fields really have', async () => {
    const values = async (field: string, begin: string): Promise<FieldValue[]> =>
      (await server.call<FieldValue[]>('GET', at('values', { field, begin }))).body;
    const all = await page({});
    const leased = all.records.filter((r) => r.attributes.LEASED === true).length;
    expect(await values('LEASED', '')).toEqual(
      [
        { value: false, count: 200 - leased },
        { value: true, count: leased },
      ].map((v) => ({ ...v, count: expect.any(Number) as number })),
    );
    const streets = await values('STREET', 'har');
    expect(streets.map((v) => v.value)).toEqual(
      [...new Set(all.records.map((r) => r.attributes.STREET as string))].filter((s) => /^har/i.test(s)),
    );
  });
});

describe('a file whose name has no extension', () => {
  const SENT = 'zones as they were sent';
  it('is read by what it holds, told in the report, and added to', async () => {
    const { folder, remove } = temporaryFolder();
    const server = await TestServer.start(`${folder}/data`);
    const { id } = (await server.upload('api/crossings', [SENT, readFileSync(QUAY.replace(/[^/]+$/, 'zones.geojson'))])).body;
    const state = await server.until(id, (s) => s.sources.length === 1);
    const recipe: Recipe = {
      ...state.recipe,
      deliverables: [{ id: 'out', name: 'Archive', format: 'geopackage', crs: 'EPSG:2193', grouping: 'layer' }],
    };
    await server.call('PUT', `api/crossings/${id}/recipe`, { recipe, revision: state.revision });
    await server.call('POST', `api/crossings/${id}/runs`, { deliverable: 'out' });
    const {
      runs: [run],
    } = await server.until(id, (s) => s.runs.length === 1);
    const report = await server.bytes(`api/runs/${run!.id}/report`);
    expect([run!.status, report.status]).toEqual(['match', 200]);
    expect(new TextDecoder().decode(report.bytes)).toContain(SENT);
    // the container itself, handed in without its extension, is added to
    const zip = await server.bytes(`api/runs/${run!.id}/zip`);
    const [name, bytes] = Object.entries(unzipSync(zip.bytes)).find(([n]) => n.endsWith('.gpkg'))!;
    await server.upload(`api/crossings/${id}/sources`, [name.replace('.gpkg', ''), bytes]);
    const both = await server.until(id, (s) => s.sources.length === 2);
    const more: Recipe = {
      ...both.recipe,
      deliverables: [{ ...recipe.deliverables[0]!, name: 'More', into: both.sources[1]!.name }],
      sources: {
        [SENT]: { ...both.recipe.sources[SENT]!, layers: { [SENT]: { to: 'Zones again' } } },
        [both.sources[1]!.name]: { placement: { crs: 'EPSG:2193', unit_m: null }, layers: { [SENT]: { taken: false } } },
      },
    };
    await server.call('PUT', `api/crossings/${id}/recipe`, { recipe: more, revision: both.revision });
    await server.call('POST', `api/crossings/${id}/runs`, { deliverable: 'out' });
    const again = await server.until(id, (s) => s.runs.some((r) => r.name === 'More') || s.jobs.some((j) => j.status === 'failed'));
    expect([
      again.jobs.filter((j) => j.status === 'failed').map((j) => j.message),
      again.runs.find((r) => r.name === 'More')?.status,
    ]).toEqual([[], 'match']);
    await server.stop();
    remove();
  });
});
