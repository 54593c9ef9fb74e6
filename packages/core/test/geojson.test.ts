import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { geojson } from '../src/formats/geojson/index';
import { JsonScanner } from '../src/formats/geojson/scanner';
import { UNWATCHED } from '../src/io/bytes';
import { type Finding, Findings } from '../src/model/finding';
import { type PlainRecord, plain } from './drawing';
import { textSource } from './memory-files';

async function read(
  text: string,
  chunk?: number,
): Promise<{ records: PlainRecord[]; findings: Finding[]; codes: string[]; crs: string | null }> {
  const findings = new Findings();
  const open = await geojson.features.open(textSource('zones.geojson', text, chunk));
  const records: PlainRecord[] = [];
  for await (const batch of open.read(findings, UNWATCHED)) records.push(...plain(batch));
  return { records, findings: findings.list(), codes: findings.list().map((f) => f.code), crs: open.facts().crs?.id ?? null };
}

const xy = (r: PlainRecord): number[][][] => r.parts.map((p) => p.map(([x, y]) => [x, y]));

describe('reading', () => {
  it('takes the examples of RFC 7946, section 1.5 and appendix A', async () => {
    const { records, crs } = await read(`{"type": "FeatureCollection", "features": [
      {"type": "Feature", "geometry": {"type": "Point", "coordinates": [102.0, 0.5]}, "properties": {"prop0": "value0"}},
      {"type": "Feature", "geometry": {"type": "LineString", "coordinates": [[102.0, 0.0], [103.0, 1.0], [104.0, 0.0], [105.0, 1.0]]}, "properties": {"prop0": "value0", "prop1": 0.0}},
      {"type": "Feature", "geometry": {"type": "Polygon", "coordinates": [[[100.0, 0.0], [101.0, 0.0], [101.0, 1.0], [100.0, 1.0], [100.0, 0.0]], [[100.8, 0.8], [100.8, 0.2], [100.2, 0.2], [100.2, 0.8], [100.8, 0.8]]]}, "properties": {"prop0": "value0", "prop1": {"this": "that"}}},
      {"type": "Feature", "geometry": {"type": "MultiPolygon", "coordinates": [[[[102.0, 2.0], [103.0, 2.0], [103.0, 3.0], [102.0, 3.0], [102.0, 2.0]]], [[[100.0, 0.0], [101.0, 0.0], [101.0, 1.0], [100.0, 1.0], [100.0, 0.0]], [[100.2, 0.2], [100.2, 0.8], [100.8, 0.8], [100.8, 0.2], [100.2, 0.2]]]]}, "properties": null},
      {"type": "Feature", "geometry": {"type": "GeometryCollection", "geometries": [{"type": "Point", "coordinates": [100.0, 0.0]}, {"type": "LineString", "coordinates": [[101.0, 0.0], [102.0, 1.0]]}]}, "properties": {"n": 5}},
      {"type": "Feature", "geometry": null, "properties": {}}]}`);
    expect(records.map((r) => [r.kind, r.entity, r.parts.length])).toEqual([
      ['point', 'Point', 1],
      ['line', 'LineString', 1],
      ['polygon', 'Polygon', 2],
      ['polygon', 'MultiPolygon', 3],
      ['point', 'Point', 1],
      ['line', 'LineString', 1],
      ['none', 'Feature', 0],
    ]);
    expect(xy(records[1]!)).toEqual([
      [
        [102, 0],
        [103, 1],
        [104, 0],
        [105, 1],
      ],
    ]);
    expect(records[2]!.attributes).toEqual({ prop0: 'value0', prop1: '{"this":"that"}' });
    expect(records.slice(4, 6).map((r) => r.attributes.n)).toEqual([5, 5]);
    expect(crs).toBe('EPSG:4326');
  });

  // RFC 8259, section 8.2
  it('keeps half a character, which no text can hold, as the letters of its escape', async () => {
    const { records, codes } = await read(
      String.raw`{"type":"Feature","id":"\udfff","properties":{"x\ud800":"a","x\ud801":"\ud83d\ude00","y":"\ude00b\ud83d"},"geometry":null}`,
    );
    expect(records[0]!.attributes).toEqual({ id: '\\udfff', 'x\\ud800': 'a', 'x\\ud801': '\u{1f600}', y: '\\ude00b\\ud83d' });
    expect(codes).toContain('geojson-half-character');
  });

  it('takes single features, bare geometries, features one a line and sequences with marks between', async () => {
    const feature = '{"type":"Feature","id":7,"properties":{"a":true},"geometry":{"type":"Point","coordinates":[1,2,3]}}';
    for (const text of [feature, `\ufeff${feature}`, `\x1e${feature}\n`])
      expect((await read(text)).records[0]!.attributes).toEqual({ id: 7, a: true });
    expect((await read(`${feature}\n${feature}\r\n\n${feature}`)).records.length).toBe(3);
    expect((await read('{"type":"LineString","coordinates":[[1,2],[3,4]]}')).records[0]!.kind).toBe('line');
  });

  it('takes the older member for the system wherever it stands, and says when numbers cannot be degrees', async () => {
    const far = '{"type":"Feature","properties":{},"geometry":{"type":"Point","coordinates":[1464000,5101500]}}';
    const named = (name: string): string => `"crs":{"type":"name","properties":{"name":"${name}"}}`;
    expect((await read(`{"type":"FeatureCollection",${named('urn:ogc:def:crs:EPSG::2193')},"features":[${far}]}`)).crs).toBe('EPSG:2193');
    expect((await read(`{"type":"FeatureCollection","features":[${far}],${named('EPSG:2193')}}`)).crs).toBe('EPSG:2193');
    expect((await read(`{"type":"FeatureCollection","features":[],${named('urn:ogc:def:crs:OGC:1.3:CRS84')}}`)).crs).toBe('EPSG:4326');
    expect(await read(`{"type":"FeatureCollection","features":[${far}]}`)).toMatchObject({ crs: null, codes: ['geojson-no-degrees'] });
    expect(await read(`{"type":"FeatureCollection","features":[${far}],${named('Port grid')}}`)).toMatchObject({
      crs: null,
      codes: ['geojson-crs-unread'],
    });
  });

  it('is the same however the bytes come', async () => {
    const value = fc.oneof(fc.string(), fc.integer(), fc.boolean(), fc.constantFrom('{"', '}]', '\\"', '[{', '"features":['));
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.dictionary(fc.string({ minLength: 1 }), value, { maxKeys: 4 }), { maxLength: 6 }),
        fc.integer({ min: 1, max: 40 }),
        fc.dictionary(fc.string(), fc.jsonValue(), { maxKeys: 2 }),
        async (rows, chunk, extra) => {
          const { features: _f, type: _t, crs: _c, ...others } = extra as Record<string, unknown>;
          const text = JSON.stringify({
            ...others,
            type: 'FeatureCollection',
            features: rows.map((properties, k) => ({ type: 'Feature', properties, geometry: { type: 'Point', coordinates: [k, 1] } })),
            bbox: [0, 0, 1, 1],
          });
          const { records } = await read(text, chunk);
          expect(records.map((r) => r.parts[0]![0]![0])).toEqual(rows.map((_, k) => k));
          rows.forEach((row, k) => {
            for (const [name, v] of Object.entries(row)) if (v !== '' && name !== 'color') expect(records[k]!.attributes[name]).toEqual(v);
          });
        },
      ),
      { numRuns: 300 },
    );
  });

  it('says what is wrong, with the number of the feature', async () => {
    await expect(read('{"type":"FeatureCollection","features":[{"type":"Feature","geometry":nul}]}')).rejects.toThrow(
      /feature 1 cannot be read as JSON/,
    );
    await expect(read('{"type":"FeatureCollection","features":[{"type":"Feature"')).rejects.toThrow(/breaks off inside or after feature 1/);
    await expect(read('{"type":"Feature","properties":{},"geometry":{"type":"Point","coordinates":[1,2]}} x')).rejects.toThrow(
      /"x" stands after 1 feature/,
    );
    await expect(read('{"type":"Topology"}')).rejects.toThrow(/its type is "Topology"/);
    await expect(read('[1,2]')).rejects.toThrow(/"\[" stands at the beginning/);
  });

  it.each([
    ['{"type":"Point","coordinates":["1",2]}', /the first is feature 2: a position is not a list/],
    ['{"type":"Circle","coordinates":[1,2]}', /the first is feature 2: "Circle" is no kind of geometry/],
    [`${'{"type":"GeometryCollection","geometries":['.repeat(40)}${']}'.repeat(40)}`, /the first is feature 2: .*more than 16 deep/],
  ])('leaves a feature behind whose geometry is none, says so, and takes the others (%#)', async (geometry, message) => {
    const feature = (g: string): string => `{"type":"Feature","properties":{},"geometry":${g}}`;
    const whole = feature('{"type":"Point","coordinates":[1,2]}');
    const { records, findings } = await read(
      `{"type":"FeatureCollection","features":[${whole},${feature(geometry)},${whole},${feature(geometry)}]}`,
    );
    expect(records.length).toBe(2);
    expect(findings).toEqual([
      expect.objectContaining({ code: 'geojson-geometry', count: 2, left: true, message: expect.stringMatching(message) as string }),
    ]);
  });

  it('refuses a value that never ends before it has filled the memory', () => {
    const scanner = new JsonScanner('big.geojson', { feature() {}, text() {}, members() {} });
    const piece = new Uint8Array(1 << 24).fill(97);
    scanner.push(new TextEncoder().encode('{"type":"FeatureCollection","features":[{"a":"'));
    expect(() => {
      for (let k = 0; k < 40; k++) scanner.push(piece);
    }).toThrow(/feature 1 is longer than 256 MB/);
  });
});
