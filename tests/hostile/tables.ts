import Database from 'better-sqlite3';
import { strToU8, zipSync } from 'fflate';
import { blobOf, dbfOf, feature, featuresOf, gpkgOf, kmlOf, placemark, POINT } from '../odd/files';
import { filesOf, type HostileFile, many } from './hostile';

const POSITION = blobOf({ byte: 1 }, { int: 1 }, { real: 1464000 }, { real: 5101500 });

const HEAD_OF_BLOB = blobOf();
/** A point, and a collection of one thing, as well-known binary without a header. */
const PLAIN = blobOf({ byte: 1 }, { int: 1 }, { real: 1464000 }, { real: 5101500 }).slice(HEAD_OF_BLOB.length),
  NESTED = blobOf({ byte: 1 }, { int: 7 }, { int: 1 }).slice(HEAD_OF_BLOB.length);
const joined = (...parts: Uint8Array[]): Uint8Array => new Uint8Array(Buffer.concat(parts));

/** A sound container of one record in the table t, and then what this SQL makes of it. */
const container =
  (sql: string, hostile: () => Uint8Array[] = () => []): (() => Uint8Array) =>
  () => {
    const db = new Database(Buffer.from(gpkgOf([POSITION, ...hostile()])));
    db.unsafeMode();
    db.exec(sql);
    const bytes = new Uint8Array(db.serialize());
    db.close();
    return bytes;
  };

/** A view that the container lists as a table with positions. */
const view = (select: string): (() => Uint8Array) =>
  container(`CREATE VIEW v AS ${select};
INSERT INTO gpkg_contents (table_name, data_type, srs_id) VALUES ('v', 'features', 2193);
INSERT INTO gpkg_geometry_columns VALUES ('v', 'geom', 'GEOMETRY', 2193, 0, 0);`);

const ENDLESS = 'WITH RECURSIVE c(n) AS (SELECT 1 UNION ALL SELECT n + 1 FROM c)';

const CONTAINERS = filesOf('.gpkg', {
  'a view that never ends and has no row': view(`${ENDLESS} SELECT n AS fid, x'00' AS geom FROM c WHERE n < 0`),
  'a view that never ends': view(`${ENDLESS} SELECT c.n AS fid, t.geom FROM c, t`),
  'a view of a hundred thousand million rows': view(
    'WITH RECURSIVE c(n) AS (SELECT 1 UNION ALL SELECT n + 1 FROM c WHERE n < 10000) SELECT a.n AS fid, t.geom FROM c a, c b, c d, t ORDER BY random()',
  ),
  'a view of a row of a hundred million bytes': view('SELECT 1 AS fid, geom, hex(zeroblob(100000000)) AS big FROM t'),
  'a view of a row that is too big for any row': view('SELECT 1 AS fid, geom, hex(zeroblob(999999999)) AS big FROM t'),
  'a list of contents that never ends': container(`CREATE TABLE kept AS SELECT * FROM gpkg_contents; DROP TABLE gpkg_contents;
CREATE VIEW gpkg_contents AS ${ENDLESS} SELECT 't' || n AS table_name, 'features' AS data_type, 2193 AS srs_id FROM c`),
  'a list of contents that never ends and has no row': container(`DROP TABLE gpkg_contents;
CREATE VIEW gpkg_contents AS ${ENDLESS} SELECT 't' AS table_name, 'features' AS data_type, 2193 AS srs_id FROM c WHERE n < 0`),
  'systems that never end': container(`DROP TABLE gpkg_spatial_ref_sys;
CREATE VIEW gpkg_spatial_ref_sys AS ${ENDLESS} SELECT n AS srs_id, 'x' AS organization, 1 AS organization_coordsys_id, 'x' AS definition FROM c WHERE n < 0`),
  'styles that never end': container(`CREATE VIEW gpkgext_styles AS ${ENDLESS} SELECT n AS id, 't' AS style FROM c WHERE n < 0;
CREATE VIEW gpkgext_stylesheets AS SELECT 1 AS id, 1 AS style_id, 'sld' AS format, 'x' AS stylesheet`),
  'a column that is reckoned without end': container(
    `CREATE TABLE g (fid INTEGER PRIMARY KEY, geom BLOB, big TEXT AS (hex(zeroblob(200000000))) VIRTUAL); INSERT INTO g (geom) SELECT geom FROM t;
INSERT INTO gpkg_contents (table_name, data_type, srs_id) VALUES ('g', 'features', 2193); INSERT INTO gpkg_geometry_columns VALUES ('g', 'geom', 'GEOMETRY', 2193, 0, 0);`,
  ),
  'a table of 1,900 columns': container(`${many(1900, (k) => `ALTER TABLE t ADD COLUMN c${k} TEXT;`)}`),
  'a thousand tables': container(
    many(
      1000,
      (k) =>
        `CREATE TABLE x${k} (fid INTEGER PRIMARY KEY, geom BLOB); INSERT INTO gpkg_contents (table_name, data_type, srs_id) VALUES ('x${k}', 'features', 2193); INSERT INTO gpkg_geometry_columns VALUES ('x${k}', 'geom', 'GEOMETRY', 2193, 0, 0);`,
    ),
  ),
  'a table of tables that search texts': container(
    `CREATE VIRTUAL TABLE f USING fts5(a); INSERT INTO f VALUES ('x'); INSERT INTO gpkg_contents (table_name, data_type, srs_id) VALUES ('f', 'attributes', 0);`,
  ),
  'a table with a trigger, named as SQL': container(
    `CREATE TABLE "x""; DROP TABLE t; --" (fid INTEGER PRIMARY KEY, geom BLOB); INSERT INTO gpkg_contents (table_name, data_type, srs_id) VALUES ('x"; DROP TABLE t; --', 'features', 2193);
CREATE TRIGGER r AFTER INSERT ON t BEGIN SELECT load_extension('x'); END;`,
  ),
  'a geometry of a hundred million zeros': container('UPDATE t SET geom = zeroblob(100000000)'),
  'a text of a hundred million letters': container('ALTER TABLE t ADD COLUMN big TEXT; UPDATE t SET big = hex(zeroblob(50000000))'),
  'a line of four billion vertices': container('', () => [blobOf({ byte: 1 }, { int: 2 }, { int: 0xffffffff }, { real: 1 }, { real: 2 })]),
  'an area of four billion rings': container('', () => [blobOf({ byte: 1 }, { int: 3 }, { int: 0xffffffff }, { int: 0xffffffff })]),
  'collections 50,000 deep': container('', () => [joined(HEAD_OF_BLOB, ...Array.from({ length: 50_000 }, () => NESTED), PLAIN)]),
  'a collection of 100,000 points': container('', () => [
    joined(blobOf({ byte: 1 }, { int: 7 }, { int: 100_000 }), ...Array.from({ length: 100_000 }, () => PLAIN)),
  ]),
  'positions of no number': container('', () =>
    [NaN, Infinity, -1e308, 1e308].map((v) => blobOf({ byte: 1 }, { int: 1 }, { real: v }, { real: v })),
  ),
});

const wide = (columns: number, rows: number): string => many(rows, (r) => many(columns, (c) => (r === 0 ? `c${c}` : '1'), ','), '\n');
const LISTS = filesOf('.csv', {
  'a line of fifty million letters': () => 'x,y\n' + 'z'.repeat(50_000_000),
  'a head of 100,000 columns': () => wide(100_000, 3),
  'a head of 2,000 columns and 500 rows': () => wide(2000, 500),
  'a quote that never closes': () => 'x,y,t\n1,2,"' + 'q\n'.repeat(10_000_000),
  'a name of 100,000 letters, twice': () => `x,y,${'n'.repeat(100_000)},${'n'.repeat(100_000)}\n171,-44,1,2\n`,
  'ten million empty lines': () => 'x,y\n171,-44\n' + '\n'.repeat(10_000_000),
  'a million commas in a line': () => 'x,y\n171,-44' + ','.repeat(1_000_000),
  'nothing but zeros': () => new Uint8Array(20_000_000),
  'a geometry of brackets a million deep': () => `wkt,a\n"${'GEOMETRYCOLLECTION('.repeat(1_000_000)}",1\n"POINT(1 2)",2\n`,
  'a geometry of a million vertices': () => `wkt,a\n"LINESTRING(${many(1_000_000, (k) => `${k} ${k}`, ',')})",1\n`,
  'a geometry of numbers without end': () => `wkt,a\n"POINT(${'1'.repeat(5_000_000)} ${'2'.repeat(5_000_000)})",1\n"POINT(1e999 nan)",2\n`,
  'positions in 200,000 ways that are none': () => 'lat,lon\n' + many(200_000, (k) => `${k}°${k}'${k}",${'-'.repeat(k % 50)}\n`),
  'heads that are all one another': () => 'x,x,x,x,y,y,y,y\n' + many(1000, () => '1,2,3,4,5,6,7,8\n'),
});

/** The parts of a workbook beside its sheet. */
const book = (rows: string, shared = ''): Uint8Array => {
  const main = 'http://schemas.openxmlformats.org/spreadsheetml/2006/main',
    relations = 'http://schemas.openxmlformats.org/officeDocument/2006/relationships';
  return zipSync({
    'xl/workbook.xml': strToU8(
      `<workbook xmlns="${main}" xmlns:r="${relations}"><sheets><sheet name="Sheet" sheetId="1" r:id="r1"/></sheets></workbook>`,
    ),
    'xl/_rels/workbook.xml.rels': strToU8(
      `<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="r1" Type="${relations}/worksheet" Target="worksheets/sheet1.xml"/><Relationship Id="r2" Type="${relations}/sharedStrings" Target="sharedStrings.xml"/></Relationships>`,
    ),
    'xl/sharedStrings.xml': strToU8(`<sst xmlns="${main}">${shared}</sst>`),
    'xl/worksheets/sheet1.xml': strToU8(`<worksheet xmlns="${main}"><sheetData>${rows}</sheetData></worksheet>`),
  });
};
const HEAD = '<row r="1"><c r="A1" t="inlineStr"><is><t>x</t></is></c><c r="B1" t="inlineStr"><is><t>y</t></is></c></row>';
const BOOKS = filesOf('.xlsx', {
  'a text of 30,000 letters in 100,000 cells': () =>
    book(
      HEAD + many(100_000, (r) => `<row r="${r + 2}"><c r="A${r + 2}" t="s"><v>0</v></c><c r="B${r + 2}"><v>1</v></c></row>`),
      `<si><t>${'s'.repeat(30_000)}</t></si>`,
    ),
  'cells in the last column of 30,000 rows': () =>
    book(HEAD + many(30_000, (r) => `<row r="${r + 2}"><c r="XFD${r + 2}"><v>1</v></c></row>`)),
  'a cell in the last row of the last column': () => book(HEAD + '<row r="1048576"><c r="XFD1048576"><v>1</v></c></row>'),
  'rows and columns beyond the last': () =>
    book(
      HEAD +
        '<row r="99999999999"><c r="ZZZZZZZZZ99999999999"><v>1</v></c></row><row r="-1"><c r="A-1"><v>2</v></c></row><row r="x"><c r=""><v>3</v></c></row>',
    ),
  'a head of 16,384 columns and 120 rows': () => book(many(120, (r) => `<row r="${r + 1}">${many(16_384, () => '<c><v>1</v></c>')}</row>`)),
  'a million rows of nothing': () => book(HEAD + '<row/>'.repeat(1_000_000)),
  'shared texts that are not there': () =>
    book(HEAD + '<row r="2"><c r="A2" t="s"><v>999999999</v></c><c r="B2" t="s"><v>-1</v></c></row>'),
  'three hundred megabytes of zeros as a sheet': () =>
    zipSync({ 'xl/workbook.xml': strToU8('<workbook/>'), 'xl/worksheets/sheet1.xml': new Uint8Array(300_000_000) }, { level: 9 }),
  'elements 100,000 deep': () => book('<a>'.repeat(100_000)),
  'dates and numbers beyond all': () =>
    book(
      HEAD + many(1000, (r) => `<row r="${r + 2}"><c r="A${r + 2}"><v>1e${r}</v></c><c r="B${r + 2}" t="d"><v>99999-99-99</v></c></row>`),
    ),
  'a book that is no book': () => zipSync({ 'xl/workbook.xml': strToU8('not xml at all') }),
});

const ods = (rows: string): Uint8Array =>
  zipSync({
    mimetype: strToU8('application/vnd.oasis.opendocument.spreadsheet'),
    'content.xml': strToU8(
      `<office:document-content xmlns:office="urn:oasis:names:tc:opendocument:xmlns:office:1.0" xmlns:table="urn:oasis:names:tc:opendocument:xmlns:table:1.0" xmlns:text="urn:oasis:names:tc:opendocument:xmlns:text:1.0"><office:body><office:spreadsheet><table:table table:name="s">${rows}</table:table></office:spreadsheet></office:body></office:document-content>`,
    ),
  });
const text = (t: string, more = ''): string =>
  `<table:table-cell office:value-type="string" ${more}><text:p>${t}</text:p></table:table-cell>`;
const SHEETS = filesOf('.ods', {
  'a cell a billion times': () =>
    ods(`<table:table-row>${text('x')}${text('y', 'table:number-columns-repeated="1000000000"')}</table:table-row>`),
  'a row a billion times': () =>
    ods(
      `<table:table-row>${text('x')}</table:table-row><table:table-row table:number-rows-repeated="1000000000">${text('1')}</table:table-row>`,
    ),
  'a thousand cells a thousand times, a thousand times': () =>
    ods(
      `<table:table-row>${text('x')}</table:table-row><table:table-row table:number-rows-repeated="1000">${many(1000, () => text('1', 'table:number-columns-repeated="1000"'))}</table:table-row>`,
    ),
  'repeats of no number': () =>
    ods(`<table:table-row table:number-rows-repeated="-5">${text('x', 'table:number-columns-repeated="nan"')}</table:table-row>`),
  'spaces by the billion': () =>
    ods(`<table:table-row>${text('x<text:s text:c="1000000000"/>y')}</table:table-row><table:table-row>${text('1')}</table:table-row>`),
});

const FIELD = { name: 'A', type: 'C', width: 10 };
const DBASES = filesOf('.dbf', {
  'four billion rows': () => dbfOf([FIELD], [['x']], { count: 0xffffffff }),
  'rows of no width': () => dbfOf([FIELD], [['x']], { rowBytes: 0 }),
  'a head of no length': () => dbfOf([FIELD], [['x']], { headerBytes: 0 }),
  'a head longer than the file': () => dbfOf([FIELD], [['x']], { headerBytes: 65535 }),
  '2,000 fields': () =>
    dbfOf(
      Array.from({ length: 2000 }, (_, k) => ({ name: `F${k}`, type: 'C', width: 1 })),
      [['x']],
    ),
  'fields of one name': () =>
    dbfOf(
      Array.from({ length: 200 }, () => ({ name: 'SAME', type: 'N', width: 5 })),
      [['1']],
    ),
  'fields of no width': () =>
    dbfOf(
      Array.from({ length: 20 }, () => ({ name: 'Z', type: 'N', width: 0 })),
      [[]],
    ),
  '200,000 rows that were deleted': () =>
    dbfOf(
      [FIELD],
      Array.from({ length: 200_000 }, () => ['x']),
      { deleted: [0, 1, 2] },
    ),
});

const DOC = kmlOf(placemark('p', '171,-44'));
const ARCHIVES: readonly HostileFile[] = [
  ...filesOf('.kmz', {
    'three thousand files': () =>
      zipSync({
        'doc.kml': strToU8(DOC),
        ...Object.fromEntries(Array.from({ length: 3000 }, (_, k) => [`f/${k}.png`, new Uint8Array(9)])),
      }),
    'four hundred megabytes of spaces': () => zipSync({ 'doc.kml': new Uint8Array(400_000_000).fill(32) }, { level: 9 }),
    'an archive in an archive': () => zipSync({ 'doc.kml': zipSync({ 'doc.kml': strToU8(DOC) }) }),
    'names that climb out': () => zipSync({ '../../doc.kml': strToU8(DOC), '/etc/doc.kml': strToU8(DOC) }),
    'a table of contents that is cut': () => zipSync({ 'doc.kml': strToU8(DOC) }).slice(0, -10),
    'sizes that lie': () => {
      const made = zipSync({ 'doc.kml': strToU8(DOC) });
      const at = made.length - 22 - 53;
      new DataView(made.buffer).setUint32(at + 24, 0xfffffffe, true);
      return made;
    },
  }),
];

const point = (): string => featuresOf(feature(POINT, '{"a":1,"t":"x"}'));
const filter = (what: string, where: string): HostileFile => ({
  what: `filter: ${what}`,
  make: () => ({ 'sound.geojson': point() }),
  args: ['--where', where],
});
/** Rules that are hostile, on a file that is sound. */
const FILTERS: readonly HostileFile[] = [
  filter('20,000 minus signs', `a > ${'-'.repeat(20_000)}1`),
  filter('20,000 brackets', `${'('.repeat(20_000)}a = 1${')'.repeat(20_000)}`),
  filter('20,000 denials', `${'NOT '.repeat(20_000)}a = 1`),
  filter(
    '10,000 ands',
    many(10_000, () => 'a = 1', ' AND '),
  ),
  filter('a list of 20,000', `a IN (${many(20_000, String, ',')})`),
  filter('a pattern of nothing but joins', `t LIKE '${'%x'.repeat(5000)}%y'`),
  filter('a text that never ends', `t = '${'x'.repeat(50_000)}`),
  filter(
    'an area of 8,000 corners',
    `S_INTERSECTS(geometry, POLYGON((${many(8000, (k) => `${171 + (k % 90) / 100} ${-44 - (k % 77) / 100}`, ', ')}, 171 -44)))`,
  ),
  filter('a name of 50,000 letters', `${'n'.repeat(50_000)} = 1`),
  filter('a sum of 10,000 terms', `${many(10_000, () => 'a', ' + ')} > 0`),
  filter('brackets about sums, 60 deep', `${'('.repeat(60)}a${' + 1)'.repeat(60)} > 0`),
  filter('sums 20,000 deep', `${'1 + ('.repeat(20_000)}a${')'.repeat(20_000)} > 0`),
];

const DRAWN_FIELDS: readonly HostileFile[] = [
  {
    what: '.dxf: a text for every cell of a table of 60,000, and no end of the drawing',
    make: () => ({ 'hostile.dxf': '0\nSECTION\n2\nENTITIES\n' + many(60_000, (k) => `0\nTEXT\n8\n0\n10\n${k}\n20\n0\n40\n2\n1\nt${k}\n`) }),
  },
];
export const TABLES: readonly HostileFile[] = [
  ...CONTAINERS,
  ...LISTS,
  ...BOOKS,
  ...SHEETS,
  ...DBASES,
  ...ARCHIVES,
  ...FILTERS,
  ...DRAWN_FIELDS,
];
