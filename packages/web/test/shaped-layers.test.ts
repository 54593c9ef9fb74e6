import { describe, expect, it } from 'vitest';
import type { GroupProfile } from '@pontrel/core/content/features/profile';
import { LayerRule } from '@pontrel/core/operations/layer-rule';
import { sheetGroups } from '../src/gather/sheet-groups';
import type { LayerAt } from '../src/gather/layer-at';
import { changesOf, isChanged, RULE_GROUPS } from '../src/shape/rule-groups';
import { jointLayer, type ShapedLayer } from '../src/shape/shaped-layers';

const group = (entity: string, kind: string, count: number, fields: string[]): GroupProfile =>
  ({
    entity,
    kind,
    count,
    vertices: count,
    curved: 0,
    chordLoad: 0,
    heights: false,
    fields: fields.map((name) => ({
      name,
      type: 'text',
      filled: count,
      maxBytes: 4,
      whole: 0,
      decimals: 0,
      samples: [`${name} of ${entity}`],
    })),
  }) as GroupProfile;

const shaped = (name: string, groups: GroupProfile[], rule: LayerRule = {}): ShapedLayer =>
  ({
    key: `a\n${name}`,
    source: { name: 'a' },
    layer: { plan: { strokes: [] }, profile: { name, count: groups.reduce((n, g) => n + g.count, 0), extent: null, zRange: null, groups } },
    rule,
  }) as unknown as ShapedLayer;

describe('several layers chosen together', () => {
  const mains = shaped('MAIN', [group('LINE', 'line', 5, ['ID', 'YEAR']), group('ARC', 'line', 2, ['ID'])], {
    where: "ID <> ''",
    fields: { ID: { to: 'NUMBER' }, YEAR: { taken: false } },
  });
  const sewers = shaped('SEWER', [group('LINE', 'line', 3, ['ID', 'DEPTH'])], { where: "ID <> ''", fields: { ID: { to: 'NUMBER' } } });

  it('have their objects counted together, and the fields that all of them have', () => {
    const { name, layer } = jointLayer([mains, sewers]);
    expect(name).toBe('2 layers');
    expect(layer.profile.count).toBe(10);
    expect(layer.profile.groups.map((g) => [g.entity, g.count, g.fields.map((f) => f.name)])).toEqual([
      ['LINE', 8, ['ID']],
      ['ARC', 2, ['ID']],
    ]);
  });

  it('have the rules that are alike, and of tables what is alike; the rest is told to differ', () => {
    const { rule, differs } = jointLayer([mains, sewers]);
    expect(rule).toEqual({ where: "ID <> ''", fields: { ID: { to: 'NUMBER' } } });
    expect([...differs]).toEqual(['fields']);
    const other = jointLayer([mains, shaped('VALVE', [], { where: 'YEAR > 2000' })]);
    expect(other.rule).toEqual({});
    expect([...other.differs].sort()).toEqual(['fields', 'where']);
  });

  it('are themselves where it is one', () => {
    const one = jointLayer([mains]);
    expect([one.name, one.layer, one.rule]).toEqual(['MAIN', mains.layer, mains.rule]);
  });
});

describe('changes of rules', () => {
  it('count each thing once, and not what says what holds anyway', () => {
    const rule: LayerRule = {
      where: 'a = 1',
      dropDuplicates: false,
      leftOut: ['TEXT', 'MTEXT'],
      blocks: { V: 'apart' },
      fields: { a: { to: 'b' }, c: {} },
      computed: ['x', 'y', 'z'],
      label: null,
    };
    expect(Object.fromEntries(RULE_GROUPS.map((g) => [g.id, changesOf(rule, g.rules)]))).toEqual({
      records: 3,
      geometry: 1,
      fields: 4,
      symbology: 1,
    });
    expect(isChanged({ taken: false, selections: [], fields: { a: {} }, computed: [] })).toBe(false);
  });

  it('are in one group each: every rule of a layer stands somewhere on the page', () => {
    const placed = RULE_GROUPS.flatMap((g) => g.rules as readonly string[]).sort();
    // taking a layer stands in the list of layers, and what is kept changes nothing
    expect([...new Set(placed)]).toEqual(placed);
    expect(placed).toEqual(
      Object.keys(LayerRule.shape)
        .filter((k) => k !== 'taken' && k !== 'selections')
        .sort(),
    );
  });
});

describe('the sheet of layers', () => {
  const at = (source: { name: string; layers: unknown[] }, name: string): LayerAt =>
    ({ source, layer: { profile: { name } }, taken: true }) as unknown as LayerAt;

  it('groups what a source of several layers has, and all sources of one layer together', () => {
    const drawing = { name: 'a.dxf', formatName: 'DXF drawing', unit: { name: 'metre' }, layers: [1, 2] };
    const roads = { name: 'roads.shp', formatName: 'Shapefile', unit: null, layers: [1] },
      parks = { name: 'parks.shp', formatName: 'Shapefile', unit: null, layers: [1] };
    const layers = [at(roads, 'roads'), at(drawing, 'A'), at(drawing, 'B'), at(parks, 'parks')];
    const groups = (of: LayerAt[]): [string, string, string[]][] =>
      sheetGroups([roads, drawing, parks] as never, of, []).map((g) => [g.title, g.says, g.layers.map((l) => l.layer.profile.name)]);
    expect(groups(layers)).toEqual([
      ['a.dxf', 'DXF drawing in metres', ['A', 'B']],
      ['2 sources', 'one layer each', ['roads', 'parks']],
    ]);
    // one that is left by a search stands under its own name
    expect(groups(layers.slice(0, 2))).toEqual([
      ['a.dxf', 'DXF drawing in metres', ['A']],
      ['roads.shp', 'Shapefile', ['roads']],
    ]);
  });
});
