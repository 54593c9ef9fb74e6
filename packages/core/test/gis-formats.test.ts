import { NO_STYLE } from '../src/symbology/layer-style';
import fc from 'fast-check';
import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { deserialize, serialize } from 'flatgeobuf/lib/mjs/geojson.js';
import { feature as topoFeature } from 'topojson-client';
import type { GeometryCollection, Topology } from 'topojson-specification';
import { describe, expect, it } from 'vitest';
import { lookupCrs } from '../src/crs/registry/registry';
import { flatgeobuf } from '../src/formats/flatgeobuf/index';
import { indexBytes } from '../src/formats/flatgeobuf/layout';
import type { FeatureFormat, TargetSet } from '../src/formats/format';
import { geojson } from '../src/formats/geojson/index';
import { gml } from '../src/formats/gml/index';
import { dateOfSerial, isDateFormat, serialOfDate } from '../src/formats/spreadsheet/dates';
import { columnLetters, escapedText, letterColumn, unescapedText } from '../src/formats/spreadsheet/cells';
import { topojson } from '../src/formats/topojson/index';
import { WkbReader } from '../src/formats/wkb';
import { flatten } from '../src/geometry/flatten';
import { UNWATCHED } from '../src/io/bytes';
import type { FeatureBatch } from '../src/model/batch';
import { BatchBuilder } from '../src/model/batch-builder';
import { Findings } from '../src/model/finding';
import { Profiler } from '../src/content/features/profile';
import { plain, type PlainRecord } from './drawing';
import { MemoryFolder, memorySource } from './memory-files';

interface Read {
  records: PlainRecord[];
  batches: FeatureBatch[];
  findings: string[];
  crs: string | null;
}

async function read(
  format: FeatureFormat,
  name: string,
  content: string | Uint8Array,
  siblings: Record<string, string> = {},
  chunk?: number,
): Promise<Read> {
  const bytes = (t: string): Uint8Array => new TextEncoder().encode(t);
  const open = await format.features.open(
    memorySource(
      name,
      typeof content === 'string' ? bytes(content) : content,
      Object.fromEntries(Object.entries(siblings).map(([k, v]) => [k, bytes(v)])),
      chunk,
    ),
  );
  const findings = new Findings();
  const batches: FeatureBatch[] = [];
  for await (const batch of open.read(findings, UNWATCHED)) batches.push(batch);
  return {
    batches,
    records: batches.flatMap(plain),
    findings: findings.list().map((f) => `${f.count} ${f.code}`),
    crs: open.facts().crs?.id ?? null,
  };
}

const xy = (r: PlainRecord): number[][][] => r.parts.map((p) => p.map(([x, y]) => [x, y]));
const positions = (r: PlainRecord): number[][][] => r.parts.map((p) => p.map(([x, y, z]) => (Number.isNaN(z) ? [x, y] : [x, y, z])));

describe('GML', () => {
  const around = (members: string, more = ''): string =>
    `<?xml version="1.0"?><c:FeatureCollection xmlns:c="urn:c" xmlns:gml="http://www.opengis.net/gml/3.2">${more}${members}</c:FeatureCollection>`;
  const member = (geometry: string, values = ''): string =>
    `<c:member><c:Pipe gml:id="pipe.${geometry.length}"><c:line>${geometry}</c:line>${values}</c:Pipe></c:member>`;

  // OGC 11-135r2 and 07-092r3: a URN or a URL of definitions has the registry's order of axes; EPSG has latitude before longitude in 4326
  it.each([
    ['urn:ogc:def:crs:EPSG::4326', '-44.4 171.25', [171.25, -44.4]],
    ['http://www.opengis.net/def/crs/EPSG/0/4326', '-44.4 171.25', [171.25, -44.4]],
    ['EPSG:4326', '171.25 -44.4', [171.25, -44.4]],
    ['http://www.opengis.net/gml/srs/epsg.xml#4326', '171.25 -44.4', [171.25, -44.4]],
    ['urn:ogc:def:crs:OGC:1.3:CRS84', '171.25 -44.4', [171.25, -44.4]],
    ['urn:ogc:def:crs:EPSG::2193', '5101500 1464000', [1464000, 5101500]],
    ['urn:ogc:def:crs:EPSG::32759', '460000 5083000', [460000, 5083000]],
  ])('takes the order of axes that %s means', async (srs, pos, wanted) => {
    const { records } = await read(gml, 'a.gml', around(member(`<gml:Point srsName="${srs}"><gml:pos>${pos}</gml:pos></gml:Point>`)));
    expect(xy(records[0]!)).toEqual([[wanted]]);
  });

  it('reads curves, surfaces, several parts, older elements, and values by the schema beside it', async () => {
    const xsd =
      '<xs:schema xmlns:xs="http://www.w3.org/2001/XMLSchema"><xs:element name="Pipe" type="c:PipeType"/><xs:complexType name="PipeType"><xs:sequence><xs:element name="code" type="xs:string"/><xs:element name="size"><xs:simpleType><xs:restriction base="xs:integer"/></xs:simpleType></xs:element><xs:element name="live" type="xs:boolean"/></xs:sequence></xs:complexType></xs:schema>';
    const { records, findings } = await read(
      gml,
      'a.gml',
      around(
        [
          member(
            '<gml:Curve><gml:segments><gml:LineStringSegment><gml:posList>0 0 1 0</gml:posList></gml:LineStringSegment><gml:Arc><gml:posList>1 0 2 1 3 0</gml:posList></gml:Arc></gml:segments></gml:Curve>',
            '<c:code>007</c:code><c:size>150</c:size><c:live>1</c:live><c:at><c:street>Quay</c:street><c:no>3</c:no></c:at>',
          ),
          member(
            '<gml:Surface><gml:patches><gml:PolygonPatch><gml:exterior><gml:Ring><gml:curveMember><gml:Curve><gml:segments><gml:Circle><gml:posList>1 0 0 1 -1 0</gml:posList></gml:Circle></gml:segments></gml:Curve></gml:curveMember></gml:Ring></gml:exterior></gml:PolygonPatch></gml:patches></gml:Surface>',
            '<c:code>12</c:code>',
          ),
          member(
            '<gml:MultiPolygon><gml:polygonMember><gml:Polygon><gml:outerBoundaryIs><gml:LinearRing><gml:coordinates decimal="," cs=";" ts=" ">0;0 4,5;0 4;4 0;0</gml:coordinates></gml:LinearRing></gml:outerBoundaryIs></gml:Polygon></gml:polygonMember></gml:MultiPolygon>',
          ),
          member(
            '<gml:MultiCurve srsDimension="3"><gml:curveMember><gml:OrientableCurve orientation="-"><gml:baseCurve><gml:LineString><gml:posList>0 0 5 1 1 6</gml:posList></gml:LineString></gml:baseCurve></gml:OrientableCurve></gml:curveMember></gml:MultiCurve>',
          ),
          '<c:member><c:Pipe><c:code>none</c:code></c:Pipe></c:member>',
        ].join(''),
      ),
      { '.xsd': xsd },
      57,
    );
    expect(records.map((r) => [r.layer, r.kind])).toEqual([
      ['Pipe', 'line'],
      ['Pipe', 'polygon'],
      ['Pipe', 'polygon'],
      ['Pipe', 'line'],
      ['Pipe', 'none'],
    ]);
    expect(records[0]!.attributes).toEqual({ code: '007', size: 150, live: true, 'at.street': 'Quay', 'at.no': 3 });
    // half a circle, clockwise seen from above: a bulge of minus one
    expect(records[0]!.parts[0]!.map(([x, y, , b]) => [x, y, Number(b.toFixed(12))])).toEqual([
      [0, 0, 0],
      [1, 0, -1],
      [3, 0, 0],
    ]);
    expect([records[1]!.attributes.code, xy(records[2]!)[0]![1], positions(records[3]!)]).toEqual([
      '12',
      [4.5, 0],
      [
        [
          [1, 1, 6],
          [0, 0, 5],
        ],
      ],
    ]);
    expect(findings).toEqual(['1 gml-no-geometry']);
  });

  it('carries a second system into the first, and says what is wrong and where', async () => {
    const both = await read(
      gml,
      'a.gml',
      around(
        member('<gml:Point srsName="EPSG:2193"><gml:pos>1464000 5101500</gml:pos></gml:Point>') +
          member('<gml:Point srsName="EPSG:4167"><gml:pos>173 -41</gml:pos></gml:Point>'),
      ),
    );
    // the origin of the projection by its definition: 173° E is 1 600 000 m east (LINZS25002, table 1)
    expect([both.crs, both.findings, xy(both.records[1]!)[0]![0]![0]]).toEqual([
      'EPSG:2193',
      ['1 gml-second-system'],
      expect.closeTo(1_600_000, 3),
    ]);
    await expect(read(gml, 'a.gml', around(member('<gml:Point><gml:pos>1 b</gml:pos></gml:Point>')))).rejects.toThrow(
      /a\.gml: feature 1 \(Pipe pipe\.\d+\): a position is not made of two or three numbers/,
    );
    await expect(
      read(
        gml,
        'a.gml',
        around(member('<gml:Curve><gml:segments><gml:Arc><gml:posList>0 0 1 1</gml:posList></gml:Arc></gml:segments></gml:Curve>')),
      ),
    ).rejects.toThrow(/arcs have 2 positions/);
    await expect(read(gml, 'a.gml', '<a/>')).rejects.toThrow(/there is no feature in it/);
  });
});

/** Any curve through three positions: every chord of it lies on the circle that goes through them (Euclid III, 9). */
it('arcs of well-known binary and of GML lie on the circle through their positions', () => {
  const number = fc.double({ min: -1000, max: 1000, noNaN: true }).map((v) => Math.round(v * 8) / 8);
  fc.assert(
    fc.property(fc.tuple(number, number, number, number, number, number), ([ax, ay, bx, by, cx, cy]) => {
      const twice = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax);
      fc.pre(Math.abs(twice) > 1);
      const bytes = new Uint8Array(9 + 48);
      const view = new DataView(bytes.buffer);
      bytes[0] = 1;
      view.setUint32(1, 8, true);
      view.setUint32(5, 3, true);
      [ax, ay, bx, by, cx, cy].forEach((v, k) => view.setFloat64(9 + 8 * k, v, true));
      const out = new BatchBuilder('a');
      new WkbReader().read(bytes, 0, out, (kind, type) => out.endFeature(kind, type, 1));
      const [record] = plain(flatten(out.take(), 0.01));
      // the centre is as far from the first as from the other two: two linear equations
      const d = 2 * twice,
        sq = (x: number, y: number): number => x * x + y * y;
      const ux = ((cy - ay) * (sq(bx, by) - sq(ax, ay)) - (by - ay) * (sq(cx, cy) - sq(ax, ay))) / d,
        uy = ((bx - ax) * (sq(cx, cy) - sq(ax, ay)) - (cx - ax) * (sq(bx, by) - sq(ax, ay))) / d;
      const radius = Math.hypot(ax - ux, ay - uy);
      fc.pre(radius < 1e5);
      const run = record!.parts[0]!;
      for (const [x, y] of run) expect(Math.abs(Math.hypot(x - ux, y - uy) - radius)).toBeLessThan(1e-6 * radius + 1e-7);
      expect([run[0]!.slice(0, 2), run.at(-1)!.slice(0, 2)]).toEqual([
        [ax, ay],
        [cx, cy],
      ]);
      // and it passes the second one
      const along = Math.min(...run.slice(1).map(([x, y], k) => distanceTo([bx, by], run[k]!, [x, y])));
      expect(along).toBeLessThan(0.011);
    }),
    { numRuns: 200 },
  );
});

function distanceTo([px, py]: [number, number], [ax, ay]: readonly number[], [bx, by]: [number, number]): number {
  const dx = bx - ax!,
    dy = by - ay!;
  const t = Math.max(0, Math.min(1, ((px - ax!) * dx + (py - ay!) * dy) / (dx * dx + dy * dy || 1)));
  return Math.hypot(px - ax! - t * dx, py - ay! - t * dy);
}

const require = createRequire(import.meta.url);
const atlas = JSON.parse(readFileSync(require.resolve('world-atlas/countries-50m.json'), 'utf8')) as Topology<{
  countries: GeometryCollection<{ name: string }>;
  land: GeometryCollection;
}>;
/** Natural Earth's countries at 1:50 million, as topojson-client has them. */
const countries = topoFeature(atlas, atlas.objects.countries);

/** Rings of a feature, polygon after polygon. */
const ringsOf = (g: GeoJSON.Geometry): number[][][] =>
  g.type === 'Polygon' ? g.coordinates : g.type === 'MultiPolygon' ? g.coordinates.flat() : [];

describe('TopoJSON', () => {
  it('is read as topojson-client reads it: the countries of Natural Earth', async () => {
    const { records, crs } = await read(topojson, 'countries-50m.json', JSON.stringify(atlas));
    const own = records.filter((r) => r.layer === 'countries');
    expect(own.length).toBe(countries.features.length);
    own.forEach((r, k) => {
      const wanted = countries.features[k]!;
      expect(r.attributes.name).toBe(wanted.properties.name);
      expect(xy(r)).toEqual(ringsOf(wanted.geometry));
    });
    expect([crs, records.some((r) => r.layer === 'land')]).toEqual(['EPSG:4326', true]);
  });

  it('says what is wrong', async () => {
    await expect(
      read(topojson, 'a.topojson', '{"type":"Topology","objects":{"a":{"type":"LineString","arcs":[3]}},"arcs":[]}'),
    ).rejects.toThrow(/geometry 1 \(in a\): it is made of arc 3, which there is not/);
    await expect(read(topojson, 'a.topojson', '{"type":"Topology"}')).rejects.toThrow(/no topology/);
    await expect(read(topojson, 'a.topojson', '{"type"')).rejects.toThrow(/cannot be read as JSON/);
  });
});

describe('FlatGeobuf', () => {
  /** What a library that has nothing to do with this one makes of features, with its index and without. */
  const theirs = (features: GeoJSON.Feature[]): Uint8Array =>
    serialize({ type: 'FeatureCollection', features } as Parameters<typeof serialize>[0], 4326);
  const point = (x: number, y: number, properties: Record<string, unknown>): GeoJSON.Feature => ({
    type: 'Feature',
    geometry: { type: 'Point', coordinates: [x, y] },
    properties,
  });

  it('that the library of its makers wrote is read, with every value: the countries of Natural Earth', async () => {
    const { records, crs } = await read(
      flatgeobuf,
      'countries.fgb',
      theirs(
        countries.features.map((f) => ({
          ...f,
          properties: { ...f.properties, number: Number(f.id), half: f.properties.name.length / 2, long: f.properties.name.length > 8 },
        })),
      ),
      {},
      4099,
    );
    expect(crs).toBe('EPSG:4326');
    const byName = new Map(records.map((r) => [r.attributes.name, r]));
    for (const f of countries.features) {
      const r = byName.get(f.properties.name)!;
      expect(xy(r)).toEqual(ringsOf(f.geometry));
      expect([r.attributes.half, r.attributes.long]).toEqual([f.properties.name.length / 2, f.properties.name.length > 8]);
    }
  });

  it('that is written here is read by the library of its makers: every kind, parts, heights and values', async () => {
    const geometries: GeoJSON.Geometry[] = [
      { type: 'Point', coordinates: [1, 2] },
      {
        type: 'MultiPoint',
        coordinates: [
          [1, 2],
          [3, 4],
        ],
      },
      {
        type: 'LineString',
        coordinates: [
          [0, 0, 5],
          [1, 1, 6],
        ],
      },
      {
        type: 'MultiLineString',
        coordinates: [
          [
            [0, 0],
            [1, 1],
          ],
          [
            [2, 2],
            [3, 3],
            [4, 4],
          ],
        ],
      },
      {
        type: 'Polygon',
        coordinates: [
          [
            [0, 0],
            [10, 0],
            [10, 10],
            [0, 10],
            [0, 0],
          ],
          [
            [2, 2],
            [2, 4],
            [4, 4],
            [4, 2],
            [2, 2],
          ],
        ],
      },
      {
        type: 'MultiPolygon',
        coordinates: [
          [
            [
              [0, 0],
              [1, 0],
              [1, 1],
              [0, 0],
            ],
          ],
          [
            [
              [5, 5],
              [6, 5],
              [6, 6],
              [5, 5],
            ],
          ],
        ],
      },
    ];
    for (const geometry of geometries) {
      const properties = { name: 'Whārangi 港', count: 9_007_199_254_740_991, share: 0.1, live: true, none: null, made: '2026-11-25' };
      const { batches } = await read(geojson, 'a.geojson', JSON.stringify({ type: 'Feature', geometry, properties }));
      const bytes = await written(flatgeobuf, batches);
      const features: GeoJSON.Feature[] = [];
      for await (const f of deserialize(bytes)) features.push(f as unknown as GeoJSON.Feature);
      const [feature] = features;
      // a set of areas of which some have several rings is one of multipolygons
      expect(feature!.geometry).toEqual(
        geometry.type === 'Polygon' ? { type: 'MultiPolygon', coordinates: [geometry.coordinates] } : geometry,
      );
      expect(feature!.properties).toEqual({
        name: 'Whārangi 港',
        count: 9_007_199_254_740_991,
        share: 0.1,
        live: true,
        made: '2026-11-25',
      });
    }
  });

  it('is never read wrongly without a word: bytes flipped and files cut end in records or in a clear error', async () => {
    const whole = theirs(Array.from({ length: 40 }, (_, k) => point(k, -k, { name: `n${k}`, k })));
    await fc.assert(
      fc.asyncProperty(fc.nat(whole.length - 1), fc.nat(255), fc.boolean(), async (at, value, cut) => {
        const bytes = cut ? whole.slice(0, at) : Uint8Array.from(whole);
        if (!cut) bytes[at] = value;
        try {
          await read(flatgeobuf, 'a.fgb', bytes);
        } catch (error) {
          expect(String((error as Error).message)).toMatch(/^a\.fgb/);
        }
      }),
      { numRuns: 3000 },
    );
  });

  it('passes over an index of any size', () => {
    // by hand: 16 to a node; 17 leaves have 2 nodes above them and a root
    expect([0, 1, 16, 17, 257].map((n) => indexBytes(n, 16) / 40)).toEqual([0, 2, 17, 20, 257 + 17 + 2 + 1]);
  });
});

/** Some batches of one layer as a file of their own. */
async function written(format: FeatureFormat, batches: readonly FeatureBatch[]): Promise<Uint8Array> {
  const profiler = new Profiler();
  batches.forEach((b) => profiler.add(b));
  const [group] = profiler.layers()[0]!.groups;
  const set: TargetSet = {
    name: 'a',
    kind: group!.kind,
    heights: group!.heights,
    measures: group!.measures !== undefined,
    count: group!.count,
    vertices: group!.vertices,
    parts: group!.parts!,
    several: group!.several! > 0,
    most: group!.most!,
    color: null,
    symbology: [],
    style: NO_STYLE,
    fields: group!.fields.map((f) => ({ from: f.name, to: f.name, type: f.type, width: f.maxBytes, decimals: f.decimals })),
  };
  const folder = new MemoryFolder();
  const writer = await format.features.write!.create(folder, [set], {
    crs: lookupCrs('EPSG:4326')!,
    stem: 'a',
    options: {},
    libraries: [],
  });
  for (const batch of batches)
    await writer.append(
      0,
      batch,
      Uint32Array.from({ length: batch.count }, (_, k) => k),
      batch.count,
      's',
    );
  await writer.close(new Findings());
  return folder.files.get(`a${format.extensions[0]}`)!;
}

describe('cells of workbooks', () => {
  it('count days as ECMA-376 does, with the 29th of February 1900 that never was', () => {
    // ECMA-376 part 1, section 18.17.4.1: serial 1 is 1 January 1900 where that day is counted, and 2 958 465 is 31 December 9999
    expect([
      dateOfSerial(61, false),
      dateOfSerial(2_958_465, false),
      dateOfSerial(0, true),
      dateOfSerial(43_831.5, false),
      dateOfSerial(0.25, false),
    ]).toEqual(['1900-03-01', '9999-12-31', '1904-01-01', '2020-01-01T12:00:00', '06:00:00']);
    fc.assert(
      fc.property(fc.integer({ min: 61, max: 2_958_465 }), (serial) => {
        expect(serialOfDate(dateOfSerial(serial, false))).toBe(serial);
      }),
    );
    expect([serialOfDate('1899-12-31'), serialOfDate('a day')]).toEqual([null, null]);
    expect([
      isDateFormat(14, undefined),
      isDateFormat(0, undefined),
      isDateFormat(170, '"day" 0.00'),
      isDateFormat(171, 'dd\\.mm\\.yyyy'),
      isDateFormat(172, '[Red]0.0'),
    ]).toEqual([true, false, false, true, false]);
  });

  it('have columns by letters and texts with characters that XML has no room for', () => {
    expect([columnLetters(0), columnLetters(25), columnLetters(26), columnLetters(16_383), letterColumn('XFD1048576')]).toEqual([
      'A',
      'Z',
      'AA',
      'XFD',
      16_383,
    ]);
    fc.assert(
      fc.property(fc.nat(16_383), (n) => {
        expect(letterColumn(`${columnLetters(n)}7`)).toBe(n);
      }),
    );
    fc.assert(
      fc.property(fc.string(), (text) => {
        expect(unescapedText(escapedText(text))).toBe(text);
      }),
    );
    expect(unescapedText(escapedText('_x0041_ a\u0007b'))).toBe('_x0041_ a\u0007b');
  });
});
