import type { Value } from '../src/model/value';
import Database from 'better-sqlite3';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { compileFilter } from '../src/filter/evaluate';
import { POINT } from '../src/model/batch';
import { BatchBuilder } from '../src/model/batch-builder';

type Row = Record<string, Value>;

function taken(text: string, rows: Row[]): number[] {
  const b = new BatchBuilder('L');
  rows.forEach((row, k) => {
    b.vertex(k, 2 * k, 3);
    b.endPart();
    for (const [name, value] of Object.entries(row)) b.set(name, value);
    b.endFeature(POINT, 'POINT', k + 1);
  });
  const filter = compileFilter(text);
  if (typeof filter === 'string') throw new Error(filter);
  const batch = b.take();
  return rows.map((_, i) => i).filter(filter(batch));
}

const PIPES: Row[] = [
  { name: 'Whārangi main', material: 'PE', diameter: 150, laid: '2003-04-01', open: true },
  { name: 'Rope Walk', material: 'cast iron', diameter: 100, laid: '1951-12-31', open: false },
  { name: "O'Neil's", material: null, diameter: null, laid: null, open: null },
  { name: 'rope works_2', material: 'PE', diameter: 63.5, laid: '2020-01-01', open: true },
];

describe('filters', () => {
  it.each([
    // the forms of OGC 21-065r2, sections 6 to 9, on these pipes
    ["material = 'PE'", [0, 3]],
    ["material <> 'PE'", [1]],
    ["NOT material = 'PE'", [1]],
    ['diameter >= 100 AND open = TRUE', [0]],
    ['open', [0, 3]],
    ['NOT open', [1]],
    ["name LIKE 'Rope%'", [1]],
    ["CASEI(name) LIKE CASEI('rope%')", [1, 3]],
    ["ACCENTI(name) LIKE 'Wharangi%'", [0]],
    ["name LIKE '%\\_2'", [3]],
    ["name = 'O''Neil''s'", [2]],
    ['diameter BETWEEN 63.5 AND 100', [1, 3]],
    ['diameter NOT BETWEEN 63.5 AND 100', [0]],
    ["material IN ('PE', 'PVC')", [0, 3]],
    ["material NOT IN ('PE', 'PVC')", [1]],
    ['material IS NULL', [2]],
    ['material IS NOT NULL', [0, 1, 3]],
    ['(diameter + 50) * 2 = 400', [0]],
    ['diameter * 2 > 250 OR diameter < 64', [0, 3]],
    ['diameter % 100 = 50', [0]],
    ['2 ^ 3 = 8 AND diameter div 100 = 1', [0, 1]],
    ["laid < DATE('1990-01-01')", [1]],
    ['"diameter" = 150', [0]],
    ['x > 1', [2, 3]],
    ['Diameter = 150', [0]],
    ["NOT (material = 'PE' OR diameter < 120)", []],
  ] as [string, number[]][])('%s', (text, wanted) => expect(taken(text, PIPES)).toEqual(wanted));

  it('compare a text of digits with a number as one, since the data of drawings are texts', () => {
    expect(taken('D > 100', [{ D: '150' }, { D: '63' }, { D: 'n/a' }, { D: null }])).toEqual([0]);
  });

  it.each([
    ["material = 'PE", /quote at character 12 is not closed/],
    ['material =', /breaks off: a field, a number or a text/],
    ['material', null],
    ['(diameter > 1', /breaks off: "\)" is expected/],
    ['diameter > 1 material', /before "material", AND or OR/],
    ['width = 3', /There is no field width/],
    ['dia = 3', /there is diameter\./],
    ['S_INTERSECTS(geom, BBOX(1,2,3,4))', /so "geometry" is expected/],
    ['S_WITHIN(geometry, LINESTRING(0 0, 1 1))', /POINT, POLYGON, MULTIPOLYGON or BBOX/],
    ['S_WITHIN(geometry, BBOX(1,2,3))', /four numbers/],
    ['S_DISJOINT(geometry, POLYGON((0 0, 1 1)))', /three corners/],
    ['buffer(geometry)', /no function that is known here/],
    ['diameter ! 3', /"!" at character 10/],
    ['diameter NOT 3', /LIKE, BETWEEN or IN is expected/],
    ['('.repeat(2000) + 'diameter > 1' + ')'.repeat(2000), /more than 100 deep/],
  ] as [string, RegExp | null][])('say what is wrong with %.40s', (text, wanted) => {
    const compiled = compileFilter(text, { fields: ['material', 'diameter'] });
    if (wanted) expect(compiled).toMatch(wanted);
    else expect(compiled).toBeTypeOf('function');
  });

  it('take what SQLite takes, null for null', () => {
    const cell = fc.option(fc.integer({ min: -3, max: 3 }), { nil: null }),
      word = fc.option(fc.constantFrom('a', 'ab', 'b_', 'A', '%'), { nil: null });
    const number = fc.oneof(
      fc.constantFrom('p', 'q'),
      fc.integer({ min: -3, max: 3 }).map(String),
      fc
        .tuple(fc.constantFrom('p', 'q'), fc.constantFrom('+', '-', '*'), fc.integer({ min: 0, max: 3 }))
        .map(([a, s, n]) => `(${a} ${s} ${n})`),
    );
    const text = fc.oneof(fc.constantFrom('s', 't'), fc.constantFrom("'a'", "'ab'", "'b_'"));
    const sign = fc.constantFrom('=', '<>', '<', '>', '<=', '>=');
    const simple = fc.oneof(
      fc.tuple(number, sign, number).map((p) => p.join(' ')),
      fc.tuple(text, sign, text).map((p) => p.join(' ')),
      fc.tuple(number, fc.constantFrom('BETWEEN', 'NOT BETWEEN'), number, number).map(([a, how, b, c]) => `${a} ${how} ${b} AND ${c}`),
      fc
        .tuple(number, fc.constantFrom('IN', 'NOT IN'), fc.array(number, { minLength: 1, maxLength: 3 }))
        .map(([a, how, l]) => `${a} ${how} (${l.join(', ')})`),
      fc
        .tuple(fc.constantFrom('s', 't'), fc.constantFrom('LIKE', 'NOT LIKE'), fc.constantFrom("'a%'", "'%b'", "'_'", "'%'", "'a_'", "''"))
        .map((p) => p.join(' ')),
      fc.tuple(fc.constantFrom('p', 's'), fc.constantFrom('IS NULL', 'IS NOT NULL')).map((p) => p.join(' ')),
    );
    const { condition } = fc.letrec<{ condition: string }>((tie) => ({
      condition: fc.oneof(
        { maxDepth: 3 },
        simple,
        fc.tuple(tie('condition'), fc.constantFrom('AND', 'OR'), tie('condition')).map(([a, how, b]) => `(${a}) ${how} (${b})`),
        tie('condition').map((c) => `NOT (${c})`),
      ),
    }));
    const db = new Database(':memory:');
    db.exec('PRAGMA case_sensitive_like = ON; CREATE TABLE r (k INTEGER, p INTEGER, q INTEGER, s TEXT, t TEXT)');
    const insert = db.prepare('INSERT INTO r VALUES (?, ?, ?, ?, ?)');
    fc.assert(
      fc.property(fc.array(fc.record({ p: cell, q: cell, s: word, t: word }), { minLength: 1, maxLength: 8 }), condition, (rows, where) => {
        db.exec('DELETE FROM r');
        rows.forEach((r, k) => insert.run(k, r.p, r.q, r.s, r.t));
        expect(taken(where, rows), where).toEqual(db.prepare(`SELECT k FROM r WHERE ${where} ORDER BY k`).pluck().all());
      }),
      { numRuns: 2000 },
    );
  });
});
