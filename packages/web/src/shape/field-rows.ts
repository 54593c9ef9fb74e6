import type { CrossingState } from '@pontrel/contract/crossing';
import type { Forecast } from '@pontrel/core/content/features/forecast';
import type { PlannedField, PlannedSet } from '@pontrel/core/content/features/plan';
import { type FieldProfile, joinFields, measuresProfile } from '@pontrel/core/content/features/profile';
import type { Retyping } from '@pontrel/core/operations/retype';
import type { PlainValue } from '@pontrel/core/model/value';
import type { ShapedLayer } from './shaped-layers';
import { rowOf } from './shaping';

/** A field of one or several layers, and what becomes of it in the sets that they go into. */
export interface FieldRow {
  from: string;
  samples: PlainValue[];
  /** What the drawing itself asks for by it. */
  prompt?: string;
  /** Layers whose records keep it, with the plan for it. */
  planned: {
    of: ShapedLayer;
    field: PlannedField;
    records: number;
    /** What became of its values by the type and the room that a rule gives it. */
    retyped: Pick<Retyping, 'unfit' | 'cut' | 'rounded'>;
  }[];
  /** Layers in which a rule leaves it. */
  left: ShapedLayer[];
}

const AS_THEY_ARE = { unfit: 0, cut: 0, rounded: 0 };

/** Different values of a field that are kept: as many as a profile keeps. */
export const MOST_SAMPLES = 8;

/** The sets that the records of a layer go into. */
export const setsOf = (forecast: Forecast | null, { source, layer }: ShapedLayer): PlannedSet[] =>
  forecast?.sets.filter((s) => s.members.some((m) => m.source === source.name && m.layer === layer.profile.name)) ?? [];

/**
 * The fields of some layers, those that stay behind in all of them last.
 * @param wanted the set to plan for; all of them where nothing is said
 */
export function fieldRows(
  crossing: CrossingState,
  layers: readonly ShapedLayer[],
  forecast: Forecast | null,
  wanted: PlannedSet | null,
): FieldRow[] {
  const rows = new Map<string, FieldRow>();
  const rowAt = (from: string, samples: readonly PlainValue[], prompt?: string): FieldRow => {
    let row = rows.get(from);
    if (!row) rows.set(from, (row = { from, samples: [], planned: [], left: [], ...(prompt === undefined ? {} : { prompt }) }));
    for (const s of samples) if (row.samples.length < MOST_SAMPLES && !row.samples.includes(s)) row.samples.push(s);
    return row;
  };
  for (const of of layers) {
    const profiles = joinFields(of.layer.profile.groups);
    const added = addedFields(crossing, of, forecast, profiles);
    const { retype } = rowOf(forecast, of)?.report ?? {};
    const prompts = Object.assign({}, ...(of.layer.blocks ?? []).map((b) => b.prompts ?? {})) as Record<string, string>;
    for (const set of wanted ? [wanted] : setsOf(forecast, of)) {
      // measures are a field only where the target has no room for them beside the positions
      const measures = set.measures === false ? measuresProfile(of.layer.profile.groups, 'measures') : null;
      const own = new Map(profiles.map((p) => [p.name, p]));
      for (const field of set.fields) {
        if (!field.computed && !field.measures && !added.has(field.from) && !own.has(field.from)) continue;
        const samples = added.get(field.from) ?? (field.measures ? measures : own.get(field.from))?.samples ?? [];
        const { planned } = rowAt(field.from, samples, prompts[field.from]);
        planned.push({ of, field, records: set.count, retyped: retype?.fields[field.from] ?? AS_THEY_ARE });
      }
      for (const p of [...profiles, ...(measures && !own.has(measures.name) ? [measures] : [])]) {
        if (of.rule.fields?.[p.name]?.taken !== false) continue;
        const { left } = rowAt(p.name, p.samples, prompts[p.name]);
        if (!left.includes(of)) left.push(of);
      }
    }
  }
  const all = [...rows.values()];
  return [...all.filter((r) => r.planned.length > 0), ...all.filter((r) => r.planned.length === 0)];
}

/** Fields that the rules add to a layer, with values as they will be: the same throughout, texts of other layers, those of a table. */
function addedFields(
  crossing: CrossingState,
  { source, layer, rule }: ShapedLayer,
  forecast: Forecast | null,
  profiles: readonly FieldProfile[],
): Map<string, readonly PlainValue[]> {
  const added = new Map<string, readonly PlainValue[]>((rule.constants ?? []).map((c) => [c.name, [c.value]]));
  for (const from of source.layers) {
    const transfer = crossing.recipe.sources[source.name]?.layers[from.profile.name]?.textTransfer;
    if (transfer?.layer !== layer.profile.name) continue;
    const report = rowOf(forecast, { source, layer: from, rule, key: '' })?.report;
    added.set(transfer.field, report?.textTransfer?.matched.slice(0, 1).map((t) => t.text) ?? []);
  }
  // all fields of a table that is joined, but for its key
  const { join } = rule;
  const table = join && crossing.sources.find((s) => s.name === join.source)?.layers.find((l) => l.profile.name === join.layer);
  for (const f of table ? joinFields(table.profile.groups) : []) {
    if (f.name === join!.to) continue;
    const taken = profiles.some((p) => p.name === f.name);
    added.set(
      taken ? `${table!.profile.name}_${f.name}` : f.name,
      f.samples.filter((s) => s !== null),
    );
  }
  return added;
}
