import { afterAll, describe, expect, it } from 'vitest';
import { temporaryFolder } from '../server/client';
import { pontrel, python } from './python';

interface Site {
  lines: number[][][];
  unit: number | null;
  system: string | null;
}

/** $INSUNITS of millimetres, and of a drawing without a unit. Source: DXF Reference, HEADER section. */
const MILLIMETRES = 4,
  UNITLESS = 0;

describe('a drawing on a site grid crosses in a plane of its own', () => {
  const { folder, remove } = temporaryFolder();
  afterAll(remove);
  const site = `${folder}/site.dxf`;
  const drawn = python<number[][][]>('make_site.py', { file: site, insunits: MILLIMETRES }).map((line) => line.map((p) => p.slice(0, 2)));
  const sorted = (lines: number[][][]): string[] => lines.map((line) => JSON.stringify(line)).sort();

  const cross = (input: string, name: string, ...more: string[]): { status: number; json: any; file: string } => {
    const { status, json } = pontrel('convert', input, `${folder}/${name}`, ...more);
    return { status, json, file: json.outputs?.[0].path };
  };

  it.each([
    ['out.dxf', /^$/],
    ['out.shp', /^LOCAL_CS\[.*UNIT\["millimetre",0\.001\]/],
    ['out.gpkg', /^LOCAL_CS\[.*UNIT\["millimetre",0\.001\]/],
  ])('%s: proved, with numbers and unit as another program finds them, and no system invented', (name, system) => {
    const { status, json, file } = cross(site, name, '--from', 'local');
    expect(json.error).toBeUndefined();
    expect([status, json.proof.status]).toEqual([0, 'match']);
    const [told] = python<Site[]>('read_site.py', { files: [file] });
    expect(sorted(told!.lines)).toEqual(sorted(drawn));
    expect(told!.system ?? '').toMatch(system);
    if (name.endsWith('.dxf')) expect(told!.unit).toBe(MILLIMETRES);
  });

  it('comes back from each, which states its plane by itself', () => {
    for (const name of ['out.shp', 'out.gpkg', 'out.fgb', 'out.csv', 'out.xlsx']) {
      expect(cross(site, name, '--from', 'local').json.proof.status).toBe('match');
      const { json, file } = cross(`${folder}/${name}`, `back-${name.slice(4)}.dxf`);
      expect([name, json.error, json.proof?.status]).toEqual([name, undefined, 'match']);
      const [told] = python<Site[]>('read_site.py', { files: [file] });
      expect([name, sorted(told!.lines)]).toEqual([name, sorted(drawn)]);
      expect([name, told!.unit]).toEqual([name, MILLIMETRES]);
    }
  });

  it('is carried into another unit where that is asked for', () => {
    const { json, file } = cross(site, 'metres.dxf', '--from', 'local', '--to', 'LOCAL_CS["Local plane (metre)",UNIT["metre",1]]');
    expect(json.proof.status).toBe('match');
    const [told] = python<Site[]>('read_site.py', { files: [file] });
    expect(told!.unit).toBe(6);
    const numbers = told!.lines.flat(2).sort((a, b) => a - b);
    const wanted = drawn.flat(2).sort((a, b) => a - b);
    expect(Math.max(...numbers.map((v, k) => Math.abs(1000 * v - wanted[k]!)))).toBeLessThan(1e-6);
  });

  it.each([
    ['out.geojson', []],
    ['named.geojson', ['--option', 'form=named']],
    ['out.kml', []],
    ['out.gpx', []],
    ['out.gml', []],
    ['out.shp', ['--to', 'EPSG:2193']],
  ])('%s is refused, with the reason and what to do', (name, more) => {
    const { status, json } = cross(site, name, '--from', 'local', ...more);
    expect(status).not.toBe(0);
    expect(json.error.message).toMatch(/no place on earth|states a system by its number/);
    expect(json.error.message).toMatch(/Place|Choose/);
  });

  it('a drawing without a unit is taken for metres, and says so; a named plane is no other plane', () => {
    python('make_site.py', { file: `${folder}/bare.dxf`, insunits: UNITLESS });
    const { json } = cross(`${folder}/bare.dxf`, 'bare.shp', '--from', 'local');
    expect(json.proof.status).toBe('match');
    expect(json.findings.map((f: any) => f.code)).toContain('local-unit-taken');
    const harbour = 'LOCAL_CS["Harbour grid",UNIT["millimetre",0.001]]';
    expect(cross(site, 'harbour.shp', '--from', harbour).json.proof.status).toBe('match');
    const other = cross(`${folder}/harbour.shp`, 'mine.shp', '--to', 'LOCAL_CS["Mine grid",UNIT["millimetre",0.001]]');
    expect(other.json.error.message).toMatch(/planes of different sites/);
  });
});
