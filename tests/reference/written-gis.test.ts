import { mkdirSync, readdirSync, readFileSync } from 'node:fs';
import { afterAll, describe, expect, it } from 'vitest';
import { eachPart } from '@pontrel/core/model/batch';
import { temporaryFolder } from '../server/client';
import { crossInto, gather, type Gathered } from './cross-file';
import { oddLayers } from './odd-layers';
import { openData } from './open-data';
import { python } from './python';

type Position = number[];
interface Told {
  name: string | null;
  type: string;
  valid: string;
  ccw: boolean;
  area: number;
  length: number;
  parts: Position[][];
  z: boolean;
  properties: Record<string, unknown>;
}
interface File {
  head: Record<string, unknown>;
  layers: Record<string, Told[]>;
}

const NZTM = 'EPSG:2193',
  WGS84 = 'EPSG:4326';
const read = (folder: string, kind = ''): File[] =>
  python<File[]>('read_gis.py', {
    files: readdirSync(folder)
      .filter((f) => f.endsWith(kind))
      .sort()
      .map((f) => `${folder}/${f}`),
  });

/** Each ring or line by its positions in a canonical order, so that neither where it runs to nor in which order parts come matters. */
const canonical = (parts: Position[][], digits: number): string[] =>
  parts
    .map((part) => {
      const text = (p: Position[]): string =>
        p
          .map((v) =>
            v
              .slice(0, 2)
              .map((c) => c.toFixed(digits).replace(/^-(0\.0*)$/, '$1'))
              .join(' '),
          )
          .join(', ');
      return [text(part), text([...part].reverse())].sort()[0]!;
    })
    .sort();

const partsOf = (source: Gathered, layer: string): { kind: number; parts: Position[][] }[] =>
  source.batches
    .filter((b) => b.layer === layer)
    .flatMap((b) =>
      Array.from({ length: b.count }, (_, i) => {
        const parts: Position[][] = [];
        eachPart(b, i, (s, e) =>
          parts.push(Array.from({ length: e - s }, (_v, k) => [...b.coords.subarray(3 * (s + k), 3 * (s + k) + 3)])),
        );
        return { kind: b.kinds[i]!, parts };
      }),
    );

describe('written files, opened by the standard library and shapely', () => {
  const { folder, remove } = temporaryFolder();
  afterAll(remove);
  let made = 0;
  const into = (): string => {
    const path = `${folder}/${++made}`;
    mkdirSync(path);
    return path;
  };

  it('a GeoPackage keeps to the standard and has every record with its values', async () => {
    const path = into();
    const source = oddLayers();
    await crossInto(path, source, { format: 'geopackage', crs: NZTM, placement: { crs: NZTM, unit_m: null }, name: 'Archive' });
    const [file] = read(path);
    expect(file!.head).toEqual({
      application_id: 0x47504b47,
      user_version: 10300,
      integrity: 'ok',
      foreign: [],
      systems: [-1, 0, 2193, 4326],
      faults: [],
      attributes: expect.anything() as unknown,
    });
    const all = Object.values(file!.layers).flat();
    expect(all.map((r) => [r.valid, r.ccw])).toEqual(
      all.map((r) => ['Valid Geometry', r.type.endsWith('Polygon') ? true : (expect.any(Boolean) as boolean)]),
    );
    expect(Object.keys(file!.layers)).toEqual(['Water mains / Wai', 'Levels', 'Zones', 'Mixed_point', 'Mixed_line', 'Mixed_polygon']);
    // records without a place are a table of attributes (OGC 12-128r18, section 2.4)
    expect(file!.head.attributes).toEqual({
      Register: [
        { fid: 1, PARCEL: 'A-1', holder: 'the harbour', rent: 1200.5, '2nd term': 1 },
        { fid: 2, PARCEL: 'A-2', holder: null, rent: 0, '2nd term': null },
      ],
    });
    for (const layer of ['Water mains / Wai', 'Levels', 'Zones'])
      expect(file!.layers[layer]!.flatMap((r) => canonical(r.parts, 6)).sort()).toEqual(
        partsOf(source, layer)
          .flatMap((r) => canonical(r.parts, 6))
          .sort(),
      );
    // an area with two holes of which one has an island, by hand: 100² - 20² - 20² + 5²
    expect(file!.layers.Zones![0]!.area).toBeCloseTo(9225, 6);
    expect(file!.layers.Levels!.map((r) => [r.parts[0]![0]![2], r.properties.level])).toEqual([
      [3.25, 3.25],
      [-0.5, -0.5],
      [0, 1e-7],
    ]);
    expect(
      file!.layers['Water mains / Wai']!.map((r) => [r.properties.DIAMETER_MM, r.properties.MATERIAL_OF_THE_PIPE, r.properties.open]),
    ).toEqual([
      [150, 'PE', true],
      [null, 'Whārangi 港 "quoted" <b>&amp;', false],
    ]);
  });

  it.each(['rfc7946', 'lines', 'named'])('GeoJSON in the form %s keeps to RFC 7946 and has every record with its values', async (form) => {
    const path = into();
    const source = oddLayers();
    const crs = form === 'named' ? NZTM : WGS84;
    await crossInto(path, source, {
      format: 'geojson',
      crs,
      placement: { crs: NZTM, unit_m: null },
      options: { form, looks: 'simplestyle' },
    });
    const files = read(path);
    expect(readdirSync(path).sort()).toEqual(
      ['levels', 'mixed', 'register', 'water_mains_wai', 'zones'].map((n) => `${n}.${form === 'lines' ? 'geojsonl' : 'geojson'}`),
    );
    const [levels, mixed, register, mains, zones] = files.map((f) => f.layers['']!);
    if (form === 'rfc7946') expect(files.every((f) => !('crs' in f.head) && f.head.type === 'FeatureCollection')).toBe(true);
    if (form === 'named') expect(files[0]!.head.crs).toEqual({ type: 'name', properties: { name: 'urn:ogc:def:crs:EPSG::2193' } });
    expect(register!.map((r) => [r.type, r.properties.PARCEL])).toEqual([
      [null, 'A-1'],
      [null, 'A-2'],
    ]);
    for (const r of files.flatMap((f) => f.layers['']!).filter((f) => f.type !== null))
      expect([r.valid, r.ccw || !r.type.endsWith('Polygon')]).toEqual(['Valid Geometry', true]);
    expect(zones!.map((r) => [r.type, r.properties.stroke, r.properties['stroke-opacity']])).toEqual([
      ['MultiPolygon', '#2c7a73', 0.6],
      ['MultiPolygon', undefined, undefined],
      ['Polygon', undefined, undefined],
    ]);
    expect(mixed!.map((r) => r.type)).toEqual(['Point', 'Point', 'LineString', 'Polygon']);
    expect(mains!.map((r) => r.properties.MATERIAL_OF_THE_PIPE)).toEqual(['PE', 'Whārangi 港 "quoted" <b>&amp;']);
    expect(levels!.map((r) => r.parts[0]![0]![2])).toEqual([3.25, -0.5, 0]);
    if (form === 'named')
      expect(zones!.flatMap((r) => canonical(r.parts, 3)).sort()).toEqual(
        partsOf(source, 'Zones')
          .flatMap((r) => canonical(r.parts, 3))
          .sort(),
      );
  });

  it.each([
    [{ container: 'kml' }, ['tessellate 1']],
    [
      {
        container: 'kmz',
        points: 'symbol',
        symbol: 'POINT_CROSS',
        heights: 'absolute',
        extrude: 'yes',
        raise: 2,
        widths: 'metres',
        width_m: 3,
      },
      ['altitudeMode absolute', 'extrude 1', 'physicalWidth 3'],
    ],
    [
      {
        container: 'kml',
        heights: 'above',
        name: 'L {level:.2}',
        balloon: 'none',
        description: 'For the <meeting>',
        link: 'http://localhost/?a=1&b=2',
      },
      ['altitudeMode relativeToGround'],
    ],
    [{ container: 'kml', shown: 'near', image: 'note' }, ['tessellate 1']],
    [{ container: 'kml', balloon: 'text', text: 'Level {level:.2} <b>', texts: 'marks' }, ['tessellate 1']],
  ] as const)(
    'KML with %o has its elements in the order of the schema, and fastkml finds every record with its values',
    async (options, modes) => {
      const path = into();
      const source = oddLayers();
      await crossInto(path, source, { format: 'kml', crs: WGS84, placement: { crs: NZTM, unit_m: null }, options });
      const [file] = read(path);
      expect(file!.head.faults).toEqual([]);
      expect(file!.head.modes).toEqual(modes);
      expect(Object.entries(file!.layers).map(([name, rows]) => [name, rows.length])).toEqual([
        ['Water mains / Wai', 2],
        ['Levels', 3],
        ['Zones', 3],
        ['Register', 2],
        ['Mixed', 4],
      ]);
      const all = Object.values(file!.layers)
        .flat()
        .filter((r) => r.type !== null);
      for (const r of all) expect([r.valid, r.ccw || !r.type.endsWith('Polygon')]).toEqual(['Valid Geometry', true]);
      expect(file!.layers.Zones!.map((r) => r.parts.length)).toEqual([4, 2, 1]);
      expect(file!.layers['Water mains / Wai']![1]!.properties.MATERIAL_OF_THE_PIPE).toBe('Whārangi 港 "quoted" <b>&amp;');
      expect(file!.layers.Mixed!.map((r) => r.name)).toEqual(
        'name' in options
          ? [null, null, null, null].map((_, k) => ['Shed 3\nŌtautahi', 'VALVE', null, null][k])
          : ['Shed 3\nŌtautahi', 'VALVE', null, null],
      );
      if ('name' in options) expect(file!.layers.Levels!.map((r) => r.name)).toEqual(['L 3.25', 'L -0.50', 'L 0.00']);
      expect(file!.layers.Levels!.map((r) => r.parts[0]![0]![2])).toEqual(
        [3.25, -0.5, 0].map((z) => z + ('raise' in options ? options.raise : 0)),
      );
      if ('text' in options) {
        const text = readFileSync(`${path}/plan.kml`, 'utf8');
        // a text of the fields, as letters and not as markup, and only where a record has them
        expect([...text.matchAll(/<description>(.*?)<\/description>/g)].map((m) => m[1])).toEqual(
          ['3.25', '-0.50', '0.00'].map((z) => `&lt;p&gt;Level ${z} &amp;lt;b&amp;gt;&lt;/p&gt;`),
        );
        expect(text).not.toContain('<scale>0</scale>');
      }
      if ('shown' in options) {
        // one region for each folder with places, around all that is in it; one record names a picture
        const [zones] = [file!.layers.Zones!.flatMap((r) => r.parts.flat())];
        expect(file!.head.pictures).toBe(1);
        expect((file!.head.regions as Record<string, number>[]).length).toBe(4);
        expect((file!.head.regions as Record<string, number>[])[2]).toEqual({
          north: Math.max(...zones.map((p) => p[1]!)),
          south: Math.min(...zones.map((p) => p[1]!)),
          east: Math.max(...zones.map((p) => p[0]!)),
          west: Math.min(...zones.map((p) => p[0]!)),
        });
      }
      if (options.container === 'kmz') {
        expect(file!.head.files).toEqual(['doc.kml', 'icons/point_cross.png']);
        // two bars of 0.075 across 0.86 of the picture: by hand 2 · 0.86² · 0.075 − 0.86² · 0.075², and rounded ends
        expect(file!.head.icons).toEqual([{ size: [64, 64], drawn: expect.closeTo(0.111, 2) as number, middle: 255 }]);
      }
    },
  );

  it('GPX has its elements in the order of the schema, and gpxpy finds every way with its values', async () => {
    const path = into();
    await crossInto(path, oddLayers(), { format: 'gpx', crs: WGS84, placement: { crs: NZTM, unit_m: null } });
    const files = Object.fromEntries(
      readdirSync(path)
        .sort()
        .map((name, k) => [name, read(path)[k]!]),
    );
    expect(Object.keys(files)).toEqual(['levels.gpx', 'mixed_line.gpx', 'mixed_point.gpx', 'water_mains_wai.gpx', 'zones.gpx']);
    expect(Object.values(files).map((f) => [f.head.creator, f.head.faults])).toEqual(Object.values(files).map(() => ['Pontrel', []]));
    expect(files['levels.gpx']!.layers.wpt!.map((w) => [w.parts[0]![0]![2], w.properties.level])).toEqual([
      [3.25, '3.25'],
      [-0.5, '-0.5'],
      [0, '0.0000001'],
    ]);
    expect(files['zones.gpx']!.layers.trk!.map((t) => t.parts.map((p) => p.length))).toEqual([[5, 5, 5, 5], [5, 5], [5]]);
    expect(files['water_mains_wai.gpx']!.layers.trk![1]!.properties.MATERIAL_OF_THE_PIPE).toBe('Whārangi 港 "quoted" <b>&amp;');
    expect(files['mixed_point.gpx']!.layers.wpt!.map((w) => w.name)).toEqual(['Shed 3\nŌtautahi', null]);
  });

  it('GML has the registry’s order of axes, ids that are there once, and elements in the order of its schema', async () => {
    const path = into();
    const source = oddLayers();
    await crossInto(path, source, { format: 'gml', crs: NZTM, placement: { crs: NZTM, unit_m: null } });
    const files = Object.fromEntries(
      readdirSync(path)
        .filter((f) => f.endsWith('.gml'))
        .sort()
        .map((name, k) => [name, read(path, '.gml')[k]!]),
    );
    expect(Object.keys(files)).toEqual([
      'levels.gml',
      'mixed_line.gml',
      'mixed_point.gml',
      'mixed_polygon.gml',
      'register.gml',
      'water_mains_wai.gml',
      'zones.gml',
    ]);
    expect(Object.entries(files).map(([n, f]) => [n, f.head])).toEqual(
      Object.keys(files).map((n) => [
        n,
        { ids: true, srs: n === 'register.gml' ? [] : ['http://www.opengis.net/def/crs/EPSG/0/2193'], faults: [] },
      ]),
    );
    // the registry has northings first in this system, so that outer rings look as if they ran the other way
    const zones = files['zones.gml']!.layers['']!;
    expect(zones.map((r) => [r.type, r.ccw, r.valid])).toEqual([
      ['MultiPolygon', false, 'Valid Geometry'],
      ['MultiPolygon', false, 'Valid Geometry'],
      ['MultiPolygon', false, 'Valid Geometry'],
    ]);
    const eastFirst = (parts: Position[][]): Position[][] => parts.map((p) => p.map(([n, e, ...z]) => [e!, n!, ...z]));
    expect(zones.flatMap((r) => canonical(eastFirst(r.parts), 6)).sort()).toEqual(
      partsOf(source, 'Zones')
        .flatMap((r) => canonical(r.parts, 6))
        .sort(),
    );
    expect(files['register.gml']!.layers['']!.map((r) => r.properties)).toEqual([
      { PARCEL: 'A-1', holder: 'the harbour', rent: '1200.5', _2nd_term: 'true' },
      { PARCEL: 'A-2', rent: '0' },
    ]);
  });

  it.each(['xlsx', 'ods'])(
    'a workbook as %s has a sheet a layer, and openpyxl (or its elements) every value with its type',
    async (container) => {
      const path = into();
      const source = oddLayers();
      await crossInto(path, source, { format: 'spreadsheet', crs: NZTM, placement: { crs: NZTM, unit_m: null }, options: { container } });
      const [file] = read(path, `.${container}`) as unknown as [{ head: Record<string, unknown>; layers: Record<string, unknown[][]> }];
      const sheets = ['Water mains _ Wai', 'Levels', 'Zones', 'Register', 'Mixed_point', 'Mixed_line', 'Mixed_polygon'];
      expect(file.head).toEqual(
        container === 'xlsx'
          ? { sheets }
          : {
              first: ['mimetype', 0, 'application/vnd.oasis.opendocument.spreadsheet'],
              files: ['mimetype', 'META-INF/manifest.xml', 'content.xml'],
            },
      );
      expect(Object.keys(file.layers)).toEqual(sheets);
      expect(file.layers.Levels).toEqual([
        ['x', 'y', 'z', 'level', 'note'],
        [1464001, 5101501, 3.25, 3.25, 'on the quay, above the sill'],
        [1464002, 5101501, -0.5, -0.5, null],
        [1464003.0001, 5101501, 0, 1e-7, null],
      ]);
      expect(file.layers.Register).toEqual([
        ['PARCEL', 'holder', 'rent', '2nd term'],
        ['A-1', 'the harbour', 1200.5, true],
        ['A-2', null, 0, null],
      ]);
      expect(file.layers['Water mains _ Wai']!.slice(1).map((r) => [r[1], r[2], r[3]])).toEqual([
        [150, 'PE', true],
        [null, 'Whārangi 港 "quoted" <b>&amp;', false],
      ]);
    },
  );

  it('the counties of North Carolina (r-cran-sf) are the same by way of either, and the areas those of shapely', async () => {
    const file = `${openData('r-cran-sf')}/usr/lib/R/site-library/sf/shape/nc.shp`;
    const counties = await gather(file);
    const named = into(),
      packed = into();
    await crossInto(named, counties, { format: 'geojson', crs: 'EPSG:4267', options: { form: 'named', precision: 1e-6 } });
    await crossInto(packed, counties, { format: 'geopackage', crs: 'EPSG:4267' });
    const byName = (f: File): [unknown, number][] =>
      Object.values(f.layers)
        .flat()
        .map((r): [unknown, number] => [r.properties.NAME, r.area])
        .sort();
    const [a] = read(named),
      [b] = read(packed);
    expect(b!.head.faults).toEqual([]);
    expect(byName(a!).map(([n]) => n)).toEqual(byName(b!).map(([n]) => n));
    byName(a!).forEach(([, area], k) => expect(area).toBeCloseTo(byName(b!)[k]![1], 9));
    expect(byName(a!).length).toBe(100);
    // the container that another program made of the same counties
    const theirs = await gather(`${openData('r-cran-sf')}/usr/lib/R/site-library/sf/gpkg/nc.gpkg`);
    const ours = await gather(`${packed}/plan.gpkg`);
    expect(
      partsOf(theirs, 'nc.gpkg')
        .flatMap((r) => canonical(r.parts, 9))
        .sort(),
    ).toEqual(
      partsOf(ours, 'nc')
        .flatMap((r) => canonical(r.parts, 9))
        .sort(),
    );
    expect(theirs.batches[0]!.columns.get('NAME')).toEqual(ours.batches[0]!.columns.get('NAME'));
  });
});
