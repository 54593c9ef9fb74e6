import type { LayerRule } from '@pontrel/core/operations/layer-rule';
import { spawnSync } from 'node:child_process';
import { writeFileSync } from 'node:fs';
import Database from 'better-sqlite3';
import { afterAll, describe, expect, it } from 'vitest';
import { temporaryFolder } from '../server/client';
import { crossInto, gather } from './cross-file';

/** Points with a code, and a table of codes with gaps on both sides, a double, and a name that the points have too. */
const POINTS =
  'x,y,code,name\n' +
  Array.from({ length: 500 }, (_, k) => `${1_464_000 + k},5101500,${k % 40 === 39 ? '' : `P${k % 97}`},n${k}\n`).join('');
const TABLE =
  'id,name,size,since\n' +
  Array.from({ length: 110 }, (_, k) => `P${k === 50 ? 49 : k},t${k},${k * 1.5},2020-01-0${1 + (k % 9)}\n`).join('');

describe('tables joined by a key', () => {
  const { folder, remove } = temporaryFolder();
  afterAll(remove);
  writeFileSync(`${folder}/points.csv`, POINTS);
  writeFileSync(`${folder}/codes.csv`, TABLE);
  const rule: LayerRule = { join: { source: 'codes.csv', layer: 'codes', key: 'code', to: 'id' } };

  it('give every record what SQLite’s left join gives it, and list the keys that found nothing', async () => {
    const sources = [await gather(`${folder}/points.csv`), await gather(`${folder}/codes.csv`)];
    const { prepared, proof } = await crossInto(folder, sources, {
      format: 'geopackage',
      crs: 'EPSG:2193',
      rules: { points: rule, codes: { taken: false } },
    });
    expect([proof.status, proof.records.out]).toEqual(['match', 500]);
    const db = new Database(`${folder}/plan.gpkg`);
    const ours = db.prepare('SELECT code, name, codes_name, size, since FROM points ORDER BY fid').all();
    db.exec(`CREATE TABLE codes (id TEXT, name TEXT, size REAL, since TEXT)`);
    const insert = db.prepare('INSERT INTO codes VALUES (?, ?, ?, ?)');
    TABLE.trim()
      .split('\n')
      .slice(1)
      .forEach((l) => insert.run(...l.split(',')));
    const theirs = db
      .prepare(
        'SELECT p.code, p.name, c.name AS codes_name, c.size, c.since FROM points p LEFT JOIN (SELECT * FROM codes GROUP BY id HAVING min(rowid)) c ON c.id = p.code ORDER BY p.fid',
      )
      .all();
    expect(ours).toEqual(theirs);
    const [report] = prepared.forecast.rows.filter((r) => r.layer === 'points').map((r) => r.report!.join!);
    // 12 points have no code; P50 and P97 to P109 of the table have no point, where P50 is P49 a second time
    expect([report!.joined, report!.unmatched, report!.doubles]).toEqual([500 - 12 - count(50), 12 + count(50), 1]);
    expect(report!.unusedKeys).toEqual(Array.from({ length: 13 }, (_, k) => `P${97 + k}`));
    expect(report!.unmatchedKeys.filter((k) => k !== '(none)').every((k) => k === 'P50')).toBe(true);
    db.close();
  });

  it('cross by a recipe on the command line, with values listed as others', () => {
    const recipe = {
      version: 1,
      frame: { crs: 'EPSG:2193' },
      chord_m: 0.005,
      deliverables: [{ id: 'd', name: 'Out', format: 'csv', crs: 'EPSG:2193', grouping: 'layer' }],
      sources: {
        'points.csv': {
          placement: { crs: 'EPSG:2193', unit_m: null },
          layers: {
            points: { ...rule, where: "size > 100 AND name LIKE 'n4%'", fields: { code: { values: { P80: 'eighty', P81: '' } } } },
          },
        },
        'codes.csv': { placement: null, layers: { codes: { taken: false } } },
      },
    };
    writeFileSync(`${folder}/recipe.json`, JSON.stringify(recipe));
    const done = spawnSync(
      process.execPath,
      [
        'dist/cli.mjs',
        'convert',
        `${folder}/points.csv`,
        `${folder}/codes.csv`,
        `${folder}/out`,
        '--recipe',
        `${folder}/recipe.json`,
        '--json',
      ],
      { encoding: 'utf8' },
    );
    expect(done.stderr).toBe('');
    const told = JSON.parse(done.stdout) as { proof: { status: string; records: { out: number } } };
    // a filter may ask for a field of the table
    const wanted = POINTS.trim()
      .split('\n')
      .slice(1)
      .map((l) => l.split(','))
      .filter(([, , code, name]) => name!.startsWith('n4') && Number(code?.slice(1) || NaN) * 1.5 > 100);
    expect(told.proof).toMatchObject({ status: 'match', records: { out: wanted.length } });
  });
});

/** Points of the code P with this number. */
const count = (n: number): number => Array.from({ length: 500 }, (_, k) => k).filter((k) => k % 97 === n && k % 40 !== 39).length;
