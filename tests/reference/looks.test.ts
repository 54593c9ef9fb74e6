import type { Value } from '@pontrel/core/model/value';
import { SYMBOLOGY_FIELDS } from '@pontrel/core/model/symbology-fields';
import { mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import Database from 'better-sqlite3';
import { afterAll, describe, expect, it } from 'vitest';
import { formatById } from '@pontrel/core/formats/index';
import { formatOptions, prescribedCrs } from '@pontrel/core/formats/options';
import { type FeatureBatch, KINDS } from '@pontrel/core/model/batch';
import { BatchBuilder } from '@pontrel/core/model/batch-builder';
import { Profiler } from '@pontrel/core/content/features/profile';
import { emptyLibrary, symbolKey } from '@pontrel/core/symbology/library';
import { carriedPart, NO_SYMBOLOGY } from '@pontrel/core/symbology/carried';
import { NO_STYLE } from '@pontrel/core/symbology/layer-style';
import { type Symbolizer, symbolizerOf } from '@pontrel/core/symbology/symbolizer';
import { readSld, withLooks } from '@pontrel/core/symbology/sld-read';
import { sldText } from '@pontrel/core/symbology/sld-write';
import { temporaryFolder } from '../server/client';
import { crossInto, gather, type Gathered } from './cross-file';

const NZTM = 'EPSG:2193';

/** A layer a look: lines, areas and points of the invented town. */
const LAYERS: Record<string, { kind: 'line' | 'polygon' | 'point'; values: Record<string, Value> }> = {
  drain: { kind: 'line', values: { color: '#1f5f8b', lineweight_mm: 0.35, linetype: 'DASHED' } },
  fence: { kind: 'line', values: { color: '#7a5008', linetype: 'DASHED', linetype_scale: 0.25 } },
  kerb: { kind: 'line', values: { color: '#a8492a', lineweight_mm: 0.5 } },
  reserve: { kind: 'polygon', values: { color: '#2c7a73', fill: '#e0c080', transparency: 0.4, lineweight_mm: 0.25 } },
  bollard: { kind: 'point', values: { color: '#6b4f9e' } },
  mark: { kind: 'point', values: { color: '#a8492a', marker: 'star', marker_size_mm: 3.5 } },
  ferry: { kind: 'line', values: { color: '#1f5f8b', line_width_m: 12.5 } },
};

function styled(): Gathered {
  const library = emptyLibrary();
  library.lines.set('dashed', { description: 'Dashes', dashes: [12, -6] });
  const profiler = new Profiler();
  const batches = Object.entries(LAYERS).map(([layer, { kind, values }], k) => {
    const b = new BatchBuilder(layer);
    const run: [number, number][] =
      kind === 'point'
        ? [[0, 0]]
        : kind === 'line'
          ? [
              [0, 0],
              [40, 5],
            ]
          : [
              [0, 0],
              [40, 0],
              [40, 30],
              [0, 0],
            ];
    for (const [x, y] of run) b.vertex(1_464_000 + 100 * k + x, 5_101_500 + y, NaN);
    b.endPart();
    for (const [name, value] of Object.entries({ ...values, note: layer })) b.set(name, value);
    b.endFeature(KINDS.indexOf(kind), kind, 1);
    return b.take();
  });
  for (const batch of batches) profiler.add(batch);
  return { name: 'town.dxf', batches, profiler, findings: [], library };
}

const looksIn = (batches: readonly FeatureBatch[], library: Gathered['library']): Map<string, Symbolizer> =>
  new Map(
    batches.flatMap((b) =>
      Array.from({ length: b.count }, (_, i) => {
        const layer = String(b.columns.get('note')?.[i]);
        return [
          layer,
          symbolizerOf(
            KINDS[b.kinds[i]!]!,
            (f) => b.columns.get(f)?.[i] ?? null,
            (name) => library?.lines.get(symbolKey(name)),
            1,
          ),
        ] as const;
      }),
    ),
  );

describe('looks, without the fields that tell them', () => {
  const { folder, remove } = temporaryFolder();
  afterAll(remove);
  let made = 0;

  // what a format says that it holds comes back from its files, and nothing else does
  it.each([
    ['dxf', {}],
    ['dxf', { version: 'R2018' }],
    ['dxf', { version: 'R12' }],
    ['shapefile', {}],
    ['geopackage', {}],
    ['geojson', { looks: 'simplestyle' }],
    ['kml', {}],
    ['geojson', {}],
    ['gml', {}],
    ['flatgeobuf', {}],
  ] as const)('%s %o', async (id, options) => {
    const path = `${folder}/${++made}`;
    mkdirSync(path);
    const format = formatById(id)!;
    const source = styled();
    const fields = Object.fromEntries(SYMBOLOGY_FIELDS.map((f) => [f, { taken: false }]));
    const rules = Object.fromEntries(Object.keys(LAYERS).map((l) => [l, { fields }]));
    const { prepared, proof } = await crossInto(path, source, {
      format: id,
      crs: prescribedCrs(format, options) ?? NZTM,
      placement: { crs: NZTM, unit_m: null },
      options,
      rules,
    });
    expect(proof.status).toBe('match');
    const files = prepared.format.features
      .write!.files(prepared.plan.sets, { stem: prepared.target.stem, options: prepared.target.options })
      .filter((f) => f.sets.length > 0);
    const read = await Promise.all(files.map((f) => gather(`${path}/${f.name}`)));
    const back = new Map(read.flatMap((r) => [...looksIn(r.batches, r.library)]));
    const held = format.features.write!.symbology?.(formatOptions(format, options)) ?? NO_SYMBOLOGY;
    for (const [layer, look] of looksIn(source.batches, source.library)) {
      const { look: wanted } = carriedPart(look, held);
      const found = back.get(layer)!;
      expect({ layer, ...found, width_mm: null, dash_mm: null }).toEqual({ layer, ...wanted, width_mm: null, dash_mm: null });
      // widths in whole hundredths of a pixel
      if (wanted.width_mm !== null && wanted.width_m === null) expect(found.width_mm).toBeCloseTo(wanted.width_mm, 2);
      if (held.dash) expect(found.dash_mm).toEqual(wanted.dash_mm);
    }
  });

  // a label and the scales at which a layer is shown, where the format holds them
  it.each([
    ['shapefile', '.shp'],
    ['geopackage', '.gpkg'],
    ['kml', '.kml'],
    ['dxf', '.dxf'],
    ['geojson', '.geojson'],
  ] as const)('the label and the scales of a layer in %s', async (id, extension) => {
    const path = `${folder}/${++made}`;
    mkdirSync(path);
    const rules = Object.fromEntries(
      Object.keys(LAYERS).map((l) => [l, { label: { field: 'note of the keeper', height_mm: 3 }, scales: { min: 500, max: 25_000 } }]),
    );
    const source = styled();
    const longNamed = {
      ...source,
      batches: source.batches.map((b) => ({
        ...b,
        columns: new Map([...b.columns].map(([name, column]) => [name === 'note' ? 'note of the keeper' : name, column])),
      })),
    };
    const profiler = new Profiler();
    for (const batch of longNamed.batches) profiler.add(batch);
    const { prepared, proof } = await crossInto(
      path,
      { ...longNamed, profiler },
      { format: id, crs: prescribedCrs(formatById(id)!, {}) ?? NZTM, placement: { crs: NZTM, unit_m: null }, rules },
    );
    expect(proof.status).toBe('match');
    const held = formatById(id)!.features.write!.symbology?.(formatOptions(formatById(id)!, {})) ?? NO_SYMBOLOGY;
    for (const row of prepared.forecast.rows)
      expect(row.style.lost).toEqual([...(held.label ? [] : ['its labels']), ...(held.scales ? [] : ['its range of scales'])]);
    const files = prepared.format.features
      .write!.files(prepared.plan.sets, { stem: prepared.target.stem, options: prepared.target.options })
      .filter((f) => f.name.endsWith(extension));
    if (id === 'shapefile' || id === 'geopackage') {
      const read = await Promise.all(files.map((f) => gather(`${path}/${f.name}`)));
      const styles = new Map(read.flatMap((r) => [...r.library!.styles]));
      expect(styles.size).toBe(Object.keys(LAYERS).length);
      for (const style of styles.values())
        expect(style).toEqual({
          label: { field: 'note of the keeper', height_mm: 3, color: '#23303d' },
          scales: { min: 500, max: 25_000 },
        });
    } else if (id === 'kml') {
      const text = readFileSync(`${path}/${files[0]!.name}`, 'utf8');
      expect(text).toContain('<name>kerb</name>');
      // a box of 100 metres, which nothing here is larger than: 14 pixels of 0.28 mm at 1 to 25 000, and 714 at 1 to 500
      expect([...text.matchAll(/<Lod>(.*?)<\/Lod>/g)].map((m) => m[1])).toEqual(
        Array.from({ length: Object.keys(LAYERS).length }, () => '<minLodPixels>14</minLodPixels><maxLodPixels>714</maxLodPixels>'),
      );
    }
  });

  it('of a layer with several are categories by the fields that tell them apart, in a style beside a shapefile and in a container', async () => {
    const path = `${folder}/${++made}`;
    mkdirSync(path);
    const b = new BatchBuilder('pipes');
    for (let k = 0; k < 30; k++) {
      b.vertex(k, 0, NaN);
      b.vertex(k, 5, NaN);
      b.endPart();
      b.set('color', k % 3 === 0 ? '#1f5f8b' : k % 3 === 1 ? '#a8492a' : null);
      b.set('lineweight_mm', k % 2 === 0 ? 0.5 : 0.25);
      b.endFeature(1, 'LINE', k + 1);
    }
    const batch = b.take();
    const profiler = new Profiler();
    profiler.add(batch);
    const source: Gathered = { name: 'pipes.dxf', batches: [batch], profiler, findings: [], library: null };
    await crossInto(path, source, { format: 'shapefile', crs: NZTM });
    await crossInto(path, source, { format: 'geopackage', crs: NZTM });
    const sld = readFileSync(`${path}/pipes.sld`, 'utf8');
    expect(sld.match(/<se:Rule>/g)!.length).toBe(6);
    const db = new Database(`${path}/plan.gpkg`);
    expect(
      String(
        db
          .prepare(
            "SELECT CAST(stylesheet AS TEXT) AS t FROM gpkgext_stylesheets s JOIN gpkgext_styles n ON n.id = s.style_id WHERE n.style = 'pipes'",
          )
          .pluck()
          .get(),
      ).match(/<se:Rule>/g)!.length,
    ).toBe(6);
    db.close();
    // as another program would: records without the look fields, told by the ones that the style names
    const { columns: _own, ...bare } = batch;
    const told = withLooks(
      {
        ...bare,
        columns: new Map([
          ['color', batch.columns.get('color')!],
          ['linewmm', batch.columns.get('lineweight_mm')!],
        ]),
      },
      readSld('pipes.sld', sld.replaceAll(/<ogc:PropertyName>line[^<]*</gi, '<ogc:PropertyName>linewmm<')),
    );
    expect(told.columns.get('lineweight_mm')).toEqual(batch.columns.get('lineweight_mm'));
    // without one of them records get the look of most, and the forecast says so
    const { prepared } = await crossInto(`${folder}`, source, {
      format: 'shapefile',
      crs: NZTM,
      rules: { pipes: { fields: { color: { taken: false } } } },
    });
    expect(prepared.forecast.findings.map((f) => f.code)).toContain('looks-merged');
    expect(readdirSync(folder)).toContain('pipes.sld');
  });
});

describe('styles by others', () => {
  it('the example of SLD 1.0 with conditions, an ElseFilter and CssParameters', () => {
    // after OGC 02-070, clauses 11.4 and 12 (rules with filters, LineSymbolizer), from memory
    const sheet = readSld(
      'roads.sld',
      `<StyledLayerDescriptor version="1.0.0" xmlns="http://www.opengis.net/sld" xmlns:ogc="http://www.opengis.net/ogc"><NamedLayer><Name>roads</Name><UserStyle><FeatureTypeStyle>
      <Rule><MaxScaleDenominator>50000</MaxScaleDenominator><ogc:Filter><ogc:And><ogc:PropertyIsGreaterThanOrEqualTo><ogc:PropertyName>lanes</ogc:PropertyName><ogc:Literal>4</ogc:Literal></ogc:PropertyIsGreaterThanOrEqualTo><ogc:Not><ogc:PropertyIsLike wildCard="%" singleChar="_" escape="\\"><ogc:PropertyName>name</ogc:PropertyName><ogc:Literal>Old%</ogc:Literal></ogc:PropertyIsLike></ogc:Not></ogc:And></ogc:Filter>
        <LineSymbolizer><Stroke><CssParameter name="stroke">#FF0000</CssParameter><CssParameter name="stroke-width"><ogc:Literal>2</ogc:Literal></CssParameter><CssParameter name="stroke-dasharray">10 5</CssParameter></Stroke></LineSymbolizer></Rule>
      <Rule><ogc:Filter><ogc:PropertyIsBetween><ogc:PropertyName>lanes</ogc:PropertyName><ogc:LowerBoundary><ogc:Literal>2</ogc:Literal></ogc:LowerBoundary><ogc:UpperBoundary><ogc:Literal>3</ogc:Literal></ogc:UpperBoundary></ogc:PropertyIsBetween></ogc:Filter><LineSymbolizer><Stroke><CssParameter name="stroke">#00ff00</CssParameter></Stroke></LineSymbolizer></Rule>
      <Rule><ElseFilter/><LineSymbolizer><Stroke><CssParameter name="stroke">#888888</CssParameter><CssParameter name="stroke-opacity">0.5</CssParameter></Stroke></LineSymbolizer></Rule>
      </FeatureTypeStyle></UserStyle></NamedLayer></StyledLayerDescriptor>`,
    );
    const b = new BatchBuilder('roads');
    for (const [lanes, name] of [
      [4, 'Quay'],
      [6, 'Old Road'],
      [2, 'Hill'],
      [3, null],
      [1, 'Lane'],
      [null, null],
    ] as const) {
      b.vertex(0, 0, NaN);
      b.vertex(1, 1, NaN);
      b.endPart();
      b.set('lanes', lanes);
      b.set('name', name);
      b.endFeature(1, 'PolyLine', 1);
    }
    const told = withLooks(b.take(), sheet);
    expect(told.columns.get('color')).toEqual(['#ff0000', '#888888', '#00ff00', '#00ff00', '#888888', '#888888']);
    expect(told.columns.get('transparency')).toEqual([null, 0.5, null, null, 0.5, 0.5]);
    // two pixels of 0.28 mm
    expect(told.columns.get('lineweight_mm')![0]).toBe(0.56);
    expect([...sheet.library.lines.values()].map((l) => l.dashes)).toEqual([[2.8, -1.4]]);
    expect(sheet.left).toEqual(['rules for scales of their own']);
  });

  it('marks, sizes, widths on the ground, labels and scales of SLD 1.1', () => {
    // after OGC 05-077r4, clauses 10.2 (uom), 11.1.3 (scales), 11.3.2 (marks) and 11.4 (labels), from memory
    const sheet = readSld(
      'trees.sld',
      `<StyledLayerDescriptor version="1.1.0" xmlns="http://www.opengis.net/sld" xmlns:se="http://www.opengis.net/se" xmlns:ogc="http://www.opengis.net/ogc"><NamedLayer><se:Name>trees</se:Name><UserStyle><se:FeatureTypeStyle>
      <se:Rule><se:MinScaleDenominator>500</se:MinScaleDenominator><se:MaxScaleDenominator>5000</se:MaxScaleDenominator>
        <se:PointSymbolizer><se:Graphic><se:Mark><se:WellKnownName>triangle</se:WellKnownName><se:Fill><se:SvgParameter name="fill">#2C7A73</se:SvgParameter></se:Fill></se:Mark><se:Size>10</se:Size></se:Graphic></se:PointSymbolizer>
        <se:LineSymbolizer uom="http://www.opengeospatial.org/se/units/foot"><se:Stroke><se:SvgParameter name="stroke">#000000</se:SvgParameter><se:SvgParameter name="stroke-width">10</se:SvgParameter><se:SvgParameter name="stroke-dasharray">20 10</se:SvgParameter></se:Stroke></se:LineSymbolizer>
        <se:TextSymbolizer><se:Label><ogc:PropertyName>app:species</ogc:PropertyName></se:Label><se:Font><se:SvgParameter name="font-size">12</se:SvgParameter></se:Font></se:TextSymbolizer></se:Rule>
      </se:FeatureTypeStyle></UserStyle></NamedLayer></StyledLayerDescriptor>`,
    );
    const b = new BatchBuilder('trees');
    b.vertex(0, 0, NaN);
    b.endPart();
    b.endFeature(0, 'Point', 1);
    b.vertex(0, 0, NaN);
    b.vertex(1, 0, NaN);
    b.endPart();
    b.endFeature(1, 'Line', 2);
    const { columns } = withLooks(b.take(), sheet);
    expect([columns.get('marker'), columns.get('marker_size_mm'), columns.get('color')]).toEqual([
      ['triangle', null],
      [2.8, null],
      ['#2c7a73', '#000000'],
    ]);
    // ten US survey feet, dashes of twenty and gaps of ten
    expect(columns.get('line_width_m')![1]).toBeCloseTo(3.048, 4);
    expect([...sheet.library.lines.values()].map((l) => l.dashes)).toEqual([[6.096, -3.048]]);
    expect(sheet.style).toEqual({ label: { field: 'species', height_mm: 3.36, color: null }, scales: { min: 500, max: 5000 } });
    expect(sheet.left).toEqual([]);
  });

  it('what is no style is told, and stands in the way of nothing', async () => {
    expect(() => readSld('a.sld', '<kml/>')).toThrow(/a\.sld is XML, but no style/);
    const { folder, remove } = temporaryFolder();
    await crossInto(folder, styled(), { format: 'shapefile', crs: NZTM });
    writeFileSync(`${folder}/kerb.sld`, '<StyledLayerDescriptor><broken');
    const read = await gather(`${folder}/kerb.shp`);
    expect([read.batches[0]!.count, read.findings.map((f) => f.code)]).toEqual([1, ['shp-style-unread']]);
    remove();
  });

  it('a text in a style is only a text', () => {
    expect(
      sldText(
        'a<b',
        [
          {
            name: 'x & y',
            where: [{ field: 'f"', value: '<1>' }],
            count: 1,
            symbolizer: {
              kind: 'line',
              color: null,
              fill: null,
              opacity: null,
              width_mm: null,
              width_m: null,
              dash_mm: null,
              marker: null,
              marker_mm: null,
            },
          },
        ],
        NO_STYLE,
      ),
    ).toContain('<ogc:Literal>&lt;1&gt;</ogc:Literal>');
  });
});
