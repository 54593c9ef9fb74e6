import { mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import Database from 'better-sqlite3';
import { afterAll, describe, expect, it } from 'vitest';
import { formatById } from '@pontrel/core/formats/index';
import { formatOptions, prescribedCrs } from '@pontrel/core/formats/options';
import { type FeatureBatch, KINDS, type Value } from '@pontrel/core/model/batch';
import { BatchBuilder } from '@pontrel/core/model/batch-builder';
import { Profiler } from '@pontrel/core/model/profile';
import { emptyLibrary, symbolKey } from '@pontrel/core/model/symbols';
import { heldOf, NO_LOOKS } from '@pontrel/core/style/held';
import { type Look, LOOK_FIELDS, lookOf } from '@pontrel/core/style/look';
import { readSld, withLooks } from '@pontrel/core/style/sld-read';
import { sldText } from '@pontrel/core/style/sld-write';
import { temporaryFolder } from '../server/client';
import { crossInto, gather, type Gathered } from './cross-file';

const NZTM = 'EPSG:2193';

/** A layer a look: lines, areas and points of the invented town. */
const LAYERS: Record<string, { kind: 'line' | 'polygon' | 'point'; values: Record<string, Value> }> = {
  drain: { kind: 'line', values: { color: '#1f5f8b', lineweight_mm: 0.35, linetype: 'DASHED' } },
  kerb: { kind: 'line', values: { color: '#a8492a', lineweight_mm: 0.5 } },
  reserve: { kind: 'polygon', values: { color: '#2c7a73', fill: '#e0c080', transparency: 0.4, lineweight_mm: 0.25 } },
  bollard: { kind: 'point', values: { color: '#6b4f9e' } },
};

function styled(): Gathered {
  const library = emptyLibrary();
  library.lines.set('dashed', { description: 'Dashes', dashes: [12, -6] });
  const profiler = new Profiler();
  const batches = Object.entries(LAYERS).map(([layer, { kind, values }], k) => {
    const b = new BatchBuilder(layer);
    const run: [number, number][] = kind === 'point' ? [[0, 0]] : kind === 'line' ? [[0, 0], [40, 5]] : [[0, 0], [40, 0], [40, 30], [0, 0]];
    for (const [x, y] of run) b.vertex(1_464_000 + 100 * k + x, 5_101_500 + y, NaN);
    b.endPart();
    for (const [name, value] of Object.entries({ ...values, note: layer })) b.set(name, value);
    b.endFeature(KINDS.indexOf(kind), kind, 1);
    return b.take();
  });
  for (const batch of batches) profiler.add(batch);
  return { name: 'town.dxf', batches, profiler, findings: [], library };
}

const looksIn = (batches: readonly FeatureBatch[], library: Gathered['library']): Map<string, Look> => new Map(batches.flatMap((b) => Array.from({ length: b.count }, (_, i) => {
  const layer = String(b.columns.get('note')?.[i]);
  return [layer, lookOf(KINDS[b.kinds[i]!]!, (f) => b.columns.get(f)?.[i] ?? null, (name) => library?.lines.get(symbolKey(name)), 1)] as const;
})));

describe('looks, without the fields that tell them', () => {
  const { folder, remove } = temporaryFolder();
  afterAll(remove);
  let made = 0;

  // what a format says that it holds comes back from its files, and nothing else does
  it.each([
    ['dxf', {}], ['dxf', { version: 'R2018' }], ['shapefile', {}], ['geopackage', {}], ['geojson', { looks: 'simplestyle' }], ['kml', {}], ['geojson', {}], ['gml', {}], ['flatgeobuf', {}],
  ] as const)('%s %o', async (id, options) => {
    const path = `${folder}/${++made}`;
    mkdirSync(path);
    const format = formatById(id)!;
    const source = styled();
    const fields = Object.fromEntries(LOOK_FIELDS.map((f) => [f, { taken: false }]));
    const rules = Object.fromEntries(Object.keys(LAYERS).map((l) => [l, { fields }]));
    const { prepared, proof } = await crossInto(path, source, { format: id, crs: prescribedCrs(format, options) ?? NZTM, placement: { crs: NZTM, unit_m: null }, options, rules });
    expect(proof.status).toBe('match');
    const files = prepared.format.write!.files(prepared.plan.sets, { stem: prepared.target.stem, options: prepared.target.options }).filter((f) => f.sets.length > 0);
    const read = await Promise.all(files.map((f) => gather(`${path}/${f.name}`)));
    const back = new Map(read.flatMap((r) => [...looksIn(r.batches, r.library)]));
    const held = format.write!.looks?.(formatOptions(format, options)) ?? NO_LOOKS;
    for (const [layer, look] of looksIn(source.batches, source.library)) {
      const { look: wanted } = heldOf(look, held);
      const found = back.get(layer)!;
      expect({ layer, ...found, width_mm: null, dash_mm: null }).toEqual({ layer, ...wanted, width_mm: null, dash_mm: null });
      // widths in whole hundredths of a pixel
      if (wanted.width_mm !== null) expect(found.width_mm).toBeCloseTo(wanted.width_mm, 2);
      if (held.dash) expect(found.dash_mm).toEqual(wanted.dash_mm);
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
    expect(String(db.prepare("SELECT CAST(stylesheet AS TEXT) AS t FROM gpkgext_stylesheets s JOIN gpkgext_styles n ON n.id = s.style_id WHERE n.style = 'pipes'").pluck().get()).match(/<se:Rule>/g)!.length).toBe(6);
    db.close();
    // as another program would: records without the look fields, told by the ones that the style names
    const { columns: _own, ...bare } = batch;
    const told = withLooks({ ...bare, columns: new Map([['color', batch.columns.get('color')!], ['linewmm', batch.columns.get('lineweight_mm')!]]) }, readSld('pipes.sld', sld.replaceAll(/<ogc:PropertyName>line[^<]*</gi, '<ogc:PropertyName>linewmm<')));
    expect(told.columns.get('lineweight_mm')).toEqual(batch.columns.get('lineweight_mm'));
    // without one of them records get the look of most, and the forecast says so
    const { prepared } = await crossInto(`${folder}`, source, { format: 'shapefile', crs: NZTM, rules: { pipes: { fields: { color: { taken: false } } } } });
    expect(prepared.forecast.findings.map((f) => f.code)).toContain('looks-merged');
    expect(readdirSync(folder)).toContain('pipes.sld');
  });
});

describe('styles by others', () => {
  it('the example of SLD 1.0 with conditions, an ElseFilter and CssParameters', () => {
    // after OGC 02-070, clauses 11.4 and 12 (rules with filters, LineSymbolizer), from memory
    const sheet = readSld('roads.sld', `<StyledLayerDescriptor version="1.0.0" xmlns="http://www.opengis.net/sld" xmlns:ogc="http://www.opengis.net/ogc"><NamedLayer><Name>roads</Name><UserStyle><FeatureTypeStyle>
      <Rule><MaxScaleDenominator>50000</MaxScaleDenominator><ogc:Filter><ogc:And><ogc:PropertyIsGreaterThanOrEqualTo><ogc:PropertyName>lanes</ogc:PropertyName><ogc:Literal>4</ogc:Literal></ogc:PropertyIsGreaterThanOrEqualTo><ogc:Not><ogc:PropertyIsLike wildCard="%" singleChar="_" escape="\\"><ogc:PropertyName>name</ogc:PropertyName><ogc:Literal>Old%</ogc:Literal></ogc:PropertyIsLike></ogc:Not></ogc:And></ogc:Filter>
        <LineSymbolizer><Stroke><CssParameter name="stroke">#FF0000</CssParameter><CssParameter name="stroke-width"><ogc:Literal>2</ogc:Literal></CssParameter><CssParameter name="stroke-dasharray">10 5</CssParameter></Stroke></LineSymbolizer></Rule>
      <Rule><ogc:Filter><ogc:PropertyIsBetween><ogc:PropertyName>lanes</ogc:PropertyName><ogc:LowerBoundary><ogc:Literal>2</ogc:Literal></ogc:LowerBoundary><ogc:UpperBoundary><ogc:Literal>3</ogc:Literal></ogc:UpperBoundary></ogc:PropertyIsBetween></ogc:Filter><LineSymbolizer><Stroke><CssParameter name="stroke">#00ff00</CssParameter></Stroke></LineSymbolizer></Rule>
      <Rule><ElseFilter/><LineSymbolizer><Stroke><CssParameter name="stroke">#888888</CssParameter><CssParameter name="stroke-opacity">0.5</CssParameter></Stroke></LineSymbolizer></Rule>
      </FeatureTypeStyle></UserStyle></NamedLayer></StyledLayerDescriptor>`);
    const b = new BatchBuilder('roads');
    for (const [lanes, name] of [[4, 'Quay'], [6, 'Old Road'], [2, 'Hill'], [3, null], [1, 'Lane'], [null, null]] as const) {
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
    expect(sheet.left).toEqual(['ranges of scales']);
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
    expect(sldText('a<b', [{ name: 'x & y', where: [{ field: 'f"', value: '<1>' }], count: 1, look: { kind: 'line', color: null, fill: null, opacity: null, width_mm: null, dash_mm: null, marker: null } }])).toContain('<ogc:Literal>&lt;1&gt;</ogc:Literal>');
  });
});
