import type { LayerRule } from '../operations/layer-rule';
import { asksRecord, isKnownField, namesIn } from '../filter/evaluate';
import { FilterFault, parseFilter } from '../filter/parse';
import { isPlane, type LinearUnit } from '../crs/crs';
import { sameLength } from '../placement/ratio';
import { crsOf } from '../placement/route';
import { isUnitSettled } from '../placement/unit-question';
import type { Finding } from '../model/finding';
import { joinFields, type LayerProfile } from '../content/features/profile';
import { parseTemplate } from '../filter/template';
import { type Recipe, sourcesOfAreas } from './recipe';
import { type WorkedOut, workedOutOf } from './worked-out';

/** A source as far as rules may not fit it. */
export interface ValidatedSource {
  name: string;
  layers: readonly LayerProfile[];
  /** What the file states; absent where nobody asks whether its placement still fits. */
  stated?: { crs: { id: string | null; name: string } | null; unit: LinearUnit | null };
}

/** A rule that is about something that the sources do not have, or something that no rule is about. */
export interface RecipeFault {
  finding: Finding;
  /** What it is about, as far as it can be matched with something else. */
  source?: string;
  layer?: string;
  field?: string;
}

/** Rules that no longer fit the sources, as findings. */
export const validateRecipe = (recipe: Recipe, sources: readonly ValidatedSource[]): Finding[] =>
  recipeFaults(recipe, sources).map((fault) => fault.finding);

/** Rules that no longer fit the sources. */
export function recipeFaults(recipe: Recipe, sources: readonly ValidatedSource[]): RecipeFault[] {
  const out: RecipeFault[] = [];
  const add = (code: string, message: string, location: string, about: Omit<RecipeFault, 'finding'> = { source: location }): void =>
    void out.push({ finding: { code, severity: 'caution', message, count: 1, location }, ...about });
  const byName = new Map(sources.map((s) => [s.name, s.layers]));
  for (const [source, { layers: rules, workedOut }] of Object.entries(recipe.sources)) {
    const layers = byName.get(source);
    if (!layers) {
      const why = workedOut ? whyNot(workedOut, new Set(byName.keys())) : '';
      add('recipe-source', `The recipe has rules for this source, which is not here.${why}`, source);
      continue;
    }
    for (const [name, rule] of Object.entries(rules)) {
      const layer = layers.find((l) => l.name === name);
      if (!layer)
        add('recipe-layer', `The recipe has rules for a layer ${name}, which is not in this source any more.`, source, {
          source,
          layer: name,
        });
      else
        for (const { message, field } of layerFaults(rule, layer, layers))
          add('recipe-field', message, `${source}: ${name}`, { source, layer: name, ...(field === undefined ? {} : { field }) });
      if (rule.join && !byName.get(rule.join.source)?.some((l) => l.name === rule.join!.layer))
        add(
          'recipe-join',
          `The table ${rule.join.layer} of ${rule.join.source}, which it is joined with, is not here.`,
          `${source}: ${name}`,
          { source, layer: name },
        );
    }
  }
  for (const d of recipe.deliverables) {
    if (d.into !== undefined && !byName.has(d.into)) add('recipe-into', `It is added to ${d.into}, which is not here.`, d.name, {});
    for (const [from, left] of Object.entries(d.without ?? {}))
      if (left !== true)
        for (const layer of left.filter((l) => byName.has(from) && !byName.get(from)!.some((known) => known.name === l)))
          add('recipe-without', `It leaves out the layer ${layer} of ${from}, which is not here any more.`, d.name, {});
    for (const from of sourcesOfAreas(d))
      if (!byName.has(from)) add('recipe-area', `Its area of interest is that of ${from}, which is not here.`, d.name, {});
  }
  // what the recipe does not speak of crosses as it is, which somebody should know
  for (const { name, layers, stated } of sources) {
    const placement = recipe.sources[name]?.placement;
    if (placement && stated?.crs?.id && crsOf(placement.crs)?.id !== stated.crs.id)
      add('recipe-system', `It is placed in another system than the file states now, ${stated.crs.name}.`, name);
    const taken_m = placement && !placement.fit ? (placement.unit_m ?? unitOf(placement.crs)) : null;
    if (taken_m !== null && stated?.unit && !sameLength(taken_m, stated.unit.metres) && !isUnitSettled(placement!, stated.unit))
      add('recipe-unit', `It is placed in another unit than the file states now, ${stated.unit.name}.`, name);
    const rules = recipe.sources[name]?.layers;
    if (!recipe.sources[name]) add('recipe-new-source', 'The recipe does not know this source: it has no place, and stays behind.', name);
    else if (rules && Object.keys(rules).length > 0)
      for (const l of layers)
        if (!(l.name in rules))
          out.push({
            finding: {
              code: 'recipe-no-rule',
              severity: 'info',
              message: `The recipe has no rule for the layer ${l.name}: it crosses as it is.`,
              count: l.count,
              location: name,
            },
            source: name,
          });
  }
  return out;
}

/** Why a source cannot be worked out. */
function whyNot(rule: WorkedOut, here: ReadonlySet<string>): string {
  const missing = workedOutOf(rule).filter((name) => !here.has(name));
  if (missing.length > 0) return ` It is worked out of ${missing.join(', ')}, which is not here either.`;
  return rule.by === 'comparison' && rule.old === rule.next
    ? ` Both revisions are called ${rule.old}, so it cannot be told which is which.`
    : '';
}

/** Metres in the unit of a system; null for degrees. */
function unitOf(text: string): number | null {
  const crs = crsOf(text);
  return crs && isPlane(crs) ? crs.unit.metres : null;
}

function* layerFaults(rule: LayerRule, layer: LayerProfile, all: readonly LayerProfile[]): Generator<{ message: string; field?: string }> {
  const fields = joinFields(layer.groups).map((f) => f.name);
  const known = (name: string): boolean => isKnownField(name, fields);
  for (const name of Object.keys(rule.fields ?? {}))
    if (!known(name) && !(rule.computed ?? []).includes(name))
      yield { message: `A rule is about a field ${name}, which no record has.`, field: name };
  for (const entity of rule.leftOut ?? [])
    if (!layer.groups.some((g) => g.entity === entity)) yield { message: `${entity} is to be left out, and there is none.` };
  if (rule.where !== undefined) {
    try {
      const condition = parseFilter(rule.where);
      for (const { name } of namesIn(condition))
        if (!known(name)) yield { message: `The filter asks for a field ${name}, which no record has.` };
      if (asksRecord(condition))
        yield { message: 'The filter knows records by their number, which may be that of another record in another file.' };
    } catch (error) {
      if (!(error instanceof FilterFault)) throw error;
      yield { message: `The filter cannot be read. ${error.message}` };
    }
  }
  const target = rule.to === undefined ? null : parseTemplate(rule.to);
  if (target !== null && typeof target !== 'string')
    for (const name of target.fields)
      if (!known(name)) yield { message: `The layer it goes into is named by a field ${name}, which no record has.` };
  if (rule.join && !known(rule.join.key)) yield { message: `Its table is joined by a field ${rule.join.key}, which no record has.` };
  if (rule.textTransfer && !all.some((l) => l.name === rule.textTransfer!.layer))
    yield { message: `Its texts go to the layer ${rule.textTransfer.layer}, which is not there.` };
}
