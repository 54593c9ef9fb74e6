import type { CrossingState, SourceLayer, SourceState } from '@pontrel/contract/crossing';
import { type FieldProfile, type GroupProfile, joinFields } from '@pontrel/core/content/features/profile';
import { layerRule } from '@pontrel/core/crossing/recipe';
import type { LayerRule } from '@pontrel/core/operations/layer-rule';
import { plural } from '../components/numbers';

/** A layer with its source and what is said of it. */
export interface ShapedLayer {
  /** Tells it from all other layers of the crossing. */
  key: string;
  source: SourceState;
  layer: SourceLayer;
  rule: LayerRule;
}

export const shapedLayers = (crossing: CrossingState): ShapedLayer[] =>
  crossing.sources.flatMap((source) =>
    source.layers.map((layer) => ({
      source,
      layer,
      key: `${source.name}\n${layer.profile.name}`,
      rule: layerRule(crossing.recipe, source.name, layer.profile.name),
    })),
  );

/** What several layers have in common, as if they were one. */
export interface JointLayer {
  name: string;
  layer: SourceLayer;
  /** What is said alike of all of them. */
  rule: LayerRule;
  /** What is said differently of some of them. */
  differs: ReadonlySet<keyof LayerRule>;
}

/** @param layers one at the least */
export function jointLayer(layers: readonly ShapedLayer[]): JointLayer {
  const [first] = layers;
  if (layers.length === 1) return { name: first!.layer.profile.name, layer: first!.layer, rule: first!.rule, differs: new Set() };
  const { rule, differs } = jointRule(layers.map((l) => l.rule));
  const profiles = layers.map((l) => l.layer.profile);
  const name = plural(layers.length, 'layer');
  return {
    name,
    rule,
    differs,
    layer: {
      plan: first!.layer.plan,
      blocks: jointBlocks(layers),
      profile: {
        name,
        count: profiles.reduce((n, p) => n + p.count, 0),
        extent: profiles.find((p) => p.extent !== null)?.extent ?? null,
        zRange: null,
        groups: jointGroups(layers),
      },
    },
  };
}

function jointRule(rules: readonly LayerRule[]): Pick<JointLayer, 'rule' | 'differs'> {
  const differs = new Set<keyof LayerRule>();
  const rule: LayerRule = {};
  for (const name of new Set(rules.flatMap((r) => Object.keys(r) as (keyof LayerRule)[]))) {
    if (isSame(rules.map((r) => r[name]))) Object.assign(rule, { [name]: rules[0]![name] });
    else {
      differs.add(name);
      // of a table by names, what is said alike of a name is said alike
      if (name === 'fields' || name === 'blocks') {
        const tables = rules.map((r) => r[name] ?? {});
        const alike = Object.entries(tables[0]!).filter(([key, value]) => isSame([value, ...tables.map((t) => t[key])]));
        if (alike.length > 0) Object.assign(rule, { [name]: Object.fromEntries(alike) });
      }
    }
  }
  return { rule, differs };
}

const isSame = (values: readonly unknown[]): boolean => new Set(values.map((v) => JSON.stringify(v))).size === 1;

/** Objects of one kind counted together, with the fields that all of the layers have. */
function jointGroups(layers: readonly ShapedLayer[]): GroupProfile[] {
  const named = layers.map((l) => new Set(joinFields(l.layer.profile.groups).map((f) => f.name)));
  const shared = (f: FieldProfile): boolean => named.every((names) => names.has(f.name));
  const groups = new Map<string, GroupProfile>();
  for (const g of layers.flatMap((l) => l.layer.profile.groups)) {
    const key = `${g.entity} ${g.kind}`;
    const known = groups.get(key);
    const fields = g.fields.filter(shared);
    groups.set(
      key,
      known
        ? {
            ...known,
            count: known.count + g.count,
            vertices: known.vertices + g.vertices,
            curved: known.curved + g.curved,
            chordLoad: known.chordLoad + g.chordLoad,
            fields: joinFields([known, { ...g, fields }]),
          }
        : { ...g, fields },
    );
  }
  return [...groups.values()];
}

function jointBlocks(layers: readonly ShapedLayer[]): NonNullable<SourceLayer['blocks']> {
  const blocks = new Map<string, NonNullable<SourceLayer['blocks']>[number]>();
  for (const b of layers.flatMap((l) => l.layer.blocks ?? [])) {
    const known = blocks.get(b.name);
    blocks.set(b.name, known ? { ...known, count: known.count + b.count, parts: Math.max(known.parts, b.parts) } : b);
  }
  return [...blocks.values()];
}
