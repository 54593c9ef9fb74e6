import { readFileSync } from 'node:fs';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { python } from '../reference/python';
import { temporaryFolder, TestServer } from './client';

/** A drawing that shows another one: when both are gathered and one is placed, the other lies where it is shown. */
describe('a drawing shown by another one', () => {
  const { folder, remove } = temporaryFolder();
  let server: TestServer;
  beforeAll(async () => {
    server = await TestServer.start(`${folder}/data`);
  });
  afterAll(async () => {
    await server.stop();
    remove();
  });

  it.each([[[1000, 1000]], [[1000, -500]]])('is put in its place, at a scale of %s, to where ezdxf has its corner', async (scale) => {
    const [host, shown] = [`${folder}/host.dxf`, `${folder}/shed.dxf`];
    const corner = python<number[]>('make_external.py', { host, shown, scale });
    const { body } = await server.upload('api/crossings', ['host.dxf', readFileSync(host)], ['SHED.DXF', readFileSync(shown)]);
    const state = await server.until(body.id, (s) => s.sources.length === 2);
    expect(
      state.sources
        .find((s) => s.name === 'host.dxf')!
        .findings.map((f) => f.message)
        .join(),
    ).toContain('shed.dxf, which is a file of its own');
    const recipe = {
      ...state.recipe,
      frame: { crs: 'EPSG:2193' },
      sources: { 'host.dxf': { placement: { crs: 'EPSG:2193', unit_m: 0.001 }, layers: {} } },
    };
    const saved = await server.call<typeof state>('PUT', `api/crossings/${state.id}/recipe`, { revision: state.revision, recipe });
    expect(saved.body.recipe.sources['SHED.DXF']!.placement).toMatchObject({
      crs: 'EPSG:2193',
      fit: { kind: scale[0] === scale[1] ? 'similarity' : 'affine' },
    });
    const source = saved.body.sources.find((s) => s.name === 'SHED.DXF')!;
    const { records } = (
      await server.call<{ records: { inFrame: number[] }[] }>('GET', `api/crossings/${state.id}/sources/${source.id}/records?layer=CORNER`)
    ).body;
    expect(records[0]!.inFrame[0]).toBeCloseTo(corner[0]! / 1000, 6);
    expect(records[0]!.inFrame[1]).toBeCloseTo(corner[1]! / 1000, 6);
    // a place that somebody has taken away is not given back
    const { 'SHED.DXF': _gone, ...kept } = saved.body.recipe.sources;
    const again = await server.call<typeof state>('PUT', `api/crossings/${state.id}/recipe`, {
      revision: saved.body.revision,
      recipe: { ...saved.body.recipe, sources: kept },
    });
    expect(again.body.recipe.sources['SHED.DXF']).toBeUndefined();
  });
});

describe('a picture shown by a drawing', () => {
  const { folder, remove } = temporaryFolder();
  let server: TestServer;
  beforeAll(async () => {
    server = await TestServer.start(`${folder}/data`);
  });
  afterAll(async () => {
    await server.stop();
    remove();
  });

  it.each([0, 30, 200])('turned by %s degrees lies where ezdxf has its corners, and is written from there', async (rotation) => {
    const file = `${folder}/plan.dxf`;
    const size: [number, number] = [60, 40];
    // millimetres, as the drawing is
    const insert = [1_464_000_000, 5_101_500_000];
    const corners = python<[number, number][]>('make_shown_picture.py', {
      file,
      picture: 'scan.png',
      size,
      insert,
      units: [120_000, 80_000],
      rotation,
    });
    const picture = await sharp({ create: { width: 60, height: 40, channels: 3, background: { r: 200, g: 120, b: 40 } } })
      .png()
      .toBuffer();
    const { body } = await server.upload('api/crossings', ['plan.dxf', readFileSync(file)], ['SCAN.png', picture]);
    const state = await server.until(body.id, (s) => s.sources.length === 2 && s.jobs.length === 0);
    const recipe = {
      ...state.recipe,
      frame: { crs: 'EPSG:2193' },
      sources: { 'plan.dxf': { placement: { crs: 'EPSG:2193', unit_m: 0.001 }, layers: {} } },
      deliverables: [{ id: 'd', name: 'Shown', format: 'geotiff', crs: 'EPSG:2193', grouping: 'kind' as const }],
    };
    const { body: saved } = await server.call<typeof state>('PUT', `api/crossings/${state.id}/recipe`, {
      revision: state.revision,
      recipe,
    });
    const [placed] = saved.pictures;
    expect(placed!.source).toBe('SCAN.png');
    const [xs, ys] = [0, 1].map((k) => corners.map((c) => c[k]! / 1000));
    [Math.min(...xs!), Math.min(...ys!), Math.max(...xs!), Math.max(...ys!)].forEach((v, k) => expect(placed!.extent[k]).toBeCloseTo(v, 3));
    // the outline begins at the upper left corner
    expect(placed!.outlines[0]!.ring[0]![0]).toBeCloseTo(corners[3]![0] / 1000, 3);
    expect(placed!.outlines[0]!.ring[0]![1]).toBeCloseTo(corners[3]![1] / 1000, 3);
    await server.call('POST', `api/crossings/${state.id}/runs`, { deliverable: 'd' });
    expect((await server.until(state.id, (s) => s.runs.length > 0)).runs[0]!.status).toBe('match');
  });

  it.each([
    [0, 'inside'],
    [30, 'inside'],
    [30, 'outside'],
  ] as const)(
    'turned by %s degrees is cut to its clipping line, of which it keeps the %s, pixel by pixel as ezdxf and shapely have it',
    async (rotation, keeps) => {
      const file = `${folder}/cut.dxf`;
      const [width, height] = [60, 40];
      const { corners, clip } = python<Record<'corners' | 'clip', [number, number][]>>('make_shown_picture.py', {
        file,
        picture: 'cut.png',
        size: [width, height],
        insert: [1_464_000_000, 5_101_500_000],
        units: [120_000, 80_000],
        rotation,
        keeps,
        clip: [
          [7.2, 5.3],
          [50.1, 9.4],
          [41.3, 33.7],
          [22.6, 18.2],
          [11.4, 31.9],
        ],
      });
      const picture = await sharp({ create: { width, height, channels: 3, background: { r: 200, g: 120, b: 40 } } })
        .png()
        .toBuffer();
      const { body } = await server.upload('api/crossings', ['cut.dxf', readFileSync(file)], ['cut.png', picture]);
      const state = await server.until(body.id, (s) => s.sources.length === 2 && s.jobs.length === 0);
      const recipe = {
        ...state.recipe,
        frame: { crs: 'EPSG:2193' },
        sources: { 'cut.dxf': { placement: { crs: 'EPSG:2193', unit_m: 0.001 }, layers: {} } },
        deliverables: [{ id: 'd', name: 'Cut', format: 'geotiff', crs: 'EPSG:2193', grouping: 'kind' as const }],
      };
      await server.call('PUT', `api/crossings/${state.id}/recipe`, { revision: state.revision, recipe });
      await server.call('POST', `api/crossings/${state.id}/runs`, { deliverable: 'd' });
      const [run] = (await server.until(state.id, (s) => s.runs.length > 0)).runs;
      expect(run!.status).toBe('match');
      const [, right, upperRight, upperLeft] = corners as [number, number][];
      const step = ([ax, ay]: readonly number[], [bx, by]: readonly number[], n: number): [number, number] => [
        (ax! - bx!) / n,
        (ay! - by!) / n,
      ];
      const [across, down] = [step(upperRight!, upperLeft!, width), step(right!, upperRight!, height)];
      const within = python<number>('pixels_within.py', {
        ring: clip,
        map: [upperLeft![0], across[0], down[0], upperLeft![1], across[1], down[1]],
        width,
        height,
      });
      const { account } = (
        await server.call<{ proof: { account: { read: number; crossed: number; left: { reason: string; count: number }[] }[] } }>(
          'GET',
          `api/runs/${run!.id}`,
        )
      ).body.proof;
      const kept = keeps === 'inside' ? within : width * height - within;
      const row = account[0]!;
      expect(row.left.find((l) => l.reason === 'clipped')!.count).toBe(width * height - kept);
      // what the line keeps crosses, but for pixels at an edge where the picture is turned
      const edge = row.left.find((l) => l.reason === 'edge')?.count ?? 0;
      expect(row.crossed + edge).toBe(kept);
      expect(edge).toBeLessThan(rotation === 0 ? 1 : 120);
    },
  );
});
