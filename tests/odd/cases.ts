import {
  blobOf,
  cell,
  content,
  dbfOf,
  dxfOf,
  feature,
  featuresOf,
  gpkgOf,
  groupsOf,
  kmlOf,
  placemark,
  POINT,
  pointContent,
  ringsContent,
  shpOf,
  xlsxOf,
} from './files';

/** What must come of an odd file. */
export interface OddCase {
  /** What is odd about it. */
  what: string;
  files: Record<string, string | Uint8Array>;
  /** Arguments besides the input and the output; the first file is the input. */
  args?: string[];
  /** Extension of the output; ".geojson" when absent. */
  to?: string;
  /** Why it is refused. */
  refused?: RegExp;
  /** Records that arrive, and those of the file. */
  crossed?: number;
  read?: number;
  /** Findings by their code, with the count where that matters. */
  told?: Record<string, number | true>;
  /** What the written text has, and has not. */
  has?: (string | RegExp)[];
  hasNot?: (string | RegExp)[];
}

const NZTM = ['--from', 'EPSG:2193'];
const E = 1_464_000,
  N = 5_101_500;
const N8 = { name: 'N', type: 'N', width: 8, decimals: 2 };
const points = (n: number): Uint8Array =>
  shpOf(
    1,
    Array.from({ length: n }, (_, k) => pointContent(E + k, N)),
  );
const numbered = (n: number): Uint8Array =>
  dbfOf(
    [N8],
    Array.from({ length: n }, (_, k) => [String(k + 1)]),
  );
const reals = (...values: number[]): { real: number }[] => values.map((real) => ({ real }));

export const CASES: readonly OddCase[] = [
  // tables of shapefiles
  {
    what: 'numbers of asterisks, with a decimal comma, and words',
    files: {
      'a.dbf': dbfOf(
        [N8, { name: 'C', type: 'C', width: 3 }],
        [
          ['********', 'a'],
          ['12,5', 'b'],
          ['abc', 'c'],
          ['1.5', 'd'],
          ['', 'e'],
        ],
      ),
    },
    to: '.csv',
    crossed: 5,
    told: { 'dbf-value-not-read': 3 },
    has: ['1.5'],
    hasNot: ['NaN', 'abc'],
  },
  {
    what: 'logical values that are none, and those not said yet',
    files: { 'a.dbf': dbfOf([{ name: 'L', type: 'L', width: 1 }], [['X'], ['?'], ['T'], ['n'], [' ']]) },
    to: '.csv',
    told: { 'dbf-value-not-read': 1 },
    has: ['true', 'false'],
  },
  {
    what: 'days that the calendar does not have',
    files: { 'a.dbf': dbfOf([{ name: 'D', type: 'D', width: 8 }], [['20261301'], ['20260229'], ['20240229'], ['00000000'], ['        ']]) },
    to: '.csv',
    told: { 'dbf-value-not-read': 2 },
    has: ['2024-02-29'],
    hasNot: ['2026-13-01', '2026-02-29'],
  },
  {
    what: 'a header of no length',
    files: { 'a.dbf': dbfOf([N8], [['1']], { headerBytes: 0 }) },
    to: '.csv',
    refused: /its header says that it is 0 bytes long/,
  },
  // storms_xyz.shp of r-cran-sf has such a one
  {
    what: 'a table without a field',
    files: { 'a.shp': points(2), 'a.dbf': dbfOf([], [[], []]) },
    args: NZTM,
    crossed: 2,
  },
  {
    what: 'fields that are wider than the row',
    files: { 'a.dbf': dbfOf([N8], [['1']], { rowBytes: 5 }) },
    to: '.csv',
    refused: /its fields take 9 bytes a row, its header says 5/,
  },
  {
    what: 'rows that are longer than the file has room for',
    files: { 'a.dbf': dbfOf([N8], [['1']], { rowBytes: 20 }) },
    to: '.csv',
    refused: /its fields take 9 bytes a row, its header says 20/,
  },
  {
    what: 'more rows than there are',
    files: { 'a.dbf': dbfOf([N8], [['1']], { count: 5 }) },
    to: '.csv',
    refused: /breaks off at record 2 of 5|header says/,
  },
  {
    what: 'memos and pictures, whose values are elsewhere',
    files: {
      'a.dbf': dbfOf(
        [{ name: 'NOTE', type: 'M', width: 10 }, { name: 'PIC', type: 'G', width: 10 }, N8],
        [['         1', '         2', '3']],
      ),
    },
    to: '.csv',
    told: { 'dbf-field-not-read': true },
    hasNot: ['NOTE', 'PIC'],
  },
  {
    what: 'a shape whose row is deleted',
    files: { 'a.shp': points(3), 'a.dbf': dbfOf([N8], [['1'], ['2'], ['3']], { deleted: [1] }) },
    args: NZTM,
    read: 3,
    crossed: 2,
    told: { 'shp-deleted': 1 },
    hasNot: [/"N":2\b/],
  },
  {
    what: 'a table of nothing but deleted rows',
    files: { 'a.shp': points(2), 'a.dbf': dbfOf([N8], [['1'], ['2']], { deleted: [0, 1] }) },
    args: NZTM,
    refused: /no record/,
  },
  {
    what: 'fewer rows than shapes',
    files: { 'a.shp': points(3), 'a.dbf': numbered(2) },
    args: NZTM,
    crossed: 3,
    told: { 'shp-dbf-count': 1 },
  },
  {
    what: 'more rows than shapes',
    files: { 'a.shp': points(2), 'a.dbf': numbered(5) },
    args: NZTM,
    crossed: 2,
    told: { 'shp-dbf-count': 3 },
  },
  { what: 'shapes without a table', files: { 'a.shp': points(2) }, args: NZTM, crossed: 2, told: { 'shp-no-dbf': 1 } },
  {
    what: 'a point that is no number',
    files: { 'a.shp': shpOf(1, [pointContent(NaN, N), pointContent(E, Infinity), pointContent(E, N)]), 'a.dbf': numbered(3) },
    args: NZTM,
    read: 3,
    crossed: 1,
    told: { 'no-image': 2 },
  },
  {
    what: 'a shape of a type that there is not',
    files: { 'a.shp': shpOf(1, [content({ int: 77 }, ...reals(E, N)), pointContent(E, N)]), 'a.dbf': numbered(2) },
    args: NZTM,
    crossed: 2,
    told: { 'shp-type': 1 },
  },
  {
    what: 'a line of one vertex, and a line of none',
    files: {
      'a.shp': shpOf(3, [ringsContent(3, [[[E, N]]]), content({ int: 3 }, ...reals(0, 0, 0, 0), { int: 0 }, { int: 0 })]),
      'a.dbf': numbered(2),
    },
    args: NZTM,
    to: '.shp',
    crossed: 2,
  },
  {
    what: 'a ring that is not closed',
    files: {
      'a.shp': shpOf(5, [
        ringsContent(5, [
          [
            [E, N],
            [E, N + 9],
            [E + 9, N + 9],
          ],
        ]),
      ]),
      'a.dbf': numbered(1),
    },
    args: NZTM,
    crossed: 1,
    told: { 'ring-closed': 1 },
  },
  {
    what: 'a record that says it has more vertices than it has room for',
    files: {
      'a.shp': shpOf(3, [content({ int: 3 }, ...reals(0, 0, 1, 1), { int: 1 }, { int: 1_000_000 }, { int: 0 }, ...reals(E, N))]),
      'a.dbf': numbered(1),
    },
    args: NZTM,
    refused: /record 1 says that it holds more than/,
  },
  {
    what: 'parts that begin behind their end',
    files: {
      'a.shp': shpOf(3, [content({ int: 3 }, ...reals(0, 0, 1, 1), { int: 2 }, { int: 2 }, { int: 2 }, { int: 0 }, ...reals(E, N, E, N))]),
      'a.dbf': numbered(1),
    },
    args: NZTM,
    refused: /record 1 says that it holds more than/,
  },
  {
    what: 'a .prj of words',
    files: { 'a.shp': points(1), 'a.dbf': numbered(1), 'a.prj': 'please see drawing' },
    args: NZTM,
    crossed: 1,
    told: { 'shp-prj-unread': 1 },
  },
  { what: 'an empty .cpg', files: { 'a.shp': points(1), 'a.dbf': numbered(1), 'a.cpg': '' }, args: NZTM, crossed: 1 },
  // JSON
  {
    what: 'numbers beyond what a number holds',
    files: { 'a.geojson': featuresOf(feature(POINT, '{"v":1e999,"w":-1e999,"u":1}')) },
    to: '.shp',
    crossed: 1,
    told: { 'geojson-number-too-large': true },
  },
  {
    what: 'a position beyond what a number holds',
    files: { 'a.geojson': featuresOf(feature('{"type":"Point","coordinates":[1e999,-44]}')) },
    refused: /feature 1: a position has a number that is too large to be held/,
  },
  {
    what: 'bytes that are no UTF-8',
    files: {
      'a.geojson': Uint8Array.from(
        [...new TextEncoder().encode(featuresOf(feature(POINT, '{"v":"a@b"}')))].map((c) => (c === 64 ? 0xff : c)),
      ),
    },
    crossed: 1,
    told: { 'text-damaged': 1 },
  },
  {
    what: 'U+FFFD that was in the text before',
    files: { 'a.geojson': featuresOf(feature(POINT, '{"v":"a\ufffdb\ufffd"}')) },
    to: '.dxf',
    crossed: 1,
    told: { 'text-damaged': 0, 'dxf-code-page-letters': 0 },
  },
  {
    what: 'a collection of nothing',
    files: { 'a.geojson': featuresOf(feature('{"type":"GeometryCollection","geometries":[]}', '{"v":1}')) },
    crossed: 1,
    told: { 'geojson-no-geometry': 1 },
  },
  {
    what: 'areas without a ring',
    files: {
      'a.geojson': featuresOf(
        feature('{"type":"Polygon","coordinates":[]}'),
        feature('{"type":"Polygon","coordinates":[[]]}'),
        feature(POINT),
      ),
    },
    crossed: 3,
    told: { 'geojson-no-geometry': 2 },
  },
  {
    what: 'fields that are called as parts of every object',
    files: { 'a.geojson': featuresOf(feature(POINT, '{"__proto__":"p","constructor":"c","toString":"t","hasOwnProperty":"h"}')) },
    crossed: 1,
    has: ['"__proto__":"p"', '"constructor":"c"', '"toString":"t"'],
  },
  {
    what: 'line ends within texts, into a drawing',
    files: {
      'a.geojson': featuresOf(feature(POINT, JSON.stringify({ note: 'a\r\n  0\r\nLINE\r\n  8\r\nX', bell: 'x\u0007y', cr: 'x\ry' }))),
    },
    to: '.dxf',
    crossed: 1,
    hasNot: [/\r\n {2}0\r\nLINE\r\n {2}8\r\nX\r\n/],
  },
  {
    what: 'positions of texts',
    files: { 'a.geojson': featuresOf(feature('{"type":"Point","coordinates":["171","-44"]}')) },
    refused: /feature 1: a position is not a list of two or more numbers/,
  },
  {
    what: 'a list of features that is none',
    files: { 'a.geojson': '{"type":"FeatureCollection","features":null}' },
    refused: /no record|GeoJSON/,
  },
  { what: 'a comma too many', files: { 'a.geojson': '{"type":"FeatureCollection","features":[' + feature(POINT) + ',]}' }, crossed: 1 },
  {
    what: 'no properties and no geometry at all',
    files: { 'a.geojson': '{"type":"FeatureCollection","features":[{"type":"Feature"},' + feature(POINT) + ']}' },
    crossed: 2,
  },
  { what: 'a byte order mark', files: { 'a.geojson': '\ufeff' + featuresOf(feature(POINT, '{"v":1}')) }, crossed: 1, has: ['"v":1'] },
  { what: 'the same key twice', files: { 'a.geojson': featuresOf(feature(POINT, '{"v":1,"v":2}')) }, crossed: 1, has: ['"v":2'] },
  { what: 'a file that is cut', files: { 'a.geojson': featuresOf(feature(POINT)).slice(0, -20) }, refused: /breaks off/ },
  { what: 'JSON that is no GeoJSON', files: { 'a.geojson': '{"name":"x","dependencies":{}}' }, refused: /no GeoJSON/ },
  // KML
  {
    what: 'coordinates that are none, in some features',
    files: {
      'a.kml': kmlOf(
        placemark('a', '171,-44') + placemark('b', '171,north') + placemark('c', '171') + placemark('d', '172,-44,5') + placemark('e', ''),
      ),
    },
    read: 5,
    crossed: 3,
    told: { 'kml-coordinates': 2 },
    hasNot: ['"b"', '"c"'],
  },
  { what: 'blanks about commas', files: { 'a.kml': kmlOf(placemark('a', ' 171 , -44 , 3 ')) }, crossed: 1, has: ['171,-44,3'] },
  { what: 'no namespace', files: { 'a.kml': `<kml><Document>${placemark('a', '171,-44')}</Document></kml>` }, crossed: 1 },
  { what: 'nothing in it', files: { 'a.kml': kmlOf('') }, refused: /no record/ },
  {
    what: 'bytes that are no UTF-8',
    files: { 'a.kml': Uint8Array.from([...kmlOf(placemark('a@', '171,-44'))].map((c) => (c === '@' ? 0xe9 : c.charCodeAt(0)))) },
    crossed: 1,
    told: { 'text-damaged': 1 },
  },
  // drawings
  {
    what: 'a block that is not there',
    files: { 'a.dxf': dxfOf([0, 'INSERT', 8, 'A', 2, 'NOPE', 10, E, 20, N, 0, 'POINT', 8, 'A', 10, E, 20, N]) },
    args: NZTM,
    crossed: 2,
    told: { 'dxf-block-undefined': 1 },
  },
  {
    what: 'a stray point far outside the system',
    files: { 'a.dxf': dxfOf([0, 'POINT', 8, 'A', 10, E, 20, 54e6, 0, 'POINT', 8, 'A', 10, E, 20, N]) },
    args: NZTM,
    read: 2,
    crossed: 1,
    told: { 'no-image': 1 },
  },
  {
    what: 'names with escapes',
    files: { 'a.dxf': dxfOf([0, 'POINT', 8, 'W\\U+0101rf \\M+182B1', 10, E, 20, N]) },
    args: NZTM,
    crossed: 1,
    has: ['Wārf これ'.slice(0, 6)],
  },
  {
    what: 'lines without an end, and without coordinates',
    files: { 'a.dxf': dxfOf([0, 'LINE', 8, 'A', 10, E, 20, N, 0, 'LINE', 8, 'A', 0, 'POINT', 8, 'A', 10, E, 20, N]) },
    args: NZTM,
    read: 3,
  },
  {
    what: 'polylines of no vertex and of one',
    files: {
      'a.dxf': dxfOf([0, 'LWPOLYLINE', 8, 'A', 90, 0, 0, 'LWPOLYLINE', 8, 'A', 90, 1, 10, E, 20, N, 0, 'POINT', 8, 'A', 10, E, 20, N]),
    },
    args: NZTM,
    read: 3,
  },
  {
    what: 'circles without a radius, and with one below nought',
    files: {
      'a.dxf': dxfOf([
        0,
        'CIRCLE',
        8,
        'A',
        10,
        E,
        20,
        N,
        40,
        0,
        0,
        'CIRCLE',
        8,
        'A',
        10,
        E,
        20,
        N,
        40,
        -5,
        0,
        'POINT',
        8,
        'A',
        10,
        E,
        20,
        N,
      ]),
    },
    args: NZTM,
    read: 3,
  },
  {
    what: 'a number beyond what a number holds',
    files: { 'a.dxf': dxfOf([0, 'POINT', 8, 'A', 10, '1e999', 20, N]) },
    args: NZTM,
    refused: /dxf|number|no record/i,
  },
  {
    what: 'a block of no size',
    files: {
      'a.dxf': dxfOf([0, 'INSERT', 8, 'A', 2, 'B', 10, E, 20, N, 41, 0, 42, 0, 43, 0], {
        blocks: [0, 'BLOCK', 2, 'B', 10, 0, 20, 0, 0, 'LINE', 8, '0', 10, 0, 20, 0, 11, 1, 21, 1, 0, 'ENDBLK'],
      }),
    },
    args: NZTM,
    crossed: 1,
  },
  {
    what: 'no end mark',
    files: { 'a.dxf': groupsOf(0, 'SECTION', 2, 'ENTITIES', 0, 'POINT', 8, 'A', 10, E, 20, N) },
    args: NZTM,
    refused: /breaks off/,
  },
  {
    what: 'a word where a number should be',
    files: { 'a.dxf': dxfOf([0, 'POINT', 8, 'A', 10, 'east', 20, N]) },
    args: NZTM,
    refused: /"east" stands where group code 10 wants a number/,
  },
  { what: 'no entities', files: { 'a.dxf': dxfOf([]) }, args: NZTM, refused: /no record/ },
  { what: 'an empty file', files: { 'a.dxf': '' }, args: NZTM, refused: /empty/ },
  // tables of text
  {
    what: 'rows of too few and too many cells',
    files: { 'a.csv': 'x,y,n\n171,-44,1\n171,-44\n171,-44,3,4,5\n' },
    args: ['--from', 'EPSG:4326'],
    crossed: 3,
  },
  {
    what: 'columns of one name',
    files: { 'a.csv': 'x,y,n,n,\n171,-44,1,2,3\n' },
    args: ['--from', 'EPSG:4326'],
    crossed: 1,
    has: ['1', '2', '3'],
  },
  {
    what: 'digits that are no numbers',
    files: { 'a.csv': 'x,y,code,phone\n171,-44,007,0123\n172,-44,008,+64 3\n' },
    args: ['--from', 'EPSG:4326'],
    crossed: 2,
    has: ['"code":"007"', '"phone":"0123"'],
  },
  {
    what: 'coordinates that are words in one row',
    files: { 'a.csv': 'x,y,n\n171,-44,1\nunknown,-44,2\n' },
    args: ['--from', 'EPSG:4326'],
    read: 2,
  },
  {
    what: 'bytes of another page behind thousands of plain ones',
    files: {
      'a.csv': Uint8Array.from(
        [...`x,y,n\n${'171,-44,plain\n'.repeat(9000)}171,-44,caf@\n`].map((c) => (c === '@' ? 0xe9 : c.charCodeAt(0))),
      ),
    },
    args: ['--from', 'EPSG:4326'],
    crossed: 9001,
    told: { 'text-damaged': 1 },
  },
  {
    what: 'a quote that is left open',
    files: { 'a.csv': 'x,y,n\n171,-44,"open\n172,-44,2\n' },
    args: ['--from', 'EPSG:4326'],
    refused: /a quote is left open/,
  },
  { what: 'NUL characters', files: { 'a.csv': 'x,y,n\n171,-44,a\u0000b\n' }, args: ['--from', 'EPSG:4326'], to: '.dxf', crossed: 1 },
  // XML of devices
  {
    what: 'a device that has been nowhere',
    files: { 'a.gpx': '<gpx version="1.1" creator="d" xmlns="http://www.topografix.com/GPX/1/1"></gpx>' },
    refused: /no record/,
  },
  {
    what: 'a waypoint without a latitude',
    files: {
      'a.gpx':
        '<gpx version="1.1" creator="d" xmlns="http://www.topografix.com/GPX/1/1"><wpt lon="171"><name>a</name></wpt><wpt lat="-44" lon="171"><name>b</name></wpt></gpx>',
    },
    read: 2,
  },
  {
    what: 'three tracks, two with a point that is nowhere',
    files: {
      'a.gpx': `<gpx version="1.1" creator="d" xmlns="http://www.topografix.com/GPX/1/1">${['171', 'east', ''].map((lon, k) => `<trk><name>t${k}</name><trkseg><trkpt lat="-44" lon="${lon}"/><trkpt lat="-45" lon="171"/></trkseg></trk>`).join('')}</gpx>`,
    },
    read: 3,
    crossed: 1,
    told: { 'gpx-point': 2 },
  },
  // workbooks
  {
    what: 'a shared text that is not there, and errors of formulas',
    files: {
      'a.xlsx': xlsxOf(
        [
          [cell.text('x'), cell.text('y'), cell.text('name'), cell.text('sum')],
          [cell.number('171'), cell.number('-44'), cell.shared(0), cell.number('5')],
          [cell.number('171'), cell.number('-44'), cell.shared(7), cell.error('#REF!')],
          [cell.number('171'), cell.number('-44'), cell.shared(0), cell.error('#DIV/0!')],
        ],
        ['Shed'],
      ),
    },
    args: ['--from', 'EPSG:4326'],
    crossed: 3,
    told: { 'sheet-text-missing': 1, 'sheet-error': 2 },
    has: ['"sum":5'],
    hasNot: ['#REF!', '#DIV/0!'],
  },
  {
    what: 'a sheet that is listed and not there',
    files: {
      'a.xlsx': xlsxOf(
        [
          [cell.text('x'), cell.text('y')],
          [cell.number('171'), cell.number('-44')],
        ],
        [],
        'Levels',
      ),
    },
    args: ['--from', 'EPSG:4326'],
    crossed: 1,
    told: { 'sheet-missing': 1 },
  },
  {
    what: 'a line whose first vertex has no height',
    files: { 'a.geojson': featuresOf(feature('{"type":"LineString","coordinates":[[171,-44],[172,-44,7.5]]}')) },
    to: '.csv',
    crossed: 1,
    has: ['LINESTRING Z (171 -44 0, 172 -44 7.5)'],
  },
  {
    what: 'a formula without its result',
    files: {
      'a.xlsx': xlsxOf([
        [cell.text('x'), cell.text('y'), cell.text('sum')],
        [cell.number('171'), cell.number('-44'), cell.formula('A2+B2')],
      ]),
    },
    args: ['--from', 'EPSG:4326'],
    crossed: 1,
    told: { 'sheet-formula': 1 },
  },
  { what: 'a workbook without a row', files: { 'a.xlsx': xlsxOf([]) }, args: ['--from', 'EPSG:4326'], refused: /no (record|row)|holds no/ },
  // containers
  {
    what: 'geometries that are null, empty, no geometry, and cut',
    files: {
      'a.gpkg': gpkgOf([
        null,
        blobOf({ byte: 1 }, { int: 1 }, { real: NaN }, { real: NaN }),
        Uint8Array.of(1, 2, 3),
        blobOf({ byte: 1 }, { int: 2 }, { int: 5 }, { real: E }, { real: N }),
        blobOf({ byte: 1 }, { int: 1 }, { real: E }, { real: N }),
      ]),
    },
    read: 5,
    crossed: 5,
    told: { 'gpkg-geometry': 2, 'gpkg-no-geometry': 2 },
  },
  {
    what: 'a table that is listed and not there',
    files: { 'a.gpkg': gpkgOf([blobOf({ byte: 1 }, { int: 1 }, { real: E }, { real: N })], { listed: ['t', 'gone'] }) },
    crossed: 1,
  },
  {
    what: 'a system that is not defined',
    files: { 'a.gpkg': gpkgOf([blobOf({ byte: 1 }, { int: 1 }, { real: E }, { real: N })], { srs: 999 }) },
    args: NZTM,
    crossed: 1,
  },
  {
    what: 'an area whose ring is open',
    files: { 'a.gpkg': gpkgOf([blobOf({ byte: 1 }, { int: 3 }, { int: 1 }, { int: 3 }, ...reals(E, N, E + 9, N, E, N + 9))]) },
    crossed: 1,
    told: { 'ring-closed': 1 },
  },
  {
    what: 'geometries with the greater byte first',
    files: {
      'a.gpkg': gpkgOf([
        Uint8Array.from([
          ...blobOf({ byte: 0 }),
          ...[0, 0, 0, 1],
          ...new Uint8Array(Float64Array.of(E).buffer).reverse(),
          ...new Uint8Array(Float64Array.of(N).buffer).reverse(),
        ]),
      ]),
    },
    crossed: 1,
  },
  {
    what: 'a database that is none',
    files: { 'a.gpkg': 'SQLite format 3 but not really'.repeat(50) },
    refused: /cannot be opened|is damaged|GeoPackage/,
  },
  // GML
  {
    what: 'a list of positions that is odd',
    files: {
      'a.gml':
        '<gml:FeatureCollection xmlns:gml="http://www.opengis.net/gml/3.2" xmlns:o="o"><gml:featureMember><o:t><o:g><gml:LineString srsName="EPSG:2193"><gml:posList>1464000 5101500 1464001</gml:posList></gml:LineString></o:g></o:t></gml:featureMember></gml:FeatureCollection>',
    },
    refused: /position|number|coordinate/,
  },
  // texts that XML cannot hold
  ...['.gml', '.kml', '.gpx'].map((to): OddCase => ({
    what: `control characters within texts, into ${to}`,
    files: { 'a.csv': 'x,y,n\n171,-44,a\u0000b\n172,-44,plain\n173,-44,x\u0007\n' },
    args: ['--from', 'EPSG:4326'],
    to,
    crossed: 3,
    told: { 'field-characters-left': 1 },
    has: ['ab', 'plain'],
  })),
  {
    what: 'layers that are called as devices are',
    files: { 'a.dxf': dxfOf([0, 'POINT', 8, 'NUL', 10, E, 20, N, 0, 'POINT', 8, 'Com1', 10, E, 20, N]) },
    args: [...NZTM, '--format', 'shapefile'],
    to: '',
    crossed: 2,
  },
];
