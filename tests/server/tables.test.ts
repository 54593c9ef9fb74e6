import { spawnSync } from 'node:child_process';
import { writeFileSync } from 'node:fs';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { CrossingState, DeliverableForecast } from '@pontrel/contract/crossing';
import type { Recipe } from '@pontrel/core/crossing/recipe';
import { temporaryFolder, TestServer } from './client';

const CORNERS =
  'lot;no;a;b;mark\n1;1;1464000;5101500;Höhe\n1;2;1464030;5101500;Höhe\n1;3;1464030;5101540;Höhe\n2;1;1464100;5101500;Größe\n2;2;1464110;5101500;Größe\n2;3;1464110;5101510;Größe\n';
const LOTS = 'lot,holder\n1,the harbour\n3,nobody\n';

describe('tables in a crossing', () => {
  const { folder, remove } = temporaryFolder();
  let server: TestServer;
  let id: string;
  beforeAll(async () => {
    server = await TestServer.start(`${folder}/data`);
    const latin1 = Uint8Array.from([...CORNERS].map((c) => c.charCodeAt(0)));
    id = (await server.upload('api/crossings', ['corners.csv', latin1], ['lots.csv', LOTS])).body.id;
    await server.until(id, (s) => s.sources.length === 2);
  });
  afterAll(async () => {
    await server.stop();
    remove();
  });

  const source = (s: CrossingState, name: string): CrossingState['sources'][number] => s.sources.find((x) => x.name === name)!;
  const change = async (edit: (recipe: Recipe) => void): Promise<CrossingState> => {
    const state = await server.state(id);
    const recipe = structuredClone(state.recipe);
    edit(recipe);
    const saved = await server.call<CrossingState>('PUT', `api/crossings/${id}/recipe`, { recipe, revision: state.revision });
    expect(saved.status).toBe(200);
    return saved.body;
  };
  const kindsOf = (s: CrossingState): string[] => source(s, 'corners.csv').layers[0]!.profile.groups.map((g) => `${g.count} ${g.kind}`);

  it('are read as the rules say, and again as before when that is taken back', async () => {
    const first = await server.state(id);
    expect([kindsOf(first), source(first, 'corners.csv').columns, source(first, 'corners.csv').places]).toEqual([
      ['6 none'],
      ['lot', 'no', 'a', 'b', 'mark'],
      { kind: 'none' },
    ]);
    await change(
      (r) =>
        void (r.sources['corners.csv'] = {
          placement: null,
          layers: {},
          reading: { places: { kind: 'xy', x: 'a', y: 'b' }, make: 'outline', group: 'lot', order: 'no', codePage: 'windows-1252' },
        }),
    );
    const read = await server.until(id, (s) => source(s, 'corners.csv').reading !== null && s.jobs.length === 0);
    expect(kindsOf(read)).toEqual(['2 polygon']);
    const { records } = (
      await server.call<{ records: { attributes: Record<string, unknown> }[] }>(
        'GET',
        `api/crossings/${id}/sources/${source(read, 'corners.csv').id}/records?layer=corners`,
      )
    ).body;
    expect(records.map((r) => r.attributes)).toEqual([
      { lot: 1, mark: 'Höhe', corners: 3, perimeter: 120, area: 600, closing_error: 0 },
      { lot: 2, mark: 'Größe', corners: 3, perimeter: expect.closeTo(34.1421, 4) as number, area: 50, closing_error: 0 },
    ]);
    await change((r) => void delete r.sources['corners.csv']!.reading);
    expect(kindsOf(await server.until(id, (s) => source(s, 'corners.csv').reading === null))).toEqual(['6 none']);
    await change(
      (r) =>
        void (r.sources['corners.csv']!.reading = {
          places: { kind: 'xy', x: 'a', y: 'b' },
          make: 'outline',
          group: 'lot',
          order: 'no',
          codePage: 'windows-1252',
        }),
    );
    await server.until(id, (s) => source(s, 'corners.csv').reading !== null);
  });

  it('show what each code page makes of their texts', async () => {
    const at = source(await server.state(id), 'corners.csv').id;
    const texts = async (codePage: string): Promise<string[]> =>
      (await server.call<string[]>('GET', `api/crossings/${id}/sources/${at}/texts?codePage=${codePage}`)).body;
    expect([await texts('windows-1252'), (await texts('windows-1251'))[0]]).toEqual([['Höhe', 'Größe'], 'Hцhe']);
  });

  it('tell what cannot be read so, keep the source as it was, and are not tried again and again', async () => {
    const before = source(await server.state(id), 'corners.csv').id;
    await change((r) => void (r.sources['corners.csv']!.reading = { places: { kind: 'xy', x: 'east', y: 'b' } }));
    const failed = await server.until(id, (s) => s.jobs.some((j) => j.status === 'failed'));
    expect(failed.jobs.find((j) => j.status === 'failed')!.message).toMatch(
      /corners\.csv has no column east \(its columns are lot, no, a, b, mark\)/,
    );
    expect(source(failed, 'corners.csv').id).toBe(before);
    await change((r) => void (r.chord_m = 0.01));
    expect((await server.state(id)).jobs.filter((j) => j.status === 'failed').length).toBe(1);
    await change((r) => void (r.sources['corners.csv']!.reading = source(failed, 'corners.csv').reading!));
  });

  it('join the records of another by a key, with keys that found nothing listed, and need no place', async () => {
    await change((r) => {
      r.frame = { crs: 'EPSG:2193' };
      r.sources['corners.csv']!.placement = { crs: 'EPSG:2193', unit_m: null };
      r.sources['corners.csv']!.layers = {
        corners: {
          join: { source: 'lots.csv', layer: 'lots', key: 'lot', to: 'lot' },
          computed: ['ellipsoid_area_ha'],
          fields: { holder: {} },
        },
      };
      r.deliverables = [{ id: 'd', name: 'Lots', format: 'geopackage', crs: 'EPSG:2193', grouping: 'layer' }];
    });
    const [{ forecast }] = (await server.call<DeliverableForecast[]>('GET', `api/crossings/${id}/forecasts`)).body as [DeliverableForecast];
    expect(forecast!.blocked).toEqual([]);
    expect(forecast!.rows.find((r) => r.layer === 'corners')!.report!.join).toEqual({
      joined: 1,
      unmatched: 1,
      unmatchedKeys: ['2'],
      unused: 1,
      unusedKeys: ['3'],
      doubles: 0,
    });
    await server.call('POST', `api/crossings/${id}/runs`, { deliverable: 'd' });
    const { runs } = await server.until(id, (s) => s.runs.length > 0);
    expect([runs[0]!.status, runs[0]!.records]).toEqual(['match', { in: 4, out: 4 }]);

    const pdf = await server.bytes(`api/runs/${runs[0]!.id}/report.pdf`);
    expect([pdf.status, pdf.headers.get('content-type')]).toEqual([200, 'application/pdf']);
    writeFileSync(`${folder}/proof.pdf`, pdf.bytes);
    const text = spawnSync('/usr/bin/pdftotext', ['-layout', `${folder}/proof.pdf`, '-'], { encoding: 'utf8' }).stdout;
    const [sha] = /[0-9a-f]{64}/.exec(text) ?? [];
    const html = new TextDecoder().decode((await server.bytes(`api/runs/${runs[0]!.id}/report`)).bytes);
    // either report has the same checksum of the file, the same verdict and every field
    expect(html).toContain(sha);
    for (const words of ['Match: nothing was lost that was not forecast', 'ellipsoid_area_ha', 'holder', 'page 1 of'])
      expect(text).toContain(words);
  });
});
