import { content, feature, featuresOf, kmlOf, placemark, POINT, ringsContent, shpOf, dbfOf } from '../odd/files';
import { filesOf, type HostileFile, many } from './hostile';

const ring = (n: number): string => `[${many(n, (k) => `[${171 + (k % 1000) * 1e-6},${-44 - k * 1e-7}]`, ',')},[171,-44]]`;
const one =
  (geometry: string): (() => string) =>
  () =>
    featuresOf(feature(POINT), feature(geometry));

const JSON_FILES = filesOf('.geojson', {
  'arrays 5,000 deep': one(`{"type":"Point","coordinates":${'['.repeat(5000)}1${']'.repeat(5000)}}`),
  'arrays a million deep': one(`{"type":"Point","coordinates":${'['.repeat(1_000_000)}1${']'.repeat(1_000_000)}}`),
  'arrays 200,000 deep that never close': () => featuresOf(feature(POINT)).slice(0, -2) + `,${'['.repeat(200_000)}`,
  'objects 300,000 deep in a property': () => featuresOf(feature(POINT, `{"a":${'{"a":'.repeat(300_000)}1${'}'.repeat(300_000)}}`)),
  'collections of collections 5,000 deep': one(`${'{"type":"GeometryCollection","geometries":['.repeat(5000)}${POINT}${']}'.repeat(5000)}`),
  'a polygon of a million vertices': one(`{"type":"Polygon","coordinates":[${ring(1_000_000)}]}`),
  'an area of 100,000 pieces': one(
    `{"type":"MultiPolygon","coordinates":[${many(100_000, (k) => `[[[${171 + k * 1e-6},-44],[${171 + k * 1e-6 + 5e-7},-44],[${171 + k * 1e-6},-43.9999],[${171 + k * 1e-6},-44]]]`, ',')}]}`,
  ),
  'an area of 50,000 rings that cross one another': one(
    `{"type":"Polygon","coordinates":[${many(50_000, (k) => `[[171,-44],[${172 + k * 1e-5},-44],[${172 - k * 1e-5},-43],[171,-44]]`, ',')}]}`,
  ),
  'a feature of 100,000 properties': () => featuresOf(feature(POINT, `{${many(100_000, (k) => `"p${k}":${k}`, ',')}}`)),
  '20,000 features of five properties that no other has': () =>
    featuresOf(...Array.from({ length: 20_000 }, (_, k) => feature(POINT, `{${many(5, (j) => `"p${k}_${j}":1`, ',')}}`))),
  'a property with a name of a million letters': () => featuresOf(feature(POINT, `{"${'n'.repeat(1_000_000)}":1}`)),
  'a hundred names that differ in their last letter of 100,000': () =>
    featuresOf(feature(POINT, `{${many(100, (k) => `"${'n'.repeat(100_000)}${k}":1`, ',')}}`)),
  'a text of sixty million letters': () => featuresOf(feature(POINT, `{"t":"${'t'.repeat(60_000_000)}"}`)),
  'a text that never ends': () => `{"type":"FeatureCollection","features":[{"type":"Feature","properties":{"t":"${'t'.repeat(30_000_000)}`,
  'numbers beyond all numbers': () =>
    featuresOf(
      feature('{"type":"Point","coordinates":[1e400,-1e400]}'),
      feature('{"type":"Point","coordinates":[1e308,1e308]}'),
      feature(POINT, `{"n":${'9'.repeat(1_000_000)},"m":1e-999999999,"k":-0e0}`),
    ),
  'a position of a million numbers': one(`{"type":"Point","coordinates":[${many(1_000_000, () => '1', ',')}]}`),
  'a million features that are null': () => `{"type":"FeatureCollection","features":[${many(1_000_000, () => 'null', ',')}]}`,
  'a key again and again': () => `{"type":"FeatureCollection",${many(200_000, () => '"features":[],')}"features":[]}`,
  'a crs of a million letters': () =>
    `{"type":"FeatureCollection","crs":{"type":"name","properties":{"name":"${'EPSG:'.repeat(200_000)}"}},"features":[${feature(POINT)}]}`,
  'nothing but spaces': () => ' '.repeat(20_000_000),
  'letters of 16 bits': () => new Uint8Array(Buffer.from(featuresOf(feature(POINT)), 'utf16le')),
  'dates beyond the calendar': () => featuresOf(feature(POINT, '{"d":"9999999-99-99","e":"-271822-01-01T00:00:00Z","f":"0000-00-00"}')),
});

const topology = (arcs: string, geometries: string, transform = ''): string =>
  `{"type":"Topology",${transform}"objects":{"o":{"type":"GeometryCollection","geometries":[${geometries}]}},"arcs":${arcs}}`;
const TOPOLOGIES = filesOf('.topojson', {
  'an arc of 10,000 vertices named 100,000 times': () =>
    topology(
      `[[${many(10_000, (k) => `[${k * 1e-4},${k * 1e-5}]`, ',')}]]`,
      `{"type":"LineString","arcs":[${many(100_000, () => '0', ',')}]}`,
    ),
  'lines of 300 arcs, a thousand of them, over one of 10,000': () =>
    topology(
      `[[${many(10_000, (k) => `[${k * 1e-4},${k * 1e-5}]`, ',')}]]`,
      many(1000, () => `{"type":"LineString","arcs":[${many(300, () => '0', ',')}]}`, ','),
    ),
  'arcs that are not there': () => topology('[]', '{"type":"LineString","arcs":[0,1,-1,99999999999,1.5,null]}'),
  'collections 5,000 deep': () => topology('[]', `${'{"type":"GeometryCollection","geometries":['.repeat(5000)}${']}'.repeat(5000)}`),
  'a scale of no number': () =>
    topology('[[[0,0],[1,1]]]', '{"type":"LineString","arcs":[0]}', '"transform":{"scale":[1e308,"x"],"translate":[1e308,null]},'),
  'arcs of arcs of arcs': () => topology('[[[[[[0,0]]]]]]', '{"type":"Polygon","arcs":[[[[[0]]]]]}'),
});

const deep = (tag: string, depth: number, inside: string): string => `<${tag}>`.repeat(depth) + inside + `</${tag}>`.repeat(depth);
const KML_FILES = filesOf('.kml', {
  'a laugh of a billion': () =>
    kmlOf(
      placemark('&j;', '171,-44'),
      `<?xml version="1.0"?><!DOCTYPE k [<!ENTITY a "ha">${many(9, (k) => `<!ENTITY ${'bcdefghij'[k]} "${`&${'abcdefghi'[k]};`.repeat(10)}">`)}]>`,
    ),
  'folders 20,000 deep': () => kmlOf(deep('Folder', 20_000, placemark('p', '171,-44'))),
  'geometries 20,000 deep': () =>
    kmlOf(`<Placemark>${deep('MultiGeometry', 20_000, '<Point><coordinates>171,-44</coordinates></Point>')}</Placemark>`),
  'a line of a million vertices': () =>
    kmlOf(`<Placemark><LineString><coordinates>${many(1_000_000, (k) => `171.${k},-44`, ' ')}</coordinates></LineString></Placemark>`),
  'coordinates of thirty million commas': () =>
    kmlOf(`<Placemark><Point><coordinates>${','.repeat(30_000_000)}</coordinates></Point></Placemark>`),
  'styles that name one another': () =>
    kmlOf(
      many(1000, (k) => `<StyleMap id="s${k}"><Pair><key>normal</key><styleUrl>#s${(k + 1) % 1000}</styleUrl></Pair></StyleMap>`) +
        '<Placemark><styleUrl>#s0</styleUrl><Point><coordinates>171,-44</coordinates></Point></Placemark>',
    ),
  '100,000 styles': () =>
    kmlOf(many(100_000, (k) => `<Style id="s${k}"><LineStyle><color>ff0000ff</color></LineStyle></Style>`) + placemark('p', '171,-44')),
  '100,000 data of a placemark': () =>
    kmlOf(
      `<Placemark><ExtendedData>${many(100_000, (k) => `<Data name="d${k}"><value>1</value></Data>`)}</ExtendedData><Point><coordinates>171,-44</coordinates></Point></Placemark>`,
    ),
  'an attribute of ten million letters': () =>
    kmlOf(`<Placemark id="${'i'.repeat(10_000_000)}"><Point><coordinates>171,-44</coordinates></Point></Placemark>`),
  'a million attributes': () => kmlOf(`<Placemark ${many(1_000_000, (k) => `a${k}="1"`, ' ')}/>`),
  'a comment that never ends': () => kmlOf(placemark('p', '171,-44')).replace('</Document></kml>', '<!--' + '-'.repeat(20_000_000)),
  'a name of markup 50,000 deep': () =>
    kmlOf(`<Placemark><name>${deep('b', 50_000, 'x')}</name><Point><coordinates>171,-44</coordinates></Point></Placemark>`),
  'areas with 20,000 holes': () =>
    kmlOf(
      `<Placemark><Polygon><outerBoundaryIs><LinearRing><coordinates>171,-44 172,-44 172,-43 171,-44</coordinates></LinearRing></outerBoundaryIs>${many(20_000, (k) => `<innerBoundaryIs><LinearRing><coordinates>171.${k},-44 171.${k}1,-44 171.${k},-43.9 171.${k},-44</coordinates></LinearRing></innerBoundaryIs>`)}</Polygon></Placemark>`,
    ),
});

const gml = (body: string): string =>
  `<?xml version="1.0"?><wfs:FeatureCollection xmlns:wfs="http://www.opengis.net/wfs/2.0" xmlns:gml="http://www.opengis.net/gml/3.2" xmlns:p="urn:p">${body}</wfs:FeatureCollection>`;
const member = (geometry: string, more = ''): string => `<wfs:member><p:t><p:g>${geometry}</p:g>${more}</p:t></wfs:member>`;
const pos = '<gml:Point srsName="urn:ogc:def:crs:EPSG::4326"><gml:pos>-44 171</gml:pos></gml:Point>';
const GML_FILES = filesOf('.gml', {
  'geometries 20,000 deep': () => gml(member(deep('gml:MultiGeometry', 20_000, pos))),
  'properties 20,000 deep': () => gml(member(pos, deep('p:x', 20_000, '1'))),
  'a billion dimensions': () =>
    gml(member('<gml:LineString srsDimension="1000000000"><gml:posList>1 2 3 4</gml:posList></gml:LineString>')),
  'dimensions of no number': () =>
    gml(
      member('<gml:LineString srsDimension="-1"><gml:posList>1 2 3 4</gml:posList></gml:LineString>') +
        member('<gml:LineString srsDimension="x"><gml:posList>1 2 3 4</gml:posList></gml:LineString>'),
    ),
  'a list of a million positions': () =>
    gml(
      member(
        `<gml:LineString srsName="EPSG:4326"><gml:posList>${many(1_000_000, (k) => `171.${k} -44`, ' ')}</gml:posList></gml:LineString>`,
      ),
    ),
  'a curve of 20,000 arcs of huge size': () =>
    gml(
      member(
        `<gml:Curve srsName="EPSG:2193"><gml:segments>${many(20_000, (k) => `<gml:Arc><gml:posList>0 0 1e${k % 300} 1 2e${k % 300} 0</gml:posList></gml:Arc>`)}</gml:segments></gml:Curve>`,
      ),
    ),
  'systems 10,000 in number': () =>
    gml(many(10_000, (k) => member(`<gml:Point srsName="urn:ogc:def:crs:EPSG::${k}"><gml:pos>1 2</gml:pos></gml:Point>`))),
  '50,000 properties of a member': () =>
    gml(
      member(
        pos,
        many(50_000, (k) => `<p:a${k}>1</p:a${k}>`),
      ),
    ),
  'references that go round': () => gml(many(1000, (k) => `<wfs:member xlink:href="#m${k}" xmlns:xlink="http://www.w3.org/1999/xlink"/>`)),
});

const GPX_FILES = filesOf('.gpx', {
  'a track of a million points': () =>
    `<gpx version="1.1" xmlns="http://www.topografix.com/GPX/1/1"><trk><trkseg>${many(1_000_000, () => '<trkpt lat="1" lon="2"/>')}</trkseg></trk></gpx>`,
  'extensions 20,000 deep': () =>
    `<gpx version="1.1" xmlns="http://www.topografix.com/GPX/1/1"><wpt lat="1" lon="2"><extensions>${deep('x', 20_000, '1')}</extensions></wpt></gpx>`,
  'a hundred thousand empty segments': () =>
    `<gpx version="1.1" xmlns="http://www.topografix.com/GPX/1/1"><trk>${'<trkseg/>'.repeat(100_000)}</trk></gpx>`,
  'places that are none': () =>
    `<gpx version="1.1" xmlns="http://www.topografix.com/GPX/1/1">${many(5000, (k) => `<wpt lat="${['1e999', 'nan', '', '91', '-1e308'][k % 5]}" lon="1e308"><time>99999-99-99T99:99:99Z</time></wpt>`)}</gpx>`,
});

const int = (v: number): { int: number } => ({ int: v });
const real = (v: number): { real: number } => ({ real: v });
const square = ringsContent(5, [
  [
    [0, 0],
    [0, 1],
    [1, 1],
    [0, 0],
  ],
]);
const shape = (content: Uint8Array, type = 5): Record<string, Uint8Array> => ({ 'hostile.shp': shpOf(type, [square, content]) });
const SHAPES: readonly HostileFile[] = [
  ['four billion parts', () => shape(content(int(5), real(0), real(0), real(1), real(1), int(-1), int(4)))],
  ['two billion points', () => shape(content(int(5), real(0), real(0), real(1), real(1), int(1), int(0x7fffffff), int(0)))],
  [
    'parts that begin behind the end',
    () =>
      shape(
        content(
          int(5),
          real(0),
          real(0),
          real(1),
          real(1),
          int(2),
          int(3),
          int(0),
          int(0x7ffffff0),
          real(0),
          real(0),
          real(1),
          real(1),
          real(0),
          real(0),
        ),
      ),
  ],
  [
    'parts that begin before the beginning',
    () => shape(content(int(5), real(0), real(0), real(1), real(1), int(2), int(2), int(-5), int(-9), real(0), real(0), real(1), real(1))),
  ],
  [
    '100,000 rings in one area, half of them holes',
    () => ({
      'hostile.shp': shpOf(5, [
        ringsContent(
          5,
          Array.from({ length: 100_000 }, (_, k) => {
            const x = Math.floor(k / 2) * 3;
            return k % 2 === 0
              ? [
                  [x, 0],
                  [x, 2],
                  [x + 2, 2],
                  [x + 2, 0],
                  [x, 0],
                ]
              : [
                  [x + 0.5, 0.5],
                  [x + 1, 0.5],
                  [x + 1, 1],
                  [x + 0.5, 0.5],
                ];
          }),
        ),
      ]),
    }),
  ],
  [
    '20,000 holes in no area that holds them',
    () => ({
      'hostile.shp': shpOf(5, [
        ringsContent(
          5,
          Array.from({ length: 20_000 }, (_, k) => [
            [k, 0],
            [k + 0.5, 0],
            [k, 0.5],
            [k, 0],
          ]),
        ),
      ]),
    }),
  ],
  [
    'a record that is longer than the file',
    () => {
      const made = shpOf(5, [square, square]);
      new DataView(made.buffer).setInt32(104, 0x7fffffff);
      return { 'hostile.shp': made };
    },
  ],
  [
    'records of no length, a million',
    () => {
      const made = shpOf(
        5,
        Array.from({ length: 1_000_000 }, () => new Uint8Array(0)),
      );
      return { 'hostile.shp': made };
    },
  ],
  [
    'positions of no number',
    () => ({ 'hostile.shp': shpOf(1, [content(int(1), real(NaN), real(Infinity)), content(int(1), real(1e308), real(-1e308))]) }),
  ],
  [
    'patches of kinds that there are not',
    () =>
      shape(
        content(
          int(31),
          real(0),
          real(0),
          real(1),
          real(1),
          int(1),
          int(3),
          int(0),
          int(77),
          ...Array.from({ length: 6 }, () => real(1)),
          real(0),
          real(0),
          real(0),
          real(0),
          real(0),
        ),
        31,
      ),
  ],
  [
    'a table of four billion rows beside it',
    () => ({ ...shape(square), 'hostile.dbf': dbfOf([{ name: 'A', type: 'C', width: 10 }], [['x'], ['y']], { count: 0xffffffff }) }),
  ],
  [
    'a table whose rows have no width',
    () => ({ ...shape(square), 'hostile.dbf': dbfOf([{ name: 'A', type: 'C', width: 10 }], [['x'], ['y']], { rowBytes: 0 }) }),
  ],
  ['a system of braces 100,000 deep', () => ({ ...shape(square), 'hostile.prj': 'PROJCS["a",'.repeat(100_000) })],
  ['a system that is a text of five million letters', () => ({ ...shape(square), 'hostile.prj': `PROJCS["${'a'.repeat(5_000_000)}"` })],
  [
    'a code page of a million letters',
    () => ({
      ...shape(square),
      'hostile.dbf': dbfOf([{ name: 'A', type: 'C', width: 10 }], [['x']]),
      'hostile.cpg': 'x'.repeat(1_000_000),
    }),
  ],
].map(([what, make]) => ({ what: `.shp: ${what as string}`, make: make as HostileFile['make'] }));

/** Numbers of a FlatGeobuf or of whatever else begins as one and goes on with lies. Source: flatgeobuf.org, "Specification". */
const MAGIC = [0x66, 0x67, 0x62, 3, 0x66, 0x67, 0x62, 0];
const BUFFERS = filesOf('.fgb', {
  'a head of two billion bytes': () => Uint8Array.from([...MAGIC, 0xff, 0xff, 0xff, 0x7f, 1, 2, 3, 4]),
  'a head of four billion bytes': () => Uint8Array.from([...MAGIC, 0xff, 0xff, 0xff, 0xff, 1, 2, 3, 4]),
  'a head that points out of itself': () =>
    Uint8Array.from([...MAGIC, 16, 0, 0, 0, 0xff, 0xff, 0xff, 0x7f, ...new Array<number>(12).fill(0xff)]),
  'a head of nothing': () => Uint8Array.from([...MAGIC, 0, 0, 0, 0, 0, 0, 0, 0]),
});

export const RECORDS: readonly HostileFile[] = [
  ...JSON_FILES,
  ...TOPOLOGIES,
  ...KML_FILES,
  ...GML_FILES,
  ...GPX_FILES,
  ...SHAPES,
  ...BUFFERS,
];
