import { type Crs, metresPerUnit } from '../crs/crs';
import { lookupCrs } from '../crs/registry/registry';
import { formatById } from '../formats/index';
import type { Format } from '../formats/format';
import type { Finding } from '../model/finding';
import { Problem } from '../model/problem';
import type { LayerProfile } from '../model/profile';
import { type Forecast, forecast } from './forecast';
import { fileStem, makePlan, type Plan, type PlannedLayer } from './plan';
import { type Deliverable, layerRule, type Placement, type Recipe } from './recipe';

/** What is known of a source once it was read. */
export interface PreparedSource {
  /** As the recipe calls it. */
  name: string;
  layers: readonly LayerProfile[];
  findings: readonly Finding[];
}

/** A deliverable worked out: what goes where, and what becomes of it. */
export interface Prepared {
  format: Format;
  target: Crs;
  plan: Plan;
  forecast: Forecast;
  /** Records that will cross. */
  total: number;
}

/** The CRS and the length of a source's unit by its placement; nulls until it is placed. */
export function placementOf(recipe: Recipe, source: string): { crs: Crs | null; unit_m: number | null } {
  const placement: Placement | null = recipe.sources[source]?.placement ?? null;
  const crs = placement ? (lookupCrs(placement.crs) ?? null) : null;
  return { crs, unit_m: placement?.unit_m ?? null };
}

/** @throws Problem when the deliverable names a format or a CRS that is not there */
export function prepare(recipe: Recipe, deliverable: Deliverable, sources: readonly PreparedSource[]): Prepared {
  const format = formatById(deliverable.format);
  if (!format?.write) throw new Problem('format-unknown', `${deliverable.name}: "${deliverable.format}" is not a format that is written here.`);
  const target = lookupCrs(deliverable.crs);
  if (!target) throw new Problem('crs-unknown', `${deliverable.name}: ${deliverable.crs} is not in the registry. Choose another target system.`);
  const layers = sources.flatMap((s) => s.layers.map((profile): PlannedLayer => ({ source: s.name, profile, rule: layerRule(recipe, s.name, profile.name) })));
  const unit_m = (source: string): number => {
    const { crs, unit_m } = placementOf(recipe, source);
    return crs ? metresPerUnit(crs, unit_m) : (unit_m ?? 1);
  };
  const plan = makePlan(format, layers, { grouping: deliverable.grouping, stem: fileStem(deliverable.name), unit_m, chord_m: recipe.chord_m });
  const known = sources.map((s) => ({ name: s.name, crs: placementOf(recipe, s.name).crs, unit_m: unit_m(s.name), findings: s.findings }));
  return {
    format, target, plan,
    forecast: forecast(format, plan, layers, known, target, recipe.chord_m),
    total: plan.sets.reduce((n, set) => n + set.count, 0),
  };
}
