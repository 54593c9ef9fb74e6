import { spawnSync } from 'node:child_process';
import { copyFileSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import Database from 'better-sqlite3';
import { afterAll, describe, expect, it } from 'vitest';
import { temporaryFolder, TestServer } from '../server/client';
import { openData } from './open-data';
import { python } from './python';

interface Told {
  head: { faults: string[]; integrity: string; foreign: unknown[]; systems: number[] };
  layers: Record<string, { valid: string; properties: Record<string, unknown> }[]>;
}

describe('layers added to a container that another program made', () => {
  const { folder, remove } = temporaryFolder();
  afterAll(remove);
  const theirs = `${openData('r-cran-sf')}/usr/lib/R/site-library/sf/gpkg/nc.gpkg`;
  writeFileSync(`${folder}/marks.csv`, 'x,y,name\n1464000,5101500,Quay\n1464100,5101500,Shed\n');

  it('on the command line: both are in it, sound by the standard, and a copy of it as it was lies beside it', () => {
    copyFileSync(theirs, `${folder}/nc.gpkg`);
    const run = (...more: string[]): { status: number | null; stdout: string } =>
      spawnSync(
        process.execPath,
        ['dist/cli.mjs', 'convert', `${folder}/marks.csv`, `${folder}/nc.gpkg`, '--from', 'EPSG:2193', '--append', '--json', ...more],
        { encoding: 'utf8' },
      );
    const done = run();
    expect(JSON.parse(done.stdout)).toMatchObject({ proof: { status: 'match', records: { out: 2 } } });
    expect(readFileSync(`${folder}/nc.before.gpkg`)).toEqual(readFileSync(theirs));
    const [file] = python<[Told]>('read_gis.py', { files: [`${folder}/nc.gpkg`] });
    expect([file.head.integrity, file.head.foreign, Object.entries(file.layers).map(([n, r]) => [n, r.length])]).toEqual([
      'ok',
      [],
      [
        ['nc.gpkg', 100],
        ['marks', 2],
      ],
    ]);
    expect(file.head.systems).toContain(2193);
    expect(file.layers.marks!.map((r) => r.properties.name)).toEqual(['Quay', 'Shed']);
    // once more: the name is taken, and nothing is changed
    const before = readFileSync(`${folder}/nc.gpkg`);
    expect(JSON.parse(run().stdout)).toMatchObject({ error: { code: 'gpkg-table-there' } });
    expect(readFileSync(`${folder}/nc.gpkg`)).toEqual(before);
  });

  it('in a crossing: the file that was gathered stays as it is, and the deliverable has both', async () => {
    mkdirSync(`${folder}/app`);
    const server = await TestServer.start(`${folder}/app`);
    const { body } = await server.upload(
      'api/crossings',
      ['nc.gpkg', readFileSync(theirs)],
      ['marks.csv', readFileSync(`${folder}/marks.csv`)],
    );
    const state = await server.until(body.id, (s) => s.sources.length === 2);
    const recipe = {
      ...state.recipe,
      frame: { crs: 'EPSG:2193' },
      sources: {
        ...state.recipe.sources,
        'marks.csv': { placement: { crs: 'EPSG:2193', unit_m: null }, layers: {} },
        'nc.gpkg': { placement: { crs: 'EPSG:4267', unit_m: null }, layers: { 'nc.gpkg': { taken: false } } },
      },
      deliverables: [{ id: 'd', name: 'Both', format: 'geopackage', crs: 'EPSG:2193', grouping: 'layer' as const, into: 'nc.gpkg' }],
    };
    await server.call('PUT', `api/crossings/${state.id}/recipe`, { recipe, revision: state.revision });
    await server.call('POST', `api/crossings/${state.id}/runs`, { deliverable: 'd' });
    const { runs } = await server.until(state.id, (s) => s.runs.length > 0);
    expect([runs[0]!.status, runs[0]!.records.out]).toEqual(['match', 2]);
    const zip = await server.bytes(`api/runs/${runs[0]!.id}/zip`);
    writeFileSync(`${folder}/both.zip`, zip.bytes);
    spawnSync('/usr/bin/python3', [
      '-c',
      'import sys,zipfile; zipfile.ZipFile(sys.argv[1]).extractall(sys.argv[2])',
      `${folder}/both.zip`,
      folder,
    ]);
    const db = new Database(`${folder}/both.gpkg`, { readonly: true });
    expect(db.prepare('SELECT (SELECT count(*) FROM "nc.gpkg") AS theirs, (SELECT count(*) FROM marks) AS ours').get()).toEqual({
      theirs: 100,
      ours: 2,
    });
    db.close();
    await server.stop();
  });
});
