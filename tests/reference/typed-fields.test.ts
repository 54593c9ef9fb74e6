import { readFileSync } from 'node:fs';
import { generic } from 'flatgeobuf';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { pontrel, python } from './python';
import { temporaryFolder } from '../server/client';

interface Told {
  fields: [string, string, number?, number?][];
  rows: Record<string, unknown>[];
}

const BIG = ['123456789012345678', '-9223372036854775808', '9223372036854775807', '7'];
const SEALS = [0, 1, 2, 3].map((k) => Array.from({ length: k * 60 }, (_, i) => i.toString(16).padStart(2, '0')).join(''));
const SEEN = ['2026-03-09T14:30:00.000Z', '1987-12-31T23:59:59.500Z', '2000-02-29T00:00:00.000Z', null];

/** What a file holds, by a program that is not ours; whole numbers as text, since JSON on the way here would round them. */
function readByOthers(file: string): Told {
  const text = JSON.stringify(python<unknown>('exact.py', { script: 'read_typed.py', files: [file] }));
  return (JSON.parse(text) as Told[])[0]!;
}

describe('typed fields come back as they were, by way of every format that has room for them', () => {
  const { folder, remove } = temporaryFolder();
  afterAll(remove);
  let made: { gpkg: string; shp: string };
  beforeAll(() => {
    made = python('make_typed.py', { folder });
  });

  function cross(input: string, name: string): { told: Told; json: any; file: string } {
    const file = `${folder}/${name}`;
    const { status, json } = pontrel('convert', input, file, '--from', 'EPSG:2193', '--to', 'EPSG:2193');
    expect(json.error).toBeUndefined();
    expect([status, json.proof.status]).toEqual([0, 'match']);
    return { told: readByOthers(json.outputs[0].path), json, file: json.outputs[0].path };
  }

  it('a container to a container: types, lengths, and every value', () => {
    const { told } = cross(made.gpkg, 'again.gpkg');
    expect(told.fields.slice(2)).toEqual([
      ['big', 'INTEGER'],
      ['title', 'TEXT(40)'],
      ['seen', 'DATETIME'],
      ['day', 'DATE'],
      ['seal', 'BLOB'],
      ['flag', 'BOOLEAN'],
      ['ratio', 'DOUBLE'],
      ['none', 'TEXT(12)'],
    ]);
    expect(told.rows.map((r) => String(r.big))).toEqual(BIG);
    expect(told.rows.map((r) => r.seal)).toEqual(SEALS);
    expect(told.rows.map((r) => r.seen)).toEqual(SEEN);
    expect(told.rows.map((r) => r.title)).toEqual(['Wharf', '007', 'Ōtautahi', null]);
  });

  it('to a shapefile and back: 64 bits in a number of twenty characters, and the width of a text', () => {
    const { told, file } = cross(made.gpkg, 'typed.shp');
    const fields = Object.fromEntries(told.fields.map(([name, ...rest]) => [name, rest]));
    expect(fields.big).toEqual(['N', 20, 0]);
    expect(fields.title).toEqual(['C', 40, 0]);
    expect(fields.none).toEqual(['C', 12, 0]);
    expect(told.rows.map((r) => String(r.big))).toEqual(BIG);
    expect(cross(file, 'home.gpkg').told.rows.map((r) => String(r.big))).toEqual(BIG);
  });

  it('a shapefile to a shapefile keeps C40, N12.3 and a field without a value', () => {
    const { told } = cross(made.shp, 'kept.shp');
    expect(told.fields).toEqual([
      ['TITLE', 'C', 40, 0],
      ['LEVEL', 'N', 12, 3],
      ['BIG', 'N', 18, 0],
      ['DAY', 'D', 8, 0],
      ['NOTHING', 'C', 25, 0],
    ]);
    expect(told.rows.map((r) => [r.TITLE, r.LEVEL, String(r.BIG), r.DAY])).toEqual([
      ['Wharf', 3.25, '123456789012345678', '2026-03-09'],
      ['Quay', -10, '5', '1987-12-31'],
    ]);
  });

  it('by way of FlatGeobuf, with moments and bytes, as the library of its makers reads it', async () => {
    const out = `${folder}/typed.fgb`;
    const { json } = pontrel('convert', made.gpkg, out, '--to', 'EPSG:2193');
    expect(json.proof.status).toBe('match');
    const rows: Record<string, unknown>[] = [];
    let columns: { name: string; width: number }[] = [];
    const fromFeature = (_id: number, feature: never, header: { columns: never }): unknown => {
      columns = header.columns;
      return generic.parseProperties(feature, header.columns);
    };
    for await (const row of generic.deserialize(new Uint8Array(readFileSync(out)), { fromFeature } as never))
      rows.push(row as unknown as Record<string, unknown>);
    expect(rows.map((r) => r.seen ?? null)).toEqual(SEEN);
    expect(rows.map((r) => Buffer.from((r.seal as Uint8Array | undefined) ?? []).toString('hex'))).toEqual(SEALS);
    expect(columns.find((c) => c.name === 'title')!.width).toBe(40);
    const { told } = cross(out, 'from-fgb.gpkg');
    expect(told.rows.map((r) => String(r.big))).toEqual(BIG);
    expect(told.rows.map((r) => r.seal)).toEqual(SEALS);
    expect(told.fields.find(([name]) => name === 'seen')).toEqual(['seen', 'DATETIME']);
  });

  it('by way of GML, by its schema', () => {
    const { told, file } = cross(made.gpkg, 'typed.gml');
    expect(told.rows.map((r) => r.big)).toEqual(BIG);
    expect(told.rows.map((r) => r.seen ?? null)).toEqual(SEEN);
    const home = cross(file, 'from-gml.gpkg').told;
    expect(home.rows.map((r) => String(r.big))).toEqual(BIG);
    expect(home.rows.map((r) => r.seal ?? '')).toEqual(SEALS);
    expect(home.fields.find(([name]) => name === 'seen')).toEqual(['seen', 'DATETIME']);
  });

  it.each(['geojson', 'csv', 'gpx'])('by way of %s, every digit', (extension) => {
    const prescribed = extension === 'geojson' || extension === 'gpx' ? [] : ['--to', 'EPSG:2193'];
    const out = `${folder}/typed.${extension}`;
    const there = pontrel('convert', made.gpkg, out, ...prescribed);
    expect([there.json.error, there.json.proof?.status]).toEqual([undefined, 'match']);
    const file = there.json.outputs[0].path as string;
    if (extension !== 'gpx') expect(readByOthers(file).rows.map((r) => String(r.big))).toEqual(BIG);
    const back = pontrel(
      'convert',
      file,
      `${folder}/from-${extension}.gpkg`,
      '--from',
      there.json.proof.ways.length ? 'EPSG:2193' : 'EPSG:4326',
      '--to',
      'EPSG:2193',
    );
    expect(back.json.error).toBeUndefined();
    expect(readByOthers(back.json.outputs[0].path).rows.map((r) => String(r.big))).toEqual(BIG);
  });

  it('by way of a drawing, as extended data, with bytes', () => {
    const { told, file } = cross(made.gpkg, 'typed.dxf');
    expect(told.rows.slice(0, 3).map((r) => r.big)).toEqual(BIG.slice(0, 3).map((n) => ['integer', n]));
    const home = cross(file, 'from-dxf.gpkg').told;
    expect(home.rows.map((r) => String(r.big))).toEqual(BIG);
    expect(home.rows.slice(1).map((r) => r.seal)).toEqual(SEALS.slice(1));
  });

  it('where a number would be rounded it becomes a text, which the forecast says', () => {
    const { told, json } = cross(made.gpkg, 'typed.xlsx');
    expect(told.rows.slice(0, 3).map((r) => r.big)).toEqual(BIG.slice(0, 3));
    expect(json.findings).toContainEqual(
      expect.objectContaining({ code: 'field-as-text', message: expect.stringMatching(/^big: whole numbers of more than 15 digits/) }),
    );
  });
});
