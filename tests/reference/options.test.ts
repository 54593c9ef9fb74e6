import { readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { afterAll, describe, expect, it } from 'vitest';
import { temporaryFolder } from '../server/client';
import { pontrel, python } from './python';

const { folder, remove } = temporaryFolder();
afterAll(remove);

interface Label {
  text: string;
  at: [number, number];
  halign: number;
  valign: number;
  color: string | null;
  height: number;
  rotation: number;
}
interface Told {
  dxf: { version: string; labels: Label[]; errors: number; kinds: string[]; blocks: string[]; attributes: string[] }[];
  kml: { names: (string | null)[]; descriptions: (string | null)[]; about: string | null; regions: number }[];
  csv: string[][][];
}

const LAMPS = path.join(folder, 'lamps.geojson');
const AT = [171.25, -44.4];
writeFileSync(
  LAMPS,
  JSON.stringify({
    type: 'FeatureCollection',
    features: ['L-7', '=1+1', '-5', '@home'].map((LAMP_NO, k) => ({
      type: 'Feature',
      properties: { LAMP_NO, turn: 30, note: `note ${k}` },
      geometry: { type: 'Point', coordinates: [AT[0]! + k / 1000, AT[1]] },
    })),
  }),
);

let made = 0;
/** Writes the lamps with options, and reads the file with something else. */
function written(extension: 'dxf' | 'kml' | 'csv', options: Record<string, string>): { told: Told; json: any } {
  const out = path.join(folder, `${made++}.${extension}`);
  const given = Object.entries(options).flatMap(([name, value]) => ['--option', `${name}=${value}`]);
  const { json } = pontrel('convert', LAMPS, out, '--to', extension === 'dxf' ? 'EPSG:2193' : 'EPSG:4326', ...given);
  return { json, told: json.error ? (null as never) : python<Told>('read_options.py', { [extension]: [out] }) };
}
const drawn = (options: Record<string, string>): Told['dxf'][0] => written('dxf', options).told.dxf[0]!;
const marked = (options: Record<string, string>): Told['kml'][0] => written('kml', options).told.kml[0]!;

describe('options of drawings have their effect, as ezdxf finds it', () => {
  const LABEL = { label: '{LAMP_NO}' };
  it('labels: text, colour, height, rotation, and where they stand beside the point or on it', () => {
    const plain = drawn(LABEL);
    expect(plain.labels.map((l) => l.text)).toEqual(['L-7', '=1+1', '-5', '@home']);
    expect(drawn({ ...LABEL, label_color: '#a8492a' }).labels.map((l) => l.color)).toEqual(new Array(4).fill('#a8492a'));
    expect(drawn({ ...LABEL, label_height: '2.5' }).labels.map((l) => l.height)).toEqual(new Array(4).fill(2.5));
    expect(drawn({ ...LABEL, label_angle: 'turn' }).labels.map((l) => l.rotation)).toEqual(new Array(4).fill(30));
    // DXF Reference, TEXT: 72 is 0 left, 1 centre, 2 right, 4 middle; 73 is 1 bottom, 2 middle, 3 top
    const place = (label_place: string, label_gap = '3'): Label => drawn({ ...LABEL, label_place, label_gap }).labels[0]!;
    const middle = place('middle', '0.001');
    const moved = (l: Label): number[] => [l.at[0] - middle.at[0], l.at[1] - middle.at[1]].map((d) => Math.round(d * 100) / 100 + 0);
    expect([middle.halign, middle.valign]).toEqual([4, 0]);
    for (const [name, move, halign] of [
      ['right', [3, 0], 0],
      ['left', [-3, 0], 2],
      ['above', [0, 3], 1],
      ['below', [0, -3], 1],
    ] as const) {
      const label = place(name);
      expect([name, moved(label), label.halign]).toEqual([name, move, halign]);
    }
  });

  it('points as blocks with a symbol and its size, or as texts; data as attributes; versions', () => {
    const blocks = drawn({ points: 'block', symbol: 'POINT_CROSS', data: 'attributes' });
    expect([blocks.kinds, blocks.blocks]).toEqual([['INSERT'], ['POINT_CROSS']]);
    expect(blocks.attributes).toEqual(expect.arrayContaining(['LAMP_NO', 'NOTE', 'TURN'].filter((t) => blocks.attributes.includes(t))));
    expect(blocks.attributes.length).toBe(3);
    expect(drawn({ points: 'text', ...LABEL }).kinds).toEqual(['TEXT']);
    for (const [version, mark] of [
      ['R12', 'AC1009'],
      ['R2000', 'AC1015'],
      ['R2010', 'AC1024'],
      ['R2018', 'AC1032'],
    ] as const) {
      const told = drawn({ version });
      expect([told.version, told.errors]).toEqual([mark, 0]);
    }
  });
});

describe('options of KML have their effect', () => {
  it('name, balloon, text of fields, description and folders seen from near', () => {
    expect(marked({ name: 'Lamp {LAMP_NO}' }).names).toEqual(['Lamp L-7', 'Lamp =1+1', 'Lamp -5', 'Lamp @home']);
    expect(marked({ balloon: 'none' }).descriptions).toEqual([null, null, null, null]);
    expect(marked({ balloon: 'table' }).descriptions[0]).toContain('note 0');
    expect(marked({ balloon: 'text', text: '{note} of {LAMP_NO}' }).descriptions[0]).toContain('note 0 of L-7');
    expect(marked({ description: 'Lamps of the quay' }).about).toContain('Lamps of the quay');
    expect([marked({ shown: 'near' }).regions > 0, marked({}).regions]).toEqual([true, 0]);
  });
});

describe('options of tables have their effect', () => {
  const rows = (options: Record<string, string>): string[][] => written('csv', options).told.csv[0]!;
  it('texts that begin as formulas do are guarded unless they are not to be, numbers are not, and come back as they were', () => {
    const guarded = written('csv', {});
    const [head, ...cells] = guarded.told.csv[0]!;
    const column = head!.indexOf('LAMP_NO');
    expect(cells.map((row) => row[column])).toEqual(['L-7', "'=1+1", '-5', "'@home"]);
    expect(guarded.json.findings).toContainEqual(expect.objectContaining({ code: 'csv-formula-guarded', count: 2 }));
    const back = path.join(folder, 'back.geojson');
    const { json } = pontrel('convert', guarded.json.outputs[0].path, back);
    expect(json.findings).toContainEqual(expect.objectContaining({ code: 'csv-formula-guarded', count: 2, severity: 'info' }));
    const again = pontrel('convert', back, path.join(folder, 'again.csv'), '--option', 'formulas=plain').json;
    const plain = python<Told>('read_options.py', { csv: [again.outputs[0].path] }).csv[0]!;
    expect(plain.slice(1).map((row) => row[plain[0]!.indexOf('LAMP_NO')])).toEqual(['L-7', '=1+1', '-5', '@home']);
  });

  it('separator, decimal mark, and positions as text', () => {
    const { json } = written('csv', { separator: 'semicolon', decimal: 'comma' });
    const [head, first] = readFileSync(json.outputs[0].path, 'utf8').replace('\ufeff', '').split('\r\n');
    expect([head, first]).toEqual(['x;y;LAMP_NO;turn;note', '171,25;-44,4;L-7;30;note 0']);
    expect(rows({ places: 'wkt' })[1]![0]).toBe('POINT (171.25 -44.4)');
  });
});

describe('a template or a field that does not exist', () => {
  it.each([
    ['kml', 'name', 'LAMP_NO', /"LAMP_NO" asks for no field.*\{LAMP_NO\}.*The fields are LAMP_NO, turn, note/],
    ['kml', 'name', '{LAMP}', /No record has a value in a field LAMP\. The fields are LAMP_NO/],
    ['kml', 'image', 'photo', /No record has a value in a field photo/],
    ['dxf', 'label', '{LAMP_NO', /is not closed/],
    ['dxf', 'label', 'Lamp', /asks for no field/],
    ['dxf', 'label_color', 'red', /A colour stands as #rrggbb/],
  ] as const)('%s %s=%s is refused with what there is', (extension, option, value, message) => {
    const { json } = written(extension, { ...(option === 'label_color' ? { label: '{LAMP_NO}' } : {}), [option]: value });
    expect(json.error.message).toMatch(message);
  });
});
