import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { coordinateOf, hasComma, numberOf, placeColumns } from '../src/formats/table/columns';
import { csv } from '../src/formats/csv/index';
import { quotedValue, RowCutter, separatorOf } from '../src/formats/csv/rows';
import { gpx } from '../src/formats/gpx/index';
import type { FeatureFormat } from '../src/formats/format';
import type { Reading } from '../src/model/reading';
import { UNWATCHED } from '../src/io/bytes';
import { Findings } from '../src/model/finding';
import { plain, type PlainRecord } from './drawing';
import { memorySource } from './memory-files';

async function read(
  format: FeatureFormat,
  name: string,
  text: string | Uint8Array,
  chunk?: number,
): Promise<{ records: PlainRecord[]; findings: string[] }> {
  const findings = new Findings();
  const open = await format.features.open(memorySource(name, typeof text === 'string' ? new TextEncoder().encode(text) : text, {}, chunk));
  const records: PlainRecord[] = [];
  for await (const batch of open.read(findings, UNWATCHED)) records.push(...plain(batch));
  return { records, findings: findings.list().map((f) => `${f.count} ${f.code}`) };
}

const at = (r: PlainRecord): number[] => r.parts[0]![0]!.slice(0, 3);

describe('tables of text', () => {
  it('are cut as RFC 4180 says, however the text comes', () => {
    const value = fc.oneof(fc.string(), fc.constantFrom('', '"', ',', 'a,b', '\n', '\r\n', ' x ', '""'));
    fc.assert(
      fc.property(
        fc.array(fc.array(value, { minLength: 2, maxLength: 4 }), { minLength: 1, maxLength: 5 }),
        fc.constantFrom(',', ';', '\t'),
        fc.constantFrom('\r\n', '\n'),
        fc.integer({ min: 1, max: 9 }),
        (rows, separator, end, size) => {
          const text = rows.map((r) => r.map((v) => quotedValue(v, separator)).join(separator)).join(end) + end;
          const out: string[][] = [];
          const cutter = new RowCutter('t.csv', separator, (row) => out.push(row));
          for (let k = 0; k < text.length; k += size) cutter.push(text.slice(k, k + size));
          cutter.end();
          expect(out).toEqual(rows);
        },
      ),
      { numRuns: 1000 },
    );
  });

  it('have their separator, decimal mark and columns of places found by name and by value', async () => {
    expect([
      separatorOf('a;b;c\n1,5;2;3\n'),
      separatorOf('a\tb\n1\t2\n'),
      separatorOf('a,b\n"1;2",3\n'),
      separatorOf('one column\n1\n'),
    ]).toEqual([';', '\t', ',', ',']);
    expect(
      hasComma(
        [
          ['1464000,25', 'x'],
          ['3,5', ''],
        ],
        ';',
      ),
    ).toBe(true);
    const columns = (names: string[], ...rows: string[][]): unknown => placeColumns(names, rows, false);
    expect(columns(['id', 'Easting (m)', 'Northing (m)', 'RL'], ['1', '1464000', '5101500', '3.2'])).toEqual({
      kind: 'xy',
      x: 1,
      y: 2,
      z: 3,
    });
    // a name alone is not enough
    expect(columns(['x', 'y', 'lon', 'lat'], ['left', 'top', '171', '-44'])).toEqual({ kind: 'xy', x: 2, y: 3, z: null });
    expect(columns(['name', 'shape'], ['a', 'POLYGON ((0 0, 1 0, 1 1, 0 0))'])).toEqual({ kind: 'wkt', column: 1 });
    const { records, findings } = await read(
      csv,
      'corners.csv',
      'Ecke;Rechtswert;Hochwert\n1;2;3\n'.replace('Rechtswert', 'Easting').replace('Hochwert', 'Northing') +
        'AV 1;1.464.000,25;5.101.500,5\n007;;\n',
    );
    expect([records.length, at(records[1]!), findings]).toEqual([3, [1464000.25, 5101500.5, NaN], ['1 table-unplaced']]);
    // a row without coordinates is kept, and lies nowhere
    expect(records[2]).toMatchObject({ kind: 'none', parts: [], attributes: { Ecke: '007' } });
  });

  it.each([
    ['44°13\'43.1"S', -(44 + 13 / 60 + 43.1 / 3600)],
    ['S 44 13 43.1', -(44 + 13 / 60 + 43.1 / 3600)],
    ['171:17:55 E', 171 + 17 / 60 + 55 / 3600],
    ['−44° 30′', -44.5],
    ['-44 30', -44.5],
    ['12.5', 12.5],
    ['1 464 000', 1464000],
    ['north', NaN],
    ['', NaN],
    ['1;2', NaN],
  ])('take the coordinate %s', (text, wanted) => {
    if (Number.isNaN(wanted)) expect(coordinateOf(text, false)).toBeNaN();
    else expect(coordinateOf(text, false)).toBeCloseTo(wanted, 9);
  });

  it('keep marks as texts and take numbers as numbers', async () => {
    const { records } = await read(
      csv,
      't.csv',
      'x,y,parcel,phone,n,big,flag,note\r\n1,2,007,+64,12.50,12345678901234567,TRUE," a ""b"", c\r\nd"\r\n',
    );
    expect(records[0]!.attributes).toEqual({
      x: 1,
      y: 2,
      parcel: '007',
      phone: '+64',
      n: 12.5,
      big: 12345678901234567n,
      flag: true,
      note: ' a "b", c\r\nd',
    });
    expect([numberOf('1.234,5', true), numberOf('1 234', false), numberOf('1e3', false), numberOf('1,5', false)]).toEqual([
      1234.5,
      null,
      1000,
      null,
    ]);
  });

  // Source of the forms: OGC 06-103r4, section 7.2.2; positions of four numbers without a word before them are common practice, no source
  it.each([
    ['POINT M (1 2 30.5)', [[1, 2, NaN]], [30.5]],
    ['POINTZM (1 2 3 -4)', [[1, 2, 3]], [-4]],
    [
      'LINESTRING ZM (1 2 3 4, 5 6 7 NaN)',
      [
        [1, 2, 3],
        [5, 6, 7],
      ],
      [4, null],
    ],
    [
      'LINESTRING (1 2 3 4, 5 6 7 8)',
      [
        [1, 2, 3],
        [5, 6, 7],
      ],
      [4, 8],
    ],
    [
      'LINESTRING Z (1 2 3, 5 6 7)',
      [
        [1, 2, 3],
        [5, 6, 7],
      ],
      undefined,
    ],
    [
      'MULTIPOINT M ((1 2 3), (4 5 6))',
      [
        [1, 2, NaN],
        [4, 5, NaN],
      ],
      [3, 6],
    ],
  ] as const)('read measures of %s', async (text, places, measures) => {
    const [record] = (await read(csv, 't.csv', `n,wkt\n1,"${text}"\n`)).records;
    expect(record!.parts.flat().map((v) => v.slice(0, 3))).toEqual(places);
    expect(record!.measures).toEqual(measures);
  });

  it('read other code pages, and say what is wrong and where', async () => {
    const western = Uint8Array.from([...'x,y,name\n1,2,Élysée\n'].map((c) => c.charCodeAt(0)));
    expect((await read(csv, 't.csv', western)).records[0]!.attributes.name).toBe('Élysée');
    expect(await read(csv, 't.csv', 'a,b\n1,z\n')).toMatchObject({
      findings: ['1 table-no-places'],
      records: [{ kind: 'none', attributes: { a: 1, b: 'z' } }],
    });
    await expect(read(csv, 't.csv', 'x,y,n\n1,2,"open\n3,4,5\n')).rejects.toThrow(/a quote is left open/);
    await expect(read(csv, 't.csv', 'wkt,n\nPOINT (1 2),1\n"POINT (1 b)",2\n')).rejects.toThrow(
      /line 3: the geometry cannot be read: "b" is no number/,
    );
    await expect(read(csv, 't.csv', '')).rejects.toThrow(/t\.csv is empty/);
  });
});

describe('tables of corner points', () => {
  const outline = async (text: string, reading: Reading): Promise<{ records: PlainRecord[]; findings: string[] }> => {
    const findings = new Findings();
    const open = await csv.features.open(memorySource('corners.csv', new TextEncoder().encode(text)), reading);
    const records: PlainRecord[] = [];
    for await (const batch of open.read(findings, UNWATCHED)) records.push(...plain(batch));
    return { records, findings: findings.list().map((f) => `${f.count} ${f.code}`) };
  };
  const xy = { kind: 'xy', x: 'a', y: 'b' } as const;

  it('make closed outlines by a column, in the order of another one, with what their corners have in common', async () => {
    const { records, findings } = await outline(
      'lot,no,a,b,owner,mark\n1,2,30,0,port,peg\n2,1,0,100,town,peg\n1,1,0,0,port,nail\n1,10,0,40,port,peg\n2,2,10,100,town,peg\n1,3,30,40,port,peg\n2,3,10,110,town,peg\n2,4,0.001,100.002,town,peg\n',
      { places: xy, make: 'outline', group: 'lot', order: 'no' },
    );
    expect(records.map((r) => [r.kind, r.parts[0]!.map(([x, y]) => [x, y])])).toEqual([
      [
        'polygon',
        [
          [0, 0],
          [30, 0],
          [30, 40],
          [0, 40],
          [0, 0],
        ],
      ],
      [
        'polygon',
        [
          [0, 100],
          [10, 100],
          [10, 110],
          [0.001, 100.002],
          [0, 100],
        ],
      ],
    ]);
    // 30 by 40; the other one repeats its first corner 2.2 mm off
    expect(records[0]!.attributes).toEqual({ lot: 1, owner: 'port', corners: 4, perimeter: 140, area: 1200, closing_error: 0 });
    expect([records[1]!.attributes.closing_error, records[1]!.attributes.mark]).toEqual([0.0022, 'peg']);
    expect(findings).toEqual(['1 table-closing-error', '2 table-closed', '4 table-corner-values']);
  });

  it('without names are read by the place of their columns; lines are not closed; two corners are no outline', async () => {
    const { records } = await outline('1464000.5 5101500.25\n1464010 5101500.25\n1464010 5101520\n'.replaceAll(' ', '\t'), {
      places: { kind: 'xy', x: 'column_1', y: 'column_2' },
      make: 'line',
    });
    expect(records.map((r) => [r.kind, r.parts[0]!.length, r.attributes.length])).toEqual([['line', 3, 29.25]]);
    expect((await outline('a,b\n1,2\n3,4\n', { places: xy, make: 'outline' })).findings).toEqual(['1 table-few-corners']);
    await expect(outline('c,d\n1,2\n', { places: xy })).rejects.toThrow(/corners\.csv has no column a \(its columns are c, d\)/);
  });

  it('measure what the formula of Gauss and the sum of the sides give, whichever corner comes first', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.tuple(fc.integer({ min: -500, max: 500 }), fc.integer({ min: -500, max: 500 })), { minLength: 4, maxLength: 12 }),
        fc.nat(11),
        async (corners, turn) => {
          const ring = corners.map((_, k) => corners[(k + turn) % corners.length]!);
          const { records } = await outline(`a,b\n${ring.map((p) => p.join(',')).join('\n')}\n`, { places: xy, make: 'outline' });
          let twice = 0,
            around = 0;
          corners.forEach(([x, y], k) => {
            const [u, v] = corners[(k + 1) % corners.length]!;
            twice += x * v - u * y;
            around += Math.hypot(u - x, v - y);
          });
          expect(records[0]!.attributes.area).toBeCloseTo(Math.abs(twice) / 2, 3);
          expect(records[0]!.attributes.perimeter).toBeCloseTo(around, 3);
        },
      ),
      { numRuns: 300 },
    );
  });
});

describe('GPX', () => {
  it('is read as waypoints, routes and tracks, with what their elements and extensions say', async () => {
    const { records } = await read(
      gpx,
      'mow.gpx',
      `<?xml version="1.0"?><gpx version="1.1" creator="x" xmlns="http://www.topografix.com/GPX/1/1"><metadata><name>Mowing</name></metadata>
      <wpt lat="-44.2" lon="171.3"><ele>12.5</ele><time>2026-01-05T08:00:00Z</time><name>Gate</name><sym>Flag</sym><hdop>1.5</hdop><extensions><m:w xmlns:m="u">1.8</m:w></extensions></wpt>
      <rte><name>Round</name><number>3</number><rtept lat="-44.2" lon="171.3"/><rtept lat="-44.3" lon="171.4"/></rte>
      <trk><name>Dune</name><link href="http://localhost/a"><text>x</text></link><trkseg><trkpt lat="-44.2" lon="171.3"><ele>1</ele><time>2026-01-05T08:00:00Z</time></trkpt><trkpt lat="-44.21" lon="171.3"><time>2026-01-05T08:01:00Z</time></trkpt></trkseg><trkseg><trkpt lat="-44.3" lon="171.4"/></trkseg></trk></gpx>`,
      33,
    );
    expect(records.map((r) => [r.layer, r.kind, r.parts.map((p) => p.length)])).toEqual([
      ['waypoints', 'point', [1]],
      ['routes', 'line', [2]],
      ['tracks', 'line', [2, 1]],
    ]);
    expect(at(records[0]!)).toEqual([171.3, -44.2, 12.5]);
    expect(records[0]!.attributes).toEqual({ time: '2026-01-05T08:00:00Z', name: 'Gate', sym: 'Flag', hdop: 1.5, w: '1.8' });
    expect(records[1]!.attributes).toEqual({ name: 'Round', number: 3 });
    expect(records[2]!.attributes).toEqual({
      name: 'Dune',
      link: 'http://localhost/a',
      begin: '2026-01-05T08:00:00Z',
      end: '2026-01-05T08:01:00Z',
      times: '["2026-01-05T08:00:00Z","2026-01-05T08:01:00Z",""]',
    });
  });

  it('says what is wrong', async () => {
    // a point that is nowhere stays behind, and those beside it come
    expect(await read(gpx, 'a.gpx', '<gpx><wpt lat="x" lon="1"/><wpt lat="2" lon="1"/></gpx>')).toMatchObject({
      findings: ['1 gpx-point'],
      records: [{ kind: 'point', parts: [[[1, 2, NaN, 0]]] }],
    });
    await expect(read(gpx, 'a.gpx', '<kml/>')).rejects.toThrow(/outermost element is not gpx/);
  });
});
