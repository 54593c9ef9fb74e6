import type { Value } from '../src/model/value';
import type { LayerRule } from '../src/operations/layer-rule';
import { NO_STYLE } from '../src/symbology/layer-style';
import { describe, expect, it } from 'vitest';
import { lookupCrs } from '../src/crs/registry/registry';
import { forecast } from '../src/content/features/forecast';
import { makePlan, type Plan, type PlannedLayer } from '../src/content/features/plan';
import { dbfText } from '../src/formats/shapefile/dbf-write';
import { shapefile } from '../src/formats/shapefile/index';
import { type Kind, KINDS } from '../src/model/batch';
import { BatchBuilder } from '../src/model/batch-builder';
import { Profiler } from '../src/content/features/profile';

interface Row {
  kind?: Kind;
  entity?: string;
  z?: number;
  values?: Record<string, Value>;
}

/** A layer as it would come of these records. */
function layer(name: string, rows: Row[], rule: LayerRule = {}, source = 'plan.dxf'): PlannedLayer {
  const b = new BatchBuilder(name);
  rows.forEach((row, i) => {
    b.vertex(i, 0, row.z ?? 0);
    if (row.kind === 'line' || row.kind === 'polygon') b.vertex(i + 1, 1, row.z ?? 0);
    b.endPart();
    for (const [field, value] of Object.entries(row.values ?? {})) b.set(field, value);
    b.endFeature(KINDS.indexOf(row.kind ?? 'point'), row.entity ?? 'POINT', i + 1);
  });
  const profiler = new Profiler();
  profiler.add(b.take());
  return { source, profile: profiler.layers()[0]!, rule, style: NO_STYLE };
}

const plan = (layers: PlannedLayer[], grouping: 'layer' | 'kind' = 'layer'): Plan =>
  makePlan(shapefile, layers, { grouping, stem: 'all', unit_m: () => 1, chord_m: 0.005, sizes: () => ({ ratio: 1, turns: false }) });
const field = (p: Plan, from: string): Plan['sets'][number]['fields'][number] => p.sets[0]!.fields.find((f) => f.from === from)!;

describe('sets', () => {
  it('are one a layer and kind, with names that do not collide on any file system', () => {
    const p = plan([layer('Quay', [{}, { kind: 'line', entity: 'LINE' }]), layer('QUAY', [{}]), layer('quay!', [{}]), layer('港', [{}])]);
    expect(p.sets.map((s) => s.name)).toEqual(['quay_point', 'quay_line', 'quay_point_2', 'quay_point_3', 'layer']);
    expect(p.route('plan.dxf', 'Quay', 'LINE', 'line')).toBe(1);
    expect(p.route('plan.dxf', 'QUAY', 'POINT', 'point')).toBe(2);
    expect(p.route('other.dxf', 'QUAY', 'POINT', 'point')).toBeUndefined();
  });

  it('hold all of a kind together when they are told to, texts with the points', () => {
    const p = plan([layer('A', [{}, { kind: 'text', entity: 'TEXT' }]), layer('B', [{ kind: 'line', entity: 'LINE' }, {}])], 'kind');
    expect(p.sets.map((s) => [s.name, s.kind, s.count])).toEqual([
      ['all_point', 'point', 3],
      ['all_line', 'line', 1],
    ]);
    expect(p.sets[0]!.members.map((m) => m.layer)).toEqual(['A', 'B']);
  });

  it('have heights only where some vertex has one', () => {
    expect(plan([layer('FLAT', [{}, {}])]).sets[0]!.heights).toBe(false);
    expect(plan([layer('HIGH', [{}, { z: 2.5 }])]).sets[0]!.heights).toBe(true);
  });

  it('leave out layers and objects that stay behind', () => {
    const rows: Row[] = [{}, { kind: 'line', entity: 'LINE' }];
    expect(plan([layer('A', rows, { taken: false })]).sets).toEqual([]);
    expect(plan([layer('A', rows, { leftOut: ['POINT'] })]).sets.map((s) => s.kind)).toEqual(['line']);
  });
});

describe('types and widths', () => {
  const of = (...values: Value[]): ReturnType<typeof field> =>
    field(
      plan([
        layer(
          'A',
          values.map((v) => ({ values: { v } })),
        ),
      ]),
      'v',
    );

  it.each([
    [['a', 'Whārangi'], { type: 'text', width: 9, decimals: 0 }], // nine bytes in UTF-8
    [[1, -250], { type: 'integer', width: 4, decimals: 0 }],
    [[1.5, -10.125], { type: 'decimal', width: 7, decimals: 3 }],
    [[true, false], { type: 'boolean', width: 1, decimals: 0 }],
  ] as [Value[], object][])('%j', (values, expected) => {
    const f = of(...values);
    expect(f).toMatchObject(expected);
    // every value fits, as it is written
    for (const v of values) expect(Buffer.byteLength(dbfText(v, f))).toBeLessThanOrEqual(f.width);
    expect(f.changes).toEqual([]);
  });

  it('are announced where a value does not fit as it is', () => {
    expect(of(1, 'two')).toMatchObject({ type: 'text', width: 3, changes: [{ code: 'as-text' }] });
    expect(of('x'.repeat(255)).changes).toEqual([{ code: 'text-cut', note: 'texts over 254 bytes are cut; the longest has 255' }]);
    const fine = of(123456.123456789012);
    expect(fine.width).toBeLessThanOrEqual(20);
    const long = of(1234567890123.5, 0.1234567890123456);
    expect(long.changes[0]).toMatchObject({ code: 'rounded' });
    expect(dbfText(1234567890123.5, long).length).toBeLessThanOrEqual(20);
  });
});

describe('the forecast', () => {
  const target = lookupCrs('EPSG:2193')!;
  const goal = { crs: target, stem: 'all', options: {}, chord_m: 0.005 };
  const source = { name: 'plan.dxf', placed: { crs: target, parameters: { unit_m: 1 }, extent: null }, unit_m: 1, findings: [] };

  it('sums up: what is unchanged, changed and left is all there is', () => {
    const layers = [
      layer('A', [{}, { kind: 'text', entity: 'TEXT', values: { text: 'x' } }, { entity: 'INSERT' }]),
      layer(
        'B',
        [
          { kind: 'line', entity: 'LINE' },
          { kind: 'line', entity: 'ARC' },
        ],
        { leftOut: ['ARC'] },
      ),
      layer('C', [{}, {}], { taken: false }),
    ];
    const f = forecast(shapefile, plan(layers), layers, [source], goal);
    expect(f.totals).toEqual({ records: 5, unchanged: 2, changed: 2, left: 1 });
    for (const row of f.rows) expect(row.unchanged + row.changed + row.left).toBe(row.records);
    expect(f.rows.map((r) => r.layer)).toEqual(['A', 'B']);
    expect(f.sets.reduce((n, s) => n + s.count, 0)).toBe(f.totals.records - f.totals.left);
  });

  it('warns of what a shapefile has no room for', () => {
    const many = layer('A', [{ values: Object.fromEntries(Array.from({ length: 260 }, (_, i) => [`field_${i}`, i])) }]);
    const f = forecast(shapefile, plan([many]), [many], [source], goal);
    expect(f.findings).toContainEqual(expect.objectContaining({ code: 'too-many-fields', count: 5 }));
    expect(f.blocked).toEqual([expect.stringMatching(/260 fields; at most 255 fit/)]);
    const huge = layer('A', [{}]);
    huge.profile.groups[0]!.count = 100_000_000;
    const g = forecast(shapefile, plan([huge]), [huge], [source], goal);
    // 100 000 000 points of 28 bytes are two files of 2 GB
    expect(g.findings).toContainEqual(expect.objectContaining({ code: 'shp-parts', location: 'a', count: 2 }));
  });

  it('says what stands in the way', () => {
    const one = layer('A', [{}]);
    const f = forecast(shapefile, plan([one]), [one], [{ ...source, placed: null }], goal);
    expect(f.blocked).toEqual(['plan.dxf has no coordinate system yet. Choose it in Place.']);
    const none = layer('A', [{}], { taken: false });
    expect(forecast(shapefile, plan([none]), [none], [source], goal).blocked).toEqual(['No layer is taken. Take some in Gather.']);
  });
});
