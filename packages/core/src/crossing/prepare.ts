import { formatOptions } from '../formats/options';
import type { RunTarget } from '../content/features/write';
import { type Sizes, sizesBetween } from '../symbology/sizes';
import { formatById } from '../formats/index';
import type { Format } from '../formats/format';
import type { Finding } from '../model/finding';
import { Problem } from '../model/problem';
import { type LinePattern, symbolKey } from '../symbology/library';
import { type LayerStyle, styleBy } from '../symbology/layer-style';
import type { LayerProfile } from '../content/features/profile';
import { type Forecast, forecast } from '../content/features/forecast';
import { fileStem, makePlan, type Plan, type PlannedLayer } from '../content/features/plan';
import type { ShapeReport } from '../operations/reshape';
import { unitOfSource } from './shaped';
import { crsOf, placedFor, placementOf } from '../placement/route';
import { type Deliverable, layerRule, type Recipe } from './recipe';

/** What is known of a source once it was read. */
export interface PreparedSource {
  /** As the recipe calls it. */
  name: string;
  layers: readonly LayerProfile[];
  findings: readonly Finding[];
  /** What the rules did to its layers, where they change records. */
  reports?: Readonly<Record<string, ShapeReport>>;
  /** Patterns of its lines, by name in small letters, in its own unit. */
  patterns?: Readonly<Record<string, LinePattern>>;
  /** What its styles say of its layers as a whole, by layer in small letters. */
  styles?: Readonly<Record<string, LayerStyle>>;
}

/** A deliverable worked out: what goes where, and what becomes of it. */
export interface Prepared {
  format: Format;
  target: RunTarget;
  plan: Plan;
  forecast: Forecast;
  /** Records that will cross. */
  total: number;
}

/** @throws Problem when the deliverable names a format or a CRS that is not there */
export function prepare(recipe: Recipe, deliverable: Deliverable, sources: readonly PreparedSource[]): Prepared {
  const format = formatById(deliverable.format);
  if (!format?.write)
    throw new Problem('format-unknown', `${deliverable.name}: "${deliverable.format}" is not a format that is written here.`);
  const target = crsOf(deliverable.crs);
  if (!target)
    throw new Problem('crs-unknown', `${deliverable.name}: ${deliverable.crs} is not in the registry. Choose another target system.`);
  const layers = sources.flatMap((s) =>
    s.layers.map((profile): PlannedLayer => {
      const rule = layerRule(recipe, s.name, profile.name);
      return { source: s.name, profile, rule, style: styleBy(rule, s.styles?.[symbolKey(profile.name)]) };
    }),
  );
  const unit_m = (source: string): number => unitOfSource(recipe, source);
  const sizes = (source: string): Sizes => {
    const placed = placementOf(recipe, source);
    return placed ? sizesBetween(placed.crs, unit_m(source), placed.numbers.fit !== undefined, target) : { ratio: 1, turns: false };
  };
  const options = formatOptions(format, deliverable.options);
  const stem = fileStem(deliverable.name);
  const plan = makePlan(format, layers, { grouping: deliverable.grouping, stem, unit_m, chord_m: recipe.chord_m, sizes });
  const known = sources.map((s) => ({
    name: s.name,
    placed: placedFor(recipe, s.name, s.layers, target),
    unit_m: unit_m(s.name),
    findings: s.findings,
    reports: s.reports ?? {},
    ...(s.patterns ? { patterns: s.patterns } : {}),
  }));
  const told = forecast(format, plan, layers, known, { crs: target, stem, options, chord_m: recipe.chord_m });
  if (deliverable.into !== undefined && (!format.write.adds || !sources.some((s) => s.name === deliverable.into)))
    told.blocked.push(
      format.write.adds
        ? `${deliverable.into}, which it is to be added to, is not here. Choose another file, or a new one.`
        : `${format.name} cannot be added to a file that there is.`,
    );
  return {
    format,
    plan,
    target: { crs: target, stem, options, chord_m: recipe.chord_m },
    forecast: told,
    total: plan.sets.reduce((n, set) => n + set.count, 0),
  };
}
