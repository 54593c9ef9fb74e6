import { cell, dxfOf, feature, featuresOf, kmlOf, placemark, POINT, pointContent, ringsContent, shpOf, dbfOf, xlsxOf } from './files';
import type { OddCase } from './cases';

const NZTM = ['--from', 'EPSG:2193'];
const DEGREES = ['--from', 'EPSG:4326'];
const E = 1_464_000,
  N = 5_101_500;
const point = (layer: string, ...more: (string | number)[]): (string | number)[] => [0, 'POINT', 8, layer, 10, E, 20, N, ...more];
const json = (what: string, text: string, rest: Partial<OddCase>): OddCase => ({ what, files: { 'a.geojson': text }, ...rest });
const table = (what: string, text: string, rest: Partial<OddCase>): OddCase => ({ what, files: { 'a.csv': text }, args: DEGREES, ...rest });
const drawing = (what: string, entities: (string | number)[], rest: Partial<OddCase>, more: Parameters<typeof dxfOf>[1] = {}): OddCase => ({
  what,
  files: { 'a.dxf': dxfOf(entities, more) },
  args: NZTM,
  ...rest,
});
const globe = (what: string, body: string, rest: Partial<OddCase>): OddCase => ({ what, files: { 'a.kml': kmlOf(body) }, ...rest });
const track = (what: string, body: string, rest: Partial<OddCase>): OddCase => ({
  what,
  files: { 'a.gpx': `<?xml version="1.0"?><gpx version="1.1" creator="x" xmlns="http://www.topografix.com/GPX/1/1">${body}</gpx>` },
  ...rest,
});
const geometry = (type: string, coordinates: string): string => feature(`{"type":"${type}","coordinates":${coordinates}}`);
const bytes = (...values: number[]): Uint8Array => Uint8Array.from([...values, ...new Array<number>(60).fill(0)]);
const text = (t: string): Uint8Array => new TextEncoder().encode(t);

export const MORE_CASES: readonly OddCase[] = [
  // files that are no data of any kind
  { what: 'a picture (PNG)', files: { 'a.png': bytes(0x89, 0x50, 0x4e, 0x47) }, refused: /is a picture/ },
  { what: 'a picture (JPEG)', files: { 'a.jpg': bytes(0xff, 0xd8, 0xff, 0xe0) }, refused: /is a picture/ },
  { what: 'a picture (TIFF)', files: { 'a.tif': bytes(0x49, 0x49, 0x2a, 0) }, refused: /is a picture/ },
  { what: 'a picture under the name of a drawing', files: { 'a.dxf': bytes(0x89, 0x50, 0x4e, 0x47) }, refused: /is a picture/ },
  { what: 'a PDF under the name of a shapefile', files: { 'a.kml': text('%PDF-1.4 ' + ' '.repeat(60)) }, refused: /is a PDF/ },
  { what: 'a world file', files: { 'a.tfw': '0.1\n0\n0\n-0.1\n1464000\n5101500\n' }, refused: /is a world file/ },
  {
    what: 'LandXML without anything in it',
    files: { 'a.xml': '<?xml version="1.0"?><LandXML xmlns="http://www.landxml.org/schema/LandXML-1.2"/>' },
    refused: /no record|holds no/,
  },
  { what: 'XML of another kind', files: { 'a.xml': '<?xml version="1.0"?><note/>' }, refused: /of no kind that is read/ },
  { what: 'a drawing of a closed format', files: { 'a.dgn': bytes(0x08, 0x09, 0xfe, 0x02) }, refused: /whose form is not published/ },
  { what: 'a DWG drawing', files: { 'a.dwg': text('AC1032' + '\0'.repeat(60)) }, refused: /save the drawing as DXF/i },
  { what: 'a DWG under the name of a DXF', files: { 'a.dxf': text('AC1032' + '\0'.repeat(60)) }, refused: /save the drawing as DXF/i },
  {
    what: 'a document of an older office program',
    files: { 'a.xls': bytes(0xd0, 0xcf, 0x11, 0xe0, 0xa1) },
    refused: /older office program/,
  },
  { what: 'an empty container', files: { 'a.gpkg': '' }, refused: /is empty/ },
  { what: 'an empty shapefile', files: { 'a.shp': '' }, refused: /is empty/ },
  { what: 'a header alone', files: { 'a.shp': shpOf(1, []) }, args: NZTM, refused: /no record|holds no/ },
  { what: 'an index without its shapes', files: { 'a.shx': bytes(0, 0, 0x27, 0x0a) }, refused: /part of a shapefile|goes with a \.shp/ },
  { what: 'a projection alone', files: { 'a.prj': 'PROJCS["x"]' }, refused: /part of a shapefile|goes with a \.shp/ },
  {
    what: 'a letter',
    files: { 'a.txt': 'Dear surveyor,\nplease find the plan of the quay enclosed, as agreed.\nYours\n' },
    refused: /text without columns/,
  },
  {
    what: 'a table under the name of a text',
    files: { 'a.txt': 'x y name\n171 -44 a\n171.1 -44.1 b\n'.replaceAll(' ', '\t') },
    args: DEGREES,
    crossed: 2,
  },
  { what: 'a workbook that is only an archive', files: { 'a.xlsx': text('PK\u0003\u0004' + '\0'.repeat(40)) }, refused: /a\.xlsx/ },

  // JSON
  json('an antimeridian in degrees beyond 180', featuresOf(geometry('LineString', '[[179,-44],[181,-44]]')), { crossed: 1 }),
  json('a latitude beyond the pole', featuresOf(geometry('Point', '[171,-95]'), feature(POINT)), { read: 2, crossed: 1 }),
  json('a line of one position', featuresOf(geometry('LineString', '[[171,-44]]'), feature(POINT)), { read: 2 }),
  json('an area of two positions', featuresOf(geometry('Polygon', '[[[171,-44],[171.1,-44]]]'), feature(POINT)), {
    read: 2,
    crossed: 1,
    told: { 'geojson-geometry': 1 },
  }),
  json('an area whose ring is open', featuresOf(geometry('Polygon', '[[[171,-44],[171.1,-44],[171.1,-44.1]]]')), { crossed: 1 }),
  json('the same position twice in a line', featuresOf(geometry('LineString', '[[171,-44],[171,-44]]')), { crossed: 1 }),
  json('heights in some positions only', featuresOf(geometry('LineString', '[[171,-44,5],[171.1,-44]]')), { crossed: 1 }),
  json('four numbers a position', featuresOf(geometry('Point', '[171,-44,5,7]')), { crossed: 1 }),
  json(
    'a collection within a collection',
    featuresOf(feature(`{"type":"GeometryCollection","geometries":[{"type":"GeometryCollection","geometries":[${POINT}]}]}`)),
    { read: 1 },
  ),
  json('a geometry type that there is not', featuresOf(geometry('Circle', '[171,-44]'), feature(POINT)), {
    read: 2,
    crossed: 1,
    told: { 'geojson-geometry': 1 },
  }),
  json('an empty multipoint', featuresOf(geometry('MultiPoint', '[]'), feature(POINT)), { read: 2 }),
  json('properties that are a list', featuresOf(feature(POINT, '[1,2]')), { crossed: 1 }),
  json('nested properties', featuresOf(feature(POINT, '{"a":{"b":[1,{"c":null}]}}')), { crossed: 1, has: [/b/] }),
  json('a key of nothing', featuresOf(feature(POINT, '{"":"x"}')), { crossed: 1 }),
  json('keys that differ in case only, into a shapefile', featuresOf(feature(POINT, '{"a":1,"A":2}')), { to: '.shp', crossed: 1 }),
  json(
    'keys that are alike in their first letters, into a shapefile',
    featuresOf(feature(POINT, '{"installation_year":1,"installation_year_two":2}')),
    { to: '.shp', crossed: 1 },
  ),
  json('a whole number of twenty digits', featuresOf(feature(POINT, '{"n":12345678901234567890}')), {
    crossed: 1,
    has: ['12345678901234567890'],
  }),
  json('a decimal of thirty digits', featuresOf(feature(POINT, '{"n":0.123456789012345678901234567891}')), { crossed: 1 }),
  json('minus nought', featuresOf(feature(POINT, '{"n":-0.0}')), { crossed: 1 }),
  json('true and "true" in one field', featuresOf(feature(POINT, '{"v":true}'), feature(POINT, '{"v":"true"}')), {
    crossed: 2,
    has: [/"v":true/, /"v":"true"/],
  }),
  json('numbers and words in one field, into a table', featuresOf(feature(POINT, '{"v":1}'), feature(POINT, '{"v":"one"}')), {
    to: '.csv',
    crossed: 2,
  }),
  json('a text of ten thousand letters, into a shapefile', featuresOf(feature(POINT, `{"v":"${'x'.repeat(10_000)}"}`)), {
    to: '.shp',
    crossed: 1,
  }),
  json('emoji and letters of many scripts', featuresOf(feature(POINT, '{"v":"🚰 Wasserhahn кран 水栓"}')), {
    crossed: 1,
    has: ['🚰 Wasserhahn кран 水栓'],
  }),
  json('half of a surrogate pair', featuresOf(feature(POINT, '{"v":"a\\ud83d"}')), { crossed: 1 }),
  json('text ending in NUL', featuresOf(feature(POINT, '{"v":"a\\u0000"}')), { to: '.csv', crossed: 1 }),
  json('a feature alone', feature(POINT, '{"v":1}'), { crossed: 1 }),
  json('a geometry alone', POINT, { crossed: 1 }),
  json('features one a line', `${feature(POINT)}\n${feature(POINT)}\n`, { crossed: 2 }),
  json('a comment', `// made by hand\n${featuresOf(feature(POINT))}`, { refused: /a\.geojson/ }),
  json('coordinates as texts', featuresOf(feature('{"type":"Point","coordinates":["171","-44"]}'), feature(POINT)), {
    read: 2,
    crossed: 1,
    told: { 'geojson-geometry': 1 },
  }),
  json('crs null', `{"type":"FeatureCollection","crs":null,"features":[${feature(POINT)}]}`, { args: DEGREES, crossed: 1 }),
  json(
    'a crs of another kind',
    `{"type":"FeatureCollection","crs":{"type":"link","properties":{"href":"x"}},"features":[${feature(POINT)}]}`,
    { args: DEGREES, crossed: 1 },
  ),

  // drawings
  drawing(
    'names, tags and styles with escapes',
    [
      ...point('Stra\\U+00DFe'),
      0,
      'INSERT',
      8,
      'A',
      2,
      'K\\U+00E4fer',
      66,
      1,
      10,
      E,
      20,
      N,
      0,
      'ATTRIB',
      8,
      'A',
      10,
      E,
      20,
      N,
      40,
      1,
      1,
      'v',
      2,
      'GR\\U+00D6SSE',
      0,
      'SEQEND',
    ],
    { crossed: 2, has: [/Straße/, /Käfer/, /GRÖSSE/] },
    { blocks: [0, 'BLOCK', 8, '0', 2, 'K\\U+00E4fer', 70, 0, 10, 0, 20, 0, 0, 'LINE', 8, '0', 10, 0, 20, 0, 11, 1, 21, 1, 0, 'ENDBLK'] },
  ),
  drawing('an escape that is none', point('A\\U+12'), { crossed: 1, has: [/A\\\\U\+12/] }),
  drawing('a layer without a name', point(''), { crossed: 1 }),
  drawing('a layer of blanks', point('   '), { crossed: 1 }),
  drawing('layers that differ in case only', [...point('Kerb'), ...point('KERB')], { crossed: 2 }),
  drawing('a line of no length', [0, 'LINE', 8, 'A', 10, E, 20, N, 11, E, 21, N], { crossed: 1 }),
  drawing('a closed polyline of two vertices', [0, 'LWPOLYLINE', 8, 'A', 90, 2, 70, 1, 10, E, 20, N, 10, E + 1, 20, N], { read: 1 }),
  drawing('an arc from and to the same angle', [0, 'ARC', 8, 'A', 10, E, 20, N, 40, 5, 50, 30, 51, 30], { read: 1 }),
  drawing('a spline without points', [0, 'SPLINE', 8, 'A', 70, 8, 71, 3], { refused: /no record to convert.*\w/ }),
  drawing('an ellipse of no size', [0, 'ELLIPSE', 8, 'A', 10, E, 20, N, 11, 0, 21, 0, 40, 1, 41, 0, 42, 6.28], {
    refused: /no record to convert.*\w/,
  }),
  drawing('a bulge without end', [0, 'LWPOLYLINE', 8, 'A', 90, 2, 70, 0, 10, E, 20, N, 42, 1e9, 10, E + 5, 20, N], {
    refused: /no record to convert.*\w/,
  }),
  drawing('a text of nothing', [0, 'TEXT', 8, 'A', 10, E, 20, N, 40, 1, 1, ''], { read: 1 }),
  drawing('a text with format codes and a line end', [0, 'MTEXT', 8, 'A', 10, E, 20, N, 40, 1, 1, '{\\fArial|b1;Lease} 7\\P\\H2x;north'], {
    crossed: 1,
    has: [/Lease 7\\nnorth/],
  }),
  drawing('an entity that there is not', [0, 'FROBNICATE', 8, 'A', 10, E, 20, N, ...point('A')], { told: { 'dxf-entity-not-read': 1 } }),
  drawing(
    'a block within itself',
    [0, 'INSERT', 8, 'A', 2, 'B', 10, E, 20, N],
    { read: 1 },
    { blocks: [0, 'BLOCK', 8, '0', 2, 'B', 70, 0, 10, 0, 20, 0, 0, 'INSERT', 8, '0', 2, 'B', 10, 0, 20, 0, 0, 'ENDBLK'] },
  ),
  drawing('an attribute without a block', [0, 'ATTRIB', 8, 'A', 10, E, 20, N, 40, 1, 1, 'v', 2, 'T', ...point('A')], { crossed: 2 }),
  drawing(
    'an insert scaled by nought',
    [0, 'INSERT', 8, 'A', 2, 'B', 10, E, 20, N, 41, 0, 42, 0],
    { read: 1 },
    { blocks: [0, 'BLOCK', 8, '0', 2, 'B', 70, 0, 10, 0, 20, 0, 0, 'LINE', 8, '0', 10, 0, 20, 0, 11, 1, 21, 1, 0, 'ENDBLK'] },
  ),
  drawing('a hatch without a boundary', [0, 'HATCH', 8, 'A', 10, 0, 20, 0, 30, 0, 2, 'SOLID', 70, 1, 71, 0, 91, 0, 75, 0, 76, 1, 98, 0], {
    refused: /no record to convert.*\w/,
  }),
  drawing(
    'a face of three corners',
    [0, '3DFACE', 8, 'A', 10, E, 20, N, 30, 0, 11, E + 1, 21, N, 31, 0, 12, E, 22, N + 1, 32, 0, 13, E, 23, N + 1, 33, 0],
    { read: 1 },
  ),
  drawing('a point on the underside', point('A', 210, 0, 220, 0, 230, -1), { crossed: 1 }),
  drawing('an object in paper space', [...point('A', 67, 1), ...point('A')], { crossed: 1 }),
  { what: 'line ends of old machines', files: { 'a.dxf': dxfOf(point('A')).replaceAll('\n', '\r') }, args: NZTM, crossed: 1 },
  { what: 'blanks before every code', files: { 'a.dxf': dxfOf(point('A')).replace(/^(\d+)$/gm, '  $1') }, args: NZTM, crossed: 1 },
  { what: 'a comment at the top', files: { 'a.dxf': `999\nmade by hand\n${dxfOf(point('A'))}` }, args: NZTM, crossed: 1 },
  {
    what: 'a drawing cut in the middle of an object',
    files: { 'a.dxf': dxfOf([...point('A'), ...point('B')]).slice(0, -35) },
    args: NZTM,
    refused: /breaks off/,
  },

  // shapefiles
  {
    what: 'a null shape among others',
    files: {
      'a.shp': shpOf(1, [pointContent(E, N), Uint8Array.of(0, 0, 0, 0)]),
      'a.dbf': dbfOf([{ name: 'N', type: 'N', width: 4, decimals: 0 }], [['1'], ['2']]),
    },
    args: NZTM,
    read: 2,
  },
  {
    what: 'an area that runs the wrong way round',
    files: {
      'a.shp': shpOf(5, [
        ringsContent(5, [
          [
            [E, N],
            [E + 10, N],
            [E + 10, N + 10],
            [E, N + 10],
            [E, N],
          ],
        ]),
      ]),
    },
    args: NZTM,
    crossed: 1,
  },
  {
    what: 'an area that crosses itself',
    files: {
      'a.shp': shpOf(5, [
        ringsContent(5, [
          [
            [E, N],
            [E + 10, N + 10],
            [E + 10, N],
            [E, N + 10],
            [E, N],
          ],
        ]),
      ]),
    },
    args: NZTM,
    crossed: 1,
  },
  {
    what: 'a hole outside its area',
    files: {
      'a.shp': shpOf(5, [
        ringsContent(5, [
          [
            [E, N],
            [E, N + 10],
            [E + 10, N + 10],
            [E + 10, N],
            [E, N],
          ],
          [
            [E + 20, N],
            [E + 22, N],
            [E + 22, N + 2],
            [E + 20, N + 2],
            [E + 20, N],
          ],
        ]),
      ]),
    },
    args: NZTM,
    crossed: 1,
  },
  {
    what: 'a .prj of an older spelling with a wrong name',
    files: {
      'a.shp': shpOf(1, [pointContent(E, N)]),
      'a.prj':
        'PROJCS["my grid",GEOGCS["x",DATUM["D_New_Zealand_2000",SPHEROID["GRS_1980",6378137,298.257222101]],PRIMEM["Greenwich",0],UNIT["Degree",0.0174532925199433]],PROJECTION["Transverse_Mercator"],PARAMETER["False_Easting",1600000],PARAMETER["False_Northing",10000000],PARAMETER["Central_Meridian",173],PARAMETER["Scale_Factor",0.9996],PARAMETER["Latitude_Of_Origin",0],UNIT["Meter",1]]',
    },
    refused: /No datum change/,
  },
  {
    what: 'degrees under a .prj of metres',
    files: {
      'a.shp': shpOf(1, [pointContent(171.2, -44.2)]),
      'a.prj':
        'PROJCS["NZGD_2000_New_Zealand_Transverse_Mercator",GEOGCS["GCS_NZGD_2000",DATUM["D_NZGD_2000",SPHEROID["GRS_1980",6378137,298.257222101]],PRIMEM["Greenwich",0],UNIT["Degree",0.0174532925199433]],PROJECTION["Transverse_Mercator"],PARAMETER["False_Easting",1600000],PARAMETER["False_Northing",10000000],PARAMETER["Central_Meridian",173],PARAMETER["Scale_Factor",0.9996],PARAMETER["Latitude_Of_Origin",0],UNIT["Meter",1]]',
    },
    crossed: 1,
    told: { 'system-degrees': 1 },
  },
  {
    what: 'field names of one letter twice',
    files: {
      'a.shp': shpOf(1, [pointContent(E, N)]),
      'a.dbf': dbfOf(
        [
          { name: 'A', type: 'C', width: 2, decimals: 0 },
          { name: 'A', type: 'C', width: 2, decimals: 0 },
        ],
        [['x', 'y']],
      ),
    },
    args: NZTM,
    crossed: 1,
    has: [/"x"/, /"y"/],
  },
  {
    what: 'a field without a name',
    files: { 'a.shp': shpOf(1, [pointContent(E, N)]), 'a.dbf': dbfOf([{ name: '', type: 'C', width: 2, decimals: 0 }], [['x']]) },
    args: NZTM,
    crossed: 1,
    has: [/"x"/],
  },

  // tables
  table('a bad cell among coordinates', 'x,y,n\n171,-44,1\n17l.1,-44.1,2\n171.2,-44.2,3\n', {
    crossed: 3,
    told: { 'table-bad-coordinate': 1 },
  }),
  table('no coordinate at all in one row', 'x,y,n\n171,-44,1\n,,2\n', { crossed: 2, told: { 'table-unplaced': 1 } }),
  table('columns of degrees, minutes and seconds', 'lon,lat\n171°15\'00"E,44°24\'00"S\n', { crossed: 1, has: [/171\.25/] }),
  table('decimal commas', 'x;y;n\n171,5;-44,5;1,5\n', { crossed: 1, has: [/171\.5/] }),
  table('thousands with points and decimal commas', 'e;n\n1.464.000,5;5.101.500,5\n', { args: NZTM, crossed: 1 }),
  table('latitude before longitude', 'lat,lon\n-44,171\n', { crossed: 1, has: [/\[171,-44\]/] }),
  table('a row of nothing in the middle', 'x,y\n171,-44\n\n171.1,-44.1\n', { crossed: 2 }),
  table('a header alone', 'x,y,n\n', { refused: /no record|holds no/ }),
  table('names of columns in quotes with line ends', '"x","y","of\nlease"\n171,-44,7\n', { crossed: 1 }),
  table('a column without a name', 'x,y,\n171,-44,v\n', { crossed: 1, has: [/"v"/] }),
  table('numbers with units', 'x,y,depth\n171,-44,1.2 m\n', { crossed: 1, has: [/"1.2 m"/] }),
  table('hexadecimal and exponents', 'x,y,n\n1.71e2,-4.4e1,0x1F\n', { crossed: 1, has: [/"0x1F"/] }),
  table('guarded formulas', "x,y,v\n171,-44,'=1+1\n", { crossed: 1, told: { 'csv-formula-guarded': 1 }, has: [/"=1\+1"/] }),
  table('numbers that begin with noughts', 'x,y,code\n171,-44,007\n', { crossed: 1, has: [/"code":"007"/] }),
  table('a mark of nothing there', 'x,y,n\n171,-44,NULL\n171,-44,N/A\n', { crossed: 2, has: [/NULL/, /N\/A/] }),
  table('well-known text with a system before it', 'wkt,n\n"SRID=4326;POINT(171 -44)",1\n', { read: 1 }),
  table('UTF-16 with its mark', '', {
    files: { 'a.csv': Uint8Array.from([0xff, 0xfe, ...Buffer.from('x,y,n\n171,-44,é\n', 'utf16le')]) },
    crossed: 1,
    has: [/é/],
  }),
  table('separators of old machines', 'x|y|n\r171|-44|1\r', { crossed: 1 }),
  table('ten thousand columns', `x,y,${Array.from({ length: 10_000 }, (_, k) => `c${k}`).join(',')}\n171,-44,${'1,'.repeat(9_999)}1\n`, {
    crossed: 1,
  }),

  // KML and GPX
  globe('a point on its side', placemark('a', '-44,171'), { refused: /if latitude comes first/ }),
  globe('no coordinates', '<Placemark><name>a</name><Point><coordinates></coordinates></Point></Placemark>' + placemark('b', '171,-44'), {
    read: 2,
    crossed: 2,
  }),
  globe('coordinates on many lines', '<Placemark><LineString><coordinates>\n171,-44\n171.1,-44\n</coordinates></LineString></Placemark>', {
    crossed: 1,
  }),
  globe('two names', '<Placemark><name>a</name><name>b</name><Point><coordinates>171,-44</coordinates></Point></Placemark>', {
    crossed: 1,
  }),
  globe('a placemark without anything', '<Placemark/>' + placemark('b', '171,-44'), { read: 2 }),
  globe('a name with markup', placemark('a &lt;b&gt;c&lt;/b&gt;', '171,-44'), { crossed: 1, has: [/a <b>c/] }),
  globe('an entity that is not defined', placemark('a &nbsp; b', '171,-44'), { refused: /undefined entity/ }),
  globe(
    'data of the same name twice',
    '<Placemark><ExtendedData><Data name="v"><value>1</value></Data><Data name="v"><value>2</value></Data></ExtendedData><Point><coordinates>171,-44</coordinates></Point></Placemark>',
    { crossed: 1 },
  ),
  globe('a style that is not there', '<Placemark><styleUrl>#none</styleUrl><Point><coordinates>171,-44</coordinates></Point></Placemark>', {
    crossed: 1,
  }),
  globe('a height that is a word', placemark('a', '171,-44,high'), { refused: /no longitude, latitude and height/ }),
  globe('folders within folders', `<Folder><name>a</name><Folder><name>b</name>${placemark('p', '171,-44')}</Folder></Folder>`, {
    crossed: 1,
  }),
  globe(
    'a ring of three positions',
    '<Placemark><Polygon><outerBoundaryIs><LinearRing><coordinates>171,-44 171.1,-44 171.1,-44.1</coordinates></LinearRing></outerBoundaryIs></Polygon></Placemark>',
    { read: 1 },
  ),
  track('a track of one position', '<trk><trkseg><trkpt lat="-44" lon="171"/></trkseg></trk><wpt lat="-44" lon="171"/>', { read: 2 }),
  track('a time that is none', '<wpt lat="-44" lon="171"><time>yesterday</time></wpt>', { crossed: 1 }),
  track('a decimal comma', '<wpt lat="-44,5" lon="171,5"/><wpt lat="-44" lon="171"/>', { read: 2 }),
  track('segments of nothing', '<trk><trkseg/></trk><wpt lat="-44" lon="171"/>', { read: 2 }),

  // workbooks
  {
    what: 'coordinates as texts',
    files: {
      'a.xlsx': xlsxOf([
        [cell.text('x'), cell.text('y')],
        [cell.text('171.5'), cell.text('-44.5')],
      ]),
    },
    args: DEGREES,
    crossed: 1,
    has: [/171\.5/],
  },
  {
    what: 'a title above the table',
    files: {
      'a.xlsx': xlsxOf([[cell.text('Survey of the quay')], [cell.text('x'), cell.text('y')], [cell.number('171'), cell.number('-44')]]),
    },
    args: DEGREES,
    read: 2,
  },
  {
    what: 'a number of twenty digits',
    files: {
      'a.xlsx': xlsxOf([
        [cell.text('x'), cell.text('y'), cell.text('n')],
        [cell.number('171'), cell.number('-44'), cell.number('12345678901234567890')],
      ]),
    },
    args: DEGREES,
    crossed: 1,
  },
  {
    what: 'texts that are marks, as 007',
    files: {
      'a.xlsx': xlsxOf([
        [cell.text('x'), cell.text('y'), cell.text('code')],
        [cell.number('171'), cell.number('-44'), cell.text('007')],
      ]),
    },
    args: DEGREES,
    crossed: 1,
    has: [/"code":"007"/],
  },
  {
    what: 'a line with a longitude twenty times round the earth, beside one over the antimeridian',
    files: {
      'a.geojson': featuresOf(
        feature('{"type":"LineString","coordinates":[[171.35,-44.4],[7171.36,-44.4],[171.37,-44.42]]}'),
        feature('{"type":"LineString","coordinates":[[179.5,-44.4],[-179.5,-44.4]]}'),
      ),
    },
    read: 2,
    crossed: 1,
  },
  {
    what: 'curves so large that the chords of a record do not follow them within the tolerance',
    files: {
      'a.dxf': dxfOf([
        ...[0, 'CIRCLE', 8, '0', 10, E, 20, N, 40, 1e9],
        ...[0, 'LWPOLYLINE', 8, '0', 90, 2, 70, 0, 10, E, 20, N, 42, 1e6, 10, E + 5, 20, N],
        ...[0, 'CIRCLE', 8, '0', 10, E, 20, N, 40, 5],
      ]),
    },
    args: ['--from', 'local'],
    to: '.shp',
    crossed: 3,
    told: { 'curves-coarser': 2 },
  },
  {
    what: 'a topology whose geometries stand before its arcs',
    files: {
      'a.topojson':
        '{"type":"Topology","objects":{"o":{"type":"GeometryCollection","geometries":[{"type":"LineString","arcs":[0]}]}},"arcs":[[[171,-44],[172,-44]]]}',
    },
    crossed: 1,
  },
];
