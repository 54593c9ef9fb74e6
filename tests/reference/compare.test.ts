import { mkdirSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { describe, expect, it } from 'vitest';
import { temporaryFolder } from '../server/client';
import { pontrel, python } from './python';
import type { RevisionsMade as Made } from './revisions-made';

interface Compared {
  error?: { code: string; message: string };
  added: number;
  removed: number;
  moved: number;
  changed: number;
  same: number;
  records: {
    status: string;
    layer: string;
    key?: string;
    old: number | null;
    new: number | null;
    moved_m?: number | null;
    changes?: { field: string; old: unknown; new: unknown }[];
  }[];
  fields: { layer: string; added: string[]; removed: string[] }[];
  findings: { code: string; count: number }[];
}

const { folder } = temporaryFolder();
const compared = (...args: string[]): Compared => {
  const { json } = pontrel('compare', ...args) as { json: Compared };
  expect(json.error?.message).toBe(undefined);
  return json;
};
const counts = ({ added, removed, moved, changed, same }: Compared): number[] => [added, removed, moved, changed, same];

describe.each([
  [1, 60],
  [2, 333],
  [3, 2000],
])('revisions of seed %i, %i records', (seed, count) => {
  const own = path.join(folder, String(seed));
  mkdirSync(own);
  const made = python<Made>('make_revisions.py', { folder: own, seed, count });
  const file = (name: string): string => path.join(own, name);

  it.each(['new.shp', 'far.shp'])(
    'are told apart by their key, whatever their order, where rings begin and in which system: %s',
    (name) => {
      const report = compared(file('old.shp'), file(name), '--key', 'LOT');
      expect(counts(report)).toEqual([made.added, made.removed, made.moved, made.changed + made.both, made.same]);
      expect(report.records.filter((r) => r.status === 'removed').map((r) => r.key)).toEqual(made.removed_lots);
      for (const r of report.records.filter((x) => x.status === 'changed'))
        expect(r.changes).toEqual([{ field: 'OWNER', old: expect.stringMatching(/^owner \d$/), new: 'somebody else' }]);
      expect(report.records.filter((r) => r.status === 'changed' && r.moved_m !== undefined)).toHaveLength(made.both);
      for (const r of report.records.filter((x) => x.status === 'moved')) {
        expect(r.moved_m).toBeGreaterThan(0.01);
        expect(r.moved_m).toBeLessThan(4.3);
      }
    },
  );

  it('are told apart by where they lie, where nothing names them', () => {
    // what has moved and has other values as well is no record of before
    const report = compared(file('old.shp'), file('new.shp'));
    expect(counts(report)).toEqual([made.added + made.both, made.removed + made.both, made.moved, made.changed, made.same]);
  });

  it.each(['new.dxf', 'small.dxf'])('are told apart in drawings, whatever their unit: %s', (name) => {
    const report = compared(file('old.dxf'), file(name));
    const lots = report.records.filter((r) => r.layer === 'LOTS');
    // areas have no values but their colour: what has moved is another one
    const gone = lots.filter((r) => r.status === 'removed').length,
      come = lots.filter((r) => r.status === 'added').length;
    expect([gone + lots.filter((r) => r.status === 'moved').length, come + lots.filter((r) => r.status === 'moved').length]).toEqual([
      made.removed + made.moved + made.both,
      made.added + made.moved + made.both,
    ]);
    // numbers are texts by which each is known again where it has moved
    const numbers = report.records.filter((r) => r.layer === 'NUMBERS');
    expect(numbers.filter((r) => r.status === 'removed')).toHaveLength(made.removed);
    expect(numbers.filter((r) => r.status === 'added')).toHaveLength(made.added);
  });

  it('are the same as themselves, and what one adds the other removes', () => {
    for (const name of ['old.shp', 'new.shp', 'old.dxf', 'small.dxf'])
      expect(counts(compared(file(name), file(name))).slice(0, 4)).toEqual([0, 0, 0, 0]);
    const [there, back] = [compared(file('old.shp'), file('new.shp')), compared(file('new.shp'), file('old.shp'))];
    expect([back.removed, back.added, back.moved, back.changed, back.same]).toEqual([
      there.added,
      there.removed,
      there.moved,
      there.changed,
      there.same,
    ]);
  });
});

describe('odd revisions', () => {
  const geojson = (name: string, features: [Record<string, unknown>, [number, number] | null][]): string => {
    const file = path.join(folder, name);
    writeFileSync(
      file,
      JSON.stringify({
        type: 'FeatureCollection',
        features: features.map(([properties, at]) => ({
          type: 'Feature',
          properties,
          geometry: at && { type: 'Point', coordinates: at },
        })),
      }),
    );
    return file;
  };

  it('with keys that are missing or there twice are compared as far as that goes, and it is told', () => {
    const old = geojson('k1.geojson', [
      [{ id: 'a', v: 1 }, [171, -44]],
      [{ id: 'a', v: 2 }, [171.1, -44]],
      [{ id: null, v: 3 }, [171.2, -44]],
    ]);
    const next = geojson('k2.geojson', [
      [{ id: 'a', v: 1 }, [171, -44]],
      [{ id: 'b', v: 2 }, [171.1, -44]],
    ]);
    const report = compared(old, next, '--key', 'id');
    expect(counts(report)).toEqual([1, 2, 0, 0, 1]);
    expect(report.findings.filter((f) => f.code.startsWith('key-'))).toMatchObject([
      { code: 'key-missing', count: 1 },
      { code: 'key-twice', count: 1 },
    ]);
  });

  it('with records in one place, with none, and with other fields', () => {
    const old = geojson('p1.geojson', [
      [{ v: 1, gone: 1 }, [171, -44]],
      [{ v: 1, gone: 1 }, [171, -44]],
      [{ v: 2, gone: 1 }, null],
    ]);
    const next = geojson('p2.geojson', [
      [{ v: 1, come: 1 }, [171, -44]],
      [{ v: 2, come: 1 }, null],
      [{ v: 5, come: 1 }, null],
    ]);
    const report = compared(old, next);
    expect(counts(report)).toEqual([1, 1, 0, 0, 2]);
    expect(report.fields).toMatchObject([{ added: ['come'], removed: ['gone'] }]);
  });

  it('that differ in a measure, a height, an arc or the direction of a line alone are not the same', () => {
    const line = (name: string, wkt: string): string => {
      const file = path.join(folder, name);
      writeFileSync(file, `name;wkt\nroute;"${wkt}"\n`);
      return file;
    };
    const base = line('m0.csv', 'LINESTRING ZM (0 0 1 10, 5 0 1 20, 9 4 1 30)');
    expect(counts(compared(base, line('m1.csv', 'LINESTRING ZM (0 0 1 10, 5 0 1 20, 9 4 1 30)')))).toEqual([0, 0, 0, 0, 1]);
    for (const [k, other] of [
      'LINESTRING ZM (0 0 1 10, 5 0 1 21, 9 4 1 30)',
      'LINESTRING ZM (0 0 1 10, 5 0 1.01 20, 9 4 1 30)',
      'LINESTRING ZM (9 4 1 30, 5 0 1 20, 0 0 1 10)',
      'LINESTRING ZM (0 0 1 10, 5 0 1 20, 7 2 1 25, 9 4 1 30)',
    ].entries())
      expect(counts(compared(base, line(`n${k}.csv`, other)))).toEqual([0, 0, 1, 0, 0]);
    const arc = (name: string, bulge: number): string => {
      const file = path.join(folder, name);
      const corners = [
        [0, 0, bulge],
        [10, 0, 0],
      ];
      const groups = corners.flatMap(([x, y, b]) => ['10', x, '20', y, '42', b]);
      const entity = ['0', 'LWPOLYLINE', '8', 'ARCS', '90', '2', '70', '0', ...groups];
      writeFileSync(file, ['0', 'SECTION', '2', 'ENTITIES', ...entity, '0', 'ENDSEC', '0', 'EOF', ''].join('\n'));
      return file;
    };
    expect(counts(compared(arc('a.dxf', 0.4), arc('b.dxf', 0.4)))).toEqual([0, 0, 0, 0, 1]);
    expect(counts(compared(arc('a.dxf', 0.4), arc('c.dxf', -0.4))).slice(4)).toEqual([0]);
  });

  it('are refused with a sentence where the key is no field, the tolerance none, or a file is missing', () => {
    const file = geojson('r.geojson', [[{ a: 1 }, [171, -44]]]);
    const said = (...args: string[]): string => (pontrel('compare', ...args).json as Compared).error!.message;
    expect(said(file, file, '--key', 'b')).toMatch(/has no field b\. It has a/);
    expect(said(file, file, '--tolerance', '-1')).toMatch(/length in metres/);
    expect(said(file, path.join(folder, 'none.shp'))).toMatch(/is not there/);
  });
});
