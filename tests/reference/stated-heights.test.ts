import type { Proof } from '@pontrel/core/content/features/proof';
import { copyFileSync, readFileSync, writeFileSync } from 'node:fs';
import Database from 'better-sqlite3';
import { generic } from 'flatgeobuf';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { RunProof } from '@pontrel/contract/crossing';
import type { Recipe } from '@pontrel/core/crossing/recipe';
import { readPositions } from '@pontrel/core/crs/definitions/read-definition';
import { identifyCrs, sameSystem } from '@pontrel/core/crs/registry/identify';
import { temporaryFolder, TestServer } from '../server/client';
import { pontrel, python } from './python';

interface Told {
  texts: [string, (number | string)[], [number, string]][];
  prj: string[];
  wkt1: string[];
  wkt2: string[];
  points: [number, number, number][][];
}

/** Up and down, metres and feet, and with a registered code of the whole. */
const COMPOUNDS = ['EPSG:2193+7839', 'EPSG:4269+6360', 'EPSG:4326+5715', 'EPSG:27700+5701', 'EPSG:6318+5703'];

/** Heights of pairs of systems between which the registry has a way without a grid: unit, direction, and a constant. */
const WAYS: [from: string, to: string, at: [number, number, number]][] = [
  ['EPSG:4269+5703', 'EPSG:4269+6360', [-122.5, 37.5, 100.25]],
  ['EPSG:4269+6360', 'EPSG:4269+8228', [-122.5, 37.5, 100.25]],
  ['EPSG:4326+5714', 'EPSG:4326+5715', [171.25, -44.4, 12.5]],
  ['EPSG:26910+5703', 'EPSG:26910+6360', [550000, 4180000, 30]],
];

describe('systems for heights beside those for positions, as files state them', () => {
  const { folder, remove } = temporaryFolder();
  afterAll(remove);
  let told: Told;
  beforeAll(() => {
    python('make_measures.py', { folder });
    told = python('stated_heights.py', {
      codes: COMPOUNDS,
      points: WAYS.map(([from, to, at]) => ({ from, to, points: [at] })),
    });
  });

  it.each(COMPOUNDS)('%s is understood from the texts that PROJ writes, in three generations', (code) => {
    const k = COMPOUNDS.indexOf(code);
    for (const text of [told.prj[k]!, told.wkt1[k]!, told.wkt2[k]!]) {
      const read = readPositions(text);
      const found = identifyCrs(read) ?? read;
      expect(found.kind).not.toBe('local');
      expect(sameSystem(found, readPositions(code)), text.slice(0, 300)).toBe(true);
      // heights are part of what a system is
      expect(sameSystem(found, readPositions(code.split('+')[0]!))).toBe(false);
    }
  });

  it.each(WAYS)('heights from %s into %s are those of PROJ, through a file and back', (from, to, [x, y, z]) => {
    const name = `${from}-${to}`.replace(/[:+]/g, '_');
    writeFileSync(`${folder}/${name}.csv`, `x,y,z,n\n${x},${y},${z},1\n${x},${y},${-z},2\n`);
    const { json } = pontrel('convert', `${folder}/${name}.csv`, `${folder}/${name}.fgb`, '--from', from, '--to', to);
    expect(json.error).toBeUndefined();
    expect([json.proof.status, json.proof.differences]).toEqual(['match', []]);
    expect(json.findings.filter((f: { code: string }) => f.code.startsWith('heights'))).toEqual([]);
    const back = pontrel('convert', `${folder}/${name}.fgb`, `${folder}/${name}-back.csv`).json;
    expect(back.error).toBeUndefined();
    expect(back.proof.status).toBe('match');
    const rows = readFileSync(`${folder}/${name}-back.csv`, 'utf8')
      .trim()
      .split('\r\n')
      .slice(1)
      .map((r) => Number(r.split(',')[2]));
    const k = WAYS.findIndex((w) => w[0] === from && w[1] === to);
    expect(rows[0]).toBeCloseTo(told.points[k]![0]![2], 9);
    expect(rows[1]).toBeCloseTo(-told.points[k]![0]![2], 9);
  });

  it('every format that can state it does so, and others say that they cannot', async () => {
    const shp = `${folder}/rising.shp`;
    const to = (name: string) => pontrel('convert', shp, `${folder}/${name}`, '--from', 'EPSG:2193+7839', '--to', 'EPSG:2193+7839').json;
    const codes = (json: any): string[] => json.findings.map((f: { code: string }) => f.code);
    for (const name of ['h.shp', 'h.gpkg', 'h.fgb', 'h.csv', 'h.ods', 'h.gml']) {
      const json = to(name);
      expect([name, json.proof.status, codes(json).filter((c) => /height|vertical/.test(c))]).toEqual([name, 'match', []]);
      expect(pontrel('inspect', `${folder}/${name}`).json.sources[0].crs.id).toBe('EPSG:2193+7839');
    }
    const db = new Database(`${folder}/h.gpkg`, { readonly: true });
    const [{ definition }] = db
      .prepare('SELECT definition FROM gpkg_spatial_ref_sys WHERE srs_id = (SELECT srs_id FROM gpkg_geometry_columns)')
      .all() as [{ definition: string }];
    db.close();
    let wkt = '';
    for await (const _ of generic.deserialize(new Uint8Array(readFileSync(`${folder}/h.fgb`)), {
      fromFeature: (_id: number, _feature: never, header: { crs: { wkt: string } }) => (wkt = header.crs.wkt),
    } as never));
    const srs = /srsName="([^"]+)"/.exec(readFileSync(`${folder}/h.gml`, 'utf8'))![1]!;
    const { texts } = python<Told>('stated_heights.py', {
      texts: [readFileSync(`${folder}/h.prj`, 'utf8'), definition, wkt, srs],
    });
    for (const [kind, parts, axis] of texts) expect([kind, parts.at(0), axis]).toEqual(['Compound CRS', 2193, [1, 'up']]);
    expect(texts.map(([, parts]) => parts[1]).slice(1)).toEqual([7839, 7839, 7839]);
    // heights that nobody says anything of are not taken for those of the frame without a word
    const unstated = pontrel('convert', shp, `${folder}/u.gpkg`, '--from', 'EPSG:2193', '--to', 'EPSG:2193+7839').json;
    expect(unstated.findings).toContainEqual(
      expect.objectContaining({ code: 'heights-unstated', message: expect.stringContaining('NZVD2016') }),
    );
    for (const name of ['h.dxf', 'h.geojson']) {
      const json = name === 'h.dxf' ? to(name) : pontrel('convert', shp, `${folder}/${name}`, '--from', 'EPSG:2193+7839').json;
      expect([name, json.proof.status, codes(json).filter((c) => /height|vertical/.test(c))]).toEqual([
        name,
        'match',
        [name === 'h.dxf' ? 'vertical-not-stated' : 'heights-as-they-are'],
      ]);
    }
  });

  it('heights between which no way is at hand stay as they are, which is said', () => {
    const { json } = pontrel('convert', `${folder}/rising.shp`, `${folder}/far.shp`, '--from', 'EPSG:2193+5762', '--to', 'EPSG:2193+5759');
    expect(json.findings).toContainEqual(
      expect.objectContaining({ code: 'heights-as-they-are', message: expect.stringContaining('Heights are passed on as they are') }),
    );
  });

  it('heights of a drawing in millimetres become those of the system for heights, in its own unit', () => {
    const dxf = `${folder}/mm.dxf`;
    writeFileSync(
      dxf,
      [0, 'SECTION', 2, 'ENTITIES', 0, 'POINT', 8, 'A', 10, 550000000, 20, 4180000000, 30, 304800.6096012192, 0, 'ENDSEC', 0, 'EOF'].join(
        '\n',
      ),
    );
    const { json } = pontrel('convert', dxf, `${folder}/mm.csv`, '--from', 'EPSG:26910+6360', '--unit', 'millimetre');
    expect(json.proof.status).toBe('match');
    const [x, y, z] = readFileSync(`${folder}/mm.csv`, 'utf8').split('\r\n')[1]!.split(',').map(Number);
    expect([x, y]).toEqual([550000, 4180000]);
    // a thousand US survey feet
    expect(z).toBeCloseTo(1000, 9);
  });

  it('in a crossing: the system that a file states for its heights places it, and the files have it', async () => {
    const server = await TestServer.start(`${folder}/data`);
    try {
      for (const ext of ['shp', 'shx', 'dbf']) copyFileSync(`${folder}/rising.${ext}`, `${folder}/level.${ext}`);
      const prj = told.prj[0]!;
      const form = new FormData();
      for (const ext of ['shp', 'shx', 'dbf']) form.append('file', new Blob([readFileSync(`${folder}/level.${ext}`)]), `level.${ext}`);
      form.append('file', new Blob([prj]), 'level.prj');
      const { id } = (await server.call<{ id: string }>('POST', 'api/crossings', { name: 'Heights' })).body;
      await server.call('POST', `api/crossings/${id}/sources`, form);
      const state = await server.until(id, (s) => s.sources.length === 1 && s.jobs.length === 0);
      expect(state.recipe.sources['level.shp']!.placement!.crs).toBe('EPSG:2193+7839');
      expect([state.frame!.label, state.frame!.name]).toEqual(['EPSG:2193+7839', expect.stringContaining('NZVD2016 height')]);
      expect(state.sources[0]!.understood).toBe('Understood as EPSG:2193+7839: content, datum and name agree.');
      const search = async (text: string): Promise<string[]> =>
        (await server.call<{ id: string }[]>('GET', `api/crs?q=${encodeURIComponent(text)}`)).body.map((c) => c.id);
      expect((await search('2193 + nzvd2016'))[0]).toBe('EPSG:2193+7839');
      expect((await search('EPSG:7405'))[0]).toBe('EPSG:7405');
      expect(await search('7839')).not.toContain('EPSG:7839');
      const recipe: Recipe = {
        ...state.recipe,
        deliverables: [{ id: 'out', name: 'Out', format: 'geopackage', crs: 'EPSG:2193+7839', grouping: 'layer' }],
      };
      const { revision } = await server.state(id);
      expect((await server.call('PUT', `api/crossings/${id}/recipe`, { recipe, revision })).status).toBe(200);
      await server.call('POST', `api/crossings/${id}/runs`, { deliverable: 'out' });
      const [run] = (await server.until(id, (s) => s.runs.length > 0)).runs;
      const proof = (await server.call<RunProof>('GET', `api/runs/${run!.id}`)).body.proof as Proof;
      expect([run!.status, proof.sets[0]!.crs]).toEqual(['match', 'EPSG:2193+7839']);
    } finally {
      await server.stop();
    }
  });
});
