import { writeFileSync } from 'node:fs';
import Database from 'better-sqlite3';
import { afterAll, describe, expect, it } from 'vitest';
import type { LayerRule } from '@pontrel/core/operations/layer-rule';
import { temporaryFolder } from '../server/client';
import { pontrel, python } from './python';

/** What surveyors type into a table, and what it is meant to be. */
const ROWS = [
  { no: '0017', built: '1974', area: '612,5', laid: '09.03.1987', seen: '7:45', note: 'sluice by the ferry steps', pumped: 'yes' },
  { no: '0018', built: '1998?', area: '1,234', laid: '19870310', seen: '07:46:30', note: 'Größe geprüft', pumped: '0' },
  { no: '0019', built: '2003.6', area: '98.7654', laid: '1987-02-30', seen: '25:00', note: '', pumped: 'N' },
];

/** The same by hand: what is no value of the type is null. */
const MEANT = [
  { built: 1974, area: 612.5, laid: '1987-03-09', note: 'sluice', pumped: true },
  { built: null, area: null, laid: '1987-03-10', note: 'Größe ', pumped: false },
  { built: 2004, area: 98.77, laid: null, note: null, pumped: false },
];

const RULE: LayerRule = {
  fields: {
    built: { shape: { type: 'integer', width: 6 } },
    area: { shape: { type: 'decimal', width: 12, decimals: 2 } },
    laid: { shape: { type: 'date' } },
    note: { shape: { type: 'text', width: 6 } },
    pumped: { shape: { type: 'boolean' } },
    seen: { taken: false },
  },
  fieldOrder: ['pumped', 'laid', 'area'],
};

describe('types, widths and order of fields, as a rule states them', () => {
  const { folder, remove } = temporaryFolder();
  afterAll(remove);
  writeFileSync(
    `${folder}/valves.geojson`,
    JSON.stringify({
      type: 'FeatureCollection',
      features: ROWS.map((properties, k) => ({
        type: 'Feature',
        properties,
        geometry: { type: 'Point', coordinates: [171.2 + k / 1000, -44.3] },
      })),
    }),
  );
  const written = (format: string): { findings: { code: string; count: number; message: string; severity: string }[] } => {
    const recipe = {
      version: 1,
      frame: { crs: 'EPSG:2193' },
      chord_m: 0.005,
      deliverables: [{ id: 'd', name: 'Out', format, crs: 'EPSG:2193', grouping: 'layer' }],
      sources: { 'valves.geojson': { placement: { crs: 'EPSG:4326', unit_m: null }, layers: { valves: RULE } } },
    };
    writeFileSync(`${folder}/recipe.json`, JSON.stringify(recipe));
    const { status, json, stderr } = pontrel(
      'convert',
      `${folder}/valves.geojson`,
      `${folder}/${format}`,
      '--recipe',
      `${folder}/recipe.json`,
    );
    expect([status, stderr]).toEqual([0, '']);
    expect(json.proof).toMatchObject({ status: 'match', records: { out: 3 } });
    return json;
  };

  it('stand in a shapefile as pyshp reads it, and what is lost by them is told', () => {
    const { findings } = written('shapefile');
    const read = python<{ fields: [string, string, number, number][]; records: unknown[][] }>(
      'read_table.py',
      `${folder}/shapefile/out/valves.shp`,
    );
    expect(read.fields).toEqual([
      ['pumped', 'L', 1, 0],
      ['laid', 'D', 8, 0],
      ['area', 'N', 12, 2],
      ['no', 'C', 4, 0],
      ['built', 'N', 6, 0],
      // six characters, two of which take two bytes
      ['note', 'C', 8, 0],
    ]);
    expect(read.records).toEqual(MEANT.map((m, k) => [m.pumped, m.laid, m.area, ROWS[k]!.no, m.built, (m.note ?? '').trim()]));
    const told = (code: string): [number, string, string][] =>
      findings.filter((f) => f.code === code).map((f) => [f.count, f.severity, f.message]);
    expect(told('not-of-type')).toEqual([
      [1, 'caution', '1 value of built is not of its type and is left empty (“1998?”).'],
      [1, 'caution', '1 value of area is not of its type and is left empty (“1,234”).'],
      [1, 'caution', '1 value of laid is not of its type and is left empty (“1987-02-30”).'],
    ]);
    expect(told('rounded-by-rule').map(([n, , m]) => [n, m.split(' of ')[1]!.split(' ')[0]])).toEqual([
      [1, 'built'],
      [1, 'area'],
    ]);
    expect(told('cut-by-rule').map(([n]) => n)).toEqual([2]);
  });

  it('stand in a GeoPackage as SQLite reads it', () => {
    written('geopackage');
    const db = new Database(`${folder}/geopackage/out/out.gpkg`, { readonly: true });
    const columns = db.prepare<[], { name: string; type: string }>('PRAGMA table_info(valves)').all();
    expect(columns.slice(2).map((c) => [c.name, c.type])).toEqual([
      ['pumped', 'BOOLEAN'],
      ['laid', 'DATE'],
      ['area', 'DOUBLE'],
      ['no', 'TEXT'],
      ['built', 'INTEGER'],
      ['note', 'TEXT(8)'],
    ]);
    const rows = db.prepare('SELECT built, area, laid, note, pumped FROM valves ORDER BY fid').all();
    expect(rows).toEqual(MEANT.map((m) => ({ ...m, pumped: Number(m.pumped) })));
    db.close();
  });
});
