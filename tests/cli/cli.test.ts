import { spawnSync } from 'node:child_process';
import { readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import { afterAll, describe, expect, it } from 'vitest';
import { writeManyLines } from '../../bench/many-lines.mjs';
import { pontrel } from '../reference/python';
import { QUAY, temporaryFolder } from '../server/client';

const { folder, remove } = temporaryFolder();
afterAll(remove);
const CLI = fileURLToPath(new URL('../../dist/cli.mjs', import.meta.url));

describe('pontrel inspect', () => {
  it('tells what is in a drawing', () => {
    const { status, json } = pontrel('inspect', QUAY);
    expect(status).toBe(0);
    const [source] = json.sources;
    expect(source).toMatchObject({ path: QUAY, format: 'dxf', crs: { id: null, name: null, origin: 'none' }, units: 'millimetre' });
    const water = source.layers.find((l: { name: string }) => l.name === 'WATER-MAIN');
    expect(water).toMatchObject({ count: 169, kinds: { point: 0, line: 169, polygon: 0, text: 0 } });
    expect(water.fields).toContainEqual({ name: 'handle', type: 'text' });
    expect(source.layers.find((l: { name: string }) => l.name === 'BOLLARD').fields.map((f: { name: string }) => f.name)).toEqual(expect.arrayContaining(['block', 'block_angle', 'scale_x', 'BOLLARD_ID', 'INSTALLATION_CREW']));
    expect(source.findings).toContainEqual(expect.objectContaining({ code: 'dxf-entity-not-read', severity: 'caution', count: 6 }));
  });
});

describe('pontrel convert', () => {
  it('writes one set a kind into the named file, and proves it', () => {
    const out = path.join(folder, 'one', 'quay.shp');
    const { status, json } = pontrel('convert', QUAY, out, '--from', 'EPSG:2193', '--layer', 'WATER-MAIN', '--layer', 'VALVE', '--chord', '0.02');
    expect(status).toBe(0);
    expect(json.outputs).toEqual([{ path: path.join(folder, 'one', 'quay_line.shp'), format: 'shapefile', layers: [{ name: 'quay_line', count: 169 }] }, { path: path.join(folder, 'one', 'quay_point.shp'), format: 'shapefile', layers: [{ name: 'quay_point', count: 66 }] }]);
    expect(json.proof).toMatchObject({ status: 'match', records: { in: 235, out: 235 }, differences: [] });
    expect(readdirSync(path.join(folder, 'one')).sort()).toEqual(['line', 'point'].flatMap((k) => ['cpg', 'dbf', 'prj', 'shp', 'shx'].map((e) => `quay_${k}.${e}`)));
    // what was written is read again as a source, its system known by content
    const again = pontrel('inspect', path.join(folder, 'one', 'quay_line.shp')).json.sources[0];
    expect(again.crs).toEqual({ id: 'EPSG:2193', name: 'NZGD2000 / New Zealand Transverse Mercator 2000', origin: 'declared' });
    expect(again.layers[0]).toMatchObject({ count: 169, kinds: { line: 169 } });
  });

  it('leaves an older file as it was when the input is bad', () => {
    const old = path.join(folder, 'kept.shp');
    writeFileSync(old, 'old');
    const cut = path.join(folder, 'cut.dxf');
    writeFileSync(cut, readFileSync(QUAY).subarray(0, 200_000));
    const { status, json } = pontrel('convert', cut, old, '--from', 'EPSG:2193');
    expect(status).toBe(1);
    expect(json.error.code).toBe('dxf-cut');
    expect(json.error.message).toMatch(/cut\.dxf breaks off at line \d+/);
    expect(readFileSync(old, 'utf8')).toBe('old');
    expect(readdirSync(folder).filter((f) => f.startsWith('.pontrel'))).toEqual([]);
  });

  it.each([
    [['convert', QUAY, 'x.shp'], 1, 'crs-not-stated', /states no coordinate system.*--from/], [['convert', QUAY, 'x.shp', '--from', 'EPSG:99999'], 1, 'crs-unknown', /EPSG:99999 is not in the registry/],
    [['inspect', 'no-such.dxf'], 1, 'file-missing', /no-such\.dxf is not there/], [['convert', QUAY, 'x.xyz', '--from', 'EPSG:2193'], 2, 'usage', /format of x\.xyz is not known/],
    [['convert', QUAY, 'x.shp', '--from', 'EPSG:2193', '--chord', 'wide'], 2, 'usage', /--chord wants a length/], [['convert', QUAY, 'x.shp', '--from', 'EPSG:2193', '--layer', 'NONE'], 1, 'layer-unknown', /no layer "NONE". The layers are: QUAY-EDGE/],
    [['fly'], 2, 'usage', /no command "fly"/],
  ])('%j ends with %i and says why', (args, exit, code, message) => {
    const { status, json } = pontrel(...args);
    expect(status).toBe(exit);
    expect(json.error.code).toBe(code);
    expect(json.error.message).toMatch(message);
  });
});

describe('memory', () => {
  it('does not grow with the file: 500 000 lines, about 70 MB, cross in under 700 MB', async () => {
    const file = path.join(folder, 'lines.dxf');
    await writeManyLines(file, 500_000);
    expect(statSync(file).size).toBeGreaterThan(60e6);
    const peak = 'data:text/javascript,process.on("exit",()=>console.error("peak",process.resourceUsage().maxRSS))';
    const result = spawnSync(process.execPath, ['--import', peak, CLI, 'convert', file, path.join(folder, 'lines.shp'), '--from', 'EPSG:2193', '--to', 'EPSG:2126', '--json'], { encoding: 'utf8' });
    const kilobytes = Number(/peak (\d+)/.exec(result.stderr)![1]);
    console.log(`peak resident memory ${Math.round(kilobytes / 1024)} MB`);
    expect(JSON.parse(result.stdout).proof).toMatchObject({ status: 'match', records: { in: 500_000, out: 500_000 } });
    expect(kilobytes / 1024).toBeLessThan(700);
  });
});
