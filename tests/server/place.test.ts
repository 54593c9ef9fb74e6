import type { Placement } from '@pontrel/core/placement/placement';
import { writeFileSync } from 'node:fs';
import path from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type {
  Candidate,
  CrossingState,
  CrsName,
  DeliverableForecast,
  GridList,
  Outliers,
  PathView,
  PlaceView,
  Preview,
} from '@pontrel/contract/crossing';
import { SURVEY, temporaryFolder, TestServer } from './client';

/** A short line at two places, as a drawing. */
const lineAt = (x: number, y: number, stray: [number, number] | null = null): string =>
  [
    0,
    'SECTION',
    2,
    'ENTITIES',
    0,
    'LINE',
    8,
    'A',
    10,
    x,
    20,
    y,
    11,
    x + 100,
    21,
    y + 100,
    ...Array.from({ length: 20 }, (_, i) => [0, 'POINT', 8, 'A', 10, x + 5 * i, 20, y + 3 * i]).flat(),
    ...(stray ? [0, 'POINT', 8, 'STRAY', 10, stray[0], 20, stray[1]] : []),
    0,
    'ENDSEC',
    0,
    'EOF',
    '',
  ].join('\n');

describe('placing', () => {
  const { folder, remove } = temporaryFolder();
  const data = path.join(folder, 'data');
  let server: TestServer;
  beforeAll(async () => {
    server = await TestServer.start(data);
  });
  afterAll(async () => {
    await server.stop();
    remove();
  });
  async function gather(name: string, content: string): Promise<CrossingState> {
    const { body } = await server.upload('api/crossings', [name, content]);
    return server.until(body.id, (s) => s.sources.length > 0);
  }
  async function place(state: CrossingState, frame: string, placement: Placement): Promise<CrossingState> {
    const { body } = await server.call<CrossingState>('PUT', `api/crossings/${state.id}/recipe`, {
      revision: state.revision,
      recipe: {
        ...state.recipe,
        frame: { crs: frame },
        sources: { [state.sources[0]!.name]: { placement, layers: {} } },
        deliverables: [{ id: 'out', name: 'Out', format: 'shapefile', crs: frame, grouping: 'layer' }],
      },
    });
    return body;
  }
  const get = async <T>(url: string): Promise<T> => (await server.call<T>('GET', url)).body;

  it('where no change of datum is known nothing crosses until that is accepted, and then it is said', async () => {
    const state = await gather('sibun.dxf', lineAt(50_000, 70_000));
    const source = `api/crossings/${state.id}/sources/${state.sources[0]!.id}`;
    const placement: Placement = { crs: 'EPSG:5589', unit_m: 1 };
    const refused = await place(state, 'EPSG:2193', placement);
    expect(refused.frameExtent).toBeNull();
    const path1 = await get<PathView>(`${source}/path`);
    expect(path1).toMatchObject({
      ballpark: true,
      problem: expect.stringMatching(/No datum change from Sibun Gorge 1922 .* tens of metres/),
    });
    expect((await get<DeliverableForecast[]>(`api/crossings/${state.id}/forecasts`))[0]!.forecast!.blocked).toEqual([
      expect.stringMatching(/No datum change/),
    ]);
    await place(refused, 'EPSG:4326', { ...placement, ballpark: true });
    const path2 = await get<PathView>(`${source}/path`);
    expect(path2).toMatchObject({ ballpark: true, problem: null, accuracy_m: null });
    expect(path2.steps.map((s) => s.name)).toContain('Numbers taken over: no change of datum is known');
    const [{ forecast }] = (await get<DeliverableForecast[]>(`api/crossings/${state.id}/forecasts`)) as [DeliverableForecast];
    expect(forecast!.blocked).toEqual([]);
    expect(forecast!.findings).toContainEqual(expect.objectContaining({ code: 'datum-ballpark', location: 'sibun.dxf' }));
  });

  it('the operations between two datums are offered, the best first, and another one can be taken', async () => {
    const state = await gather('mains.dxf', lineAt(2374_000, 5663_100));
    const source = `api/crossings/${state.id}/sources/${state.sources[0]!.id}`;
    const placed = await place(state, 'EPSG:2193', { crs: 'EPSG:27200', unit_m: 1 });
    const best = await get<PathView>(`${source}/path`);
    expect(best.accuracy_m).toBe(0.2);
    expect(best.operations[0]).toMatchObject({ on: true, codes: 'EPSG:1568', missing: [] });
    expect(best.steps.some((s) => s.grids.includes('nzgd2kgrid0005.gsb') && s.at !== null)).toBe(true);
    const other = best.operations.find((w) => w.codes === 'EPSG:1701')!;
    await place(placed, 'EPSG:2193', { crs: 'EPSG:27200', unit_m: 1, operation: other.key });
    const taken = await get<PathView>(`${source}/path`);
    expect(taken.accuracy_m).toBe(4);
    expect(Math.hypot(taken.to![0] - best.to![0], taken.to![1] - best.to![1])).toBeGreaterThan(0.05);
  });

  it('grid files of the data folder are listed with those shipped; a broken one says so and harms nothing', async () => {
    writeFileSync(path.join(data, 'grids', 'cut.gsb'), Buffer.alloc(500));
    const { files } = await get<GridList>('api/grids');
    expect(files.map((f) => f.name).sort()).toEqual(['BETA2007.gsb', 'cut.gsb', 'ntf_r93.gsb', 'nzgd2kgrid0005.gsb']);
    expect(files.find((f) => f.name === 'cut.gsb')).toMatchObject({
      place: 'grids folder',
      problem: expect.stringMatching(/cut\.gsb cannot be used/),
    });
    expect(files.find((f) => f.name === 'ntf_r93.gsb')).toMatchObject({ place: 'shipped', problem: null });
  });

  it('a pasted definition is identified, and one of its own is saved by name and placed by', async () => {
    const own = '+proj=tmerc +lat_0=-44 +lon_0=171.3 +k=1 +x_0=10000 +y_0=20000 +ellps=GRS80 +units=m +type=crs';
    const found = await get<CrsName[]>(
      `api/crs?q=${encodeURIComponent('+proj=tmerc +lat_0=0 +lon_0=173 +k=0.9996 +x_0=1600000 +y_0=10000000 +ellps=GRS80 +units=m')}`,
    );
    expect(found.at(-1)!.label).toBe('own definition');
    expect((await server.call('PUT', 'api/definitions', { name: 'Quay site grid', text: own })).status).toBe(200);
    expect((await server.call('PUT', 'api/definitions', { name: 'Broken', text: 'PROJCS["x"' })).body.error!.message).toMatch(
      /breaks off at character/,
    );
    const [saved] = await get<CrsName[]>('api/crs?q=quay%20site');
    expect(saved).toMatchObject({ id: own, label: 'saved', name: 'Quay site grid' });
    const state = await gather('grid.dxf', lineAt(10_000, 20_000));
    const placed = await place(state, saved!.id, { crs: own, unit_m: 1 });
    expect(placed.frame).toMatchObject({ id: own, label: 'own definition' });
    expect(placed.frameExtent![0]).toBeCloseTo(10_000, 3);
  });

  it('a south-orientated frame is drawn north up, and a drawing with both signs turned lies where it should', async () => {
    const state = await gather('lo29.dxf', lineAt(-72_000, -2847_400));
    const source = `api/crossings/${state.id}/sources/${state.sources[0]!.id}`;
    const candidates = await get<Candidate[]>(`${source}/candidates?lon=28.3&lat=-25.7&unit=1`);
    const lo29 = candidates.find((c) => c.crs.id === 'EPSG:2053')!;
    expect(lo29.placement.signReversed).toBe(true);
    const placed = await place(state, 'EPSG:2053', lo29.placement);
    // on the map east is right and north is up: westings and southings with their signs turned
    expect(placed.frameExtent![0]).toBeCloseTo(-72_000, 3);
    expect(placed.frameExtent![1]).toBeCloseTo(-2847_400, 3);
    const way = await get<PathView>(`${source}/path`);
    expect(way.to![0]).toBeGreaterThan(71_000);
    const at = await get<PlaceView>(`api/crossings/${state.id}/where?frame=-71984.49,-2847342.74&crs=EPSG:4326`);
    // Source: the worked example of IOGP Guidance Note 7-2 for this system (from memory)
    expect(at.other![0]).toBeCloseTo(28.2826, 3);
    expect(at.other![1]).toBeCloseTo(-25.732, 3);
    expect((await get<PlaceView>(`api/crossings/${state.id}/where?degrees=${at.degrees!.join(',')}`)).frame![0]).toBeCloseTo(-71_984.49, 4);
  });

  it('a stray object is told and does not stretch the view; a preview shows what a placement would do', async () => {
    const state = await gather('stray.dxf', lineAt(1463_700, 5101_000, [0, 0]));
    expect(state.sources[0]!.outliers).toBe(1);
    const source = `api/crossings/${state.id}/sources/${state.sources[0]!.id}`;
    const good = await server.call<Preview>('POST', `${source}/previews`, { crs: 'EPSG:2193', unit_m: 1 });
    expect(good.body.extent![0]).toBeGreaterThan(1463_000);
    expect((await server.bytes(`${source}/previews/${good.body.stamp}/0/0/-1`)).status).toBeLessThan(300);
    const line = await server.call<Preview>('POST', `${source}/previews`, {
      crs: 'EPSG:2193',
      unit_m: 1,
      fit: { kind: 'affine', pairs: [0, 1, 2].map((k) => ({ from: [k, k], to: [1463_700 + k, 5101_000 + k] })) },
    });
    expect(line.body.problem).toMatch(/lie on one line/);
    const placed = await place(state, 'EPSG:2193', { crs: 'EPSG:2193', unit_m: 1 });
    expect(placed.frameExtent![0]).toBeGreaterThan(1463_000);
    const outliers = await get<Outliers>(`${source}/outliers`);
    expect(outliers).toMatchObject({ count: 1, records: [{ layer: 'STRAY', at: [0, 0], place: [0, 0] }] });
  });

  it('a place that the frame cannot have, an unknown code and a preview that is gone are clear errors', async () => {
    const state = await server.placed(SURVEY, { crs: 'EPSG:2126', unit_m: 1 });
    expect((await get<PlaceView>(`api/crossings/${state.id}/where?degrees=-8,95`)).frame).toBeNull();
    expect((await server.call('GET', 'api/crs/definition?text=EPSG:99999')).body.error!.message).toMatch(
      /EPSG:99999 is not in the registry/,
    );
    const gone = await server.bytes(`api/crossings/${state.id}/sources/${state.sources[0]!.id}/previews/nothing/0/0/-1`);
    expect(gone.status).toBe(404);
  });
});
