import type { LayerRule } from '../operations/layer-rule';
import { asksRecord, isKnownField, namesIn } from '../filter/evaluate';
import { FilterFault, parseFilter } from '../filter/parse';
import { isPlane, type LinearUnit } from '../crs/crs';
import { crsOf } from '../placement/route';
import type { Finding } from '../model/finding';
import { joinFields, type LayerProfile } from '../content/features/profile';
import { parseTemplate } from '../filter/template';
import { type Recipe, sourceOfArea } from './recipe';

/** A source as far as rules may not fit it. */
export interface ValidatedSource {
  name: string;
  layers: readonly LayerProfile[];
  /** What the file states; absent where nobody asks whether its placement still fits. */
  stated?: { crs: { id: string | null; name: string } | null; unit: LinearUnit | null };
}

/** What of a recipe has nothing any more that it is about, in the sources as they are now. */
export function validateRecipe(recipe: Recipe, sources: readonly ValidatedSource[]): Finding[] {
  const out: Finding[] = [];
  const add = (code: string, message: string, place: string): void =>
    void out.push({ code, severity: 'caution', message, count: 1, location: place });
  const byName = new Map(sources.map((s) => [s.name, s.layers]));
  for (const [source, { layers: rules }] of Object.entries(recipe.sources)) {
    const layers = byName.get(source);
    if (!layers) {
      add('recipe-source', 'The recipe has rules for this source, which is not here.', source);
      continue;
    }
    for (const [name, rule] of Object.entries(rules)) {
      const layer = layers.find((l) => l.name === name);
      if (!layer) add('recipe-layer', `The recipe has rules for a layer ${name}, which is not in this source any more.`, source);
      else for (const [code, message] of layerMisfits(rule, layer, layers)) add(code, message, `${source}: ${name}`);
      if (rule.join && !byName.get(rule.join.source)?.some((l) => l.name === rule.join!.layer))
        add(
          'recipe-join',
          `The table ${rule.join.layer} of ${rule.join.source}, which it is joined with, is not here.`,
          `${source}: ${name}`,
        );
    }
  }
  for (const d of recipe.deliverables) {
    if (d.into !== undefined && !byName.has(d.into)) add('recipe-into', `It is added to ${d.into}, which is not here.`, d.name);
    const from = d.area && sourceOfArea(d.area);
    if (from && !byName.has(from)) add('recipe-area', `Its area of interest is that of ${from}, which is not here.`, d.name);
  }
  // what the recipe does not speak of crosses as it is, which somebody should know
  for (const { name, layers, stated } of sources) {
    const placement = recipe.sources[name]?.placement;
    if (placement && stated?.crs?.id && crsOf(placement.crs)?.id !== stated.crs.id)
      add('recipe-system', `It is placed in another system than the file states now, ${stated.crs.name}.`, name);
    if (placement && stated?.unit && !placement.fit && !sameLength(placement.unit_m ?? unitOf(placement.crs), stated.unit.metres))
      add('recipe-unit', `It is placed in another unit than the file states now, ${stated.unit.name}.`, name);
    const rules = recipe.sources[name]?.layers;
    if (!recipe.sources[name]) add('recipe-new-source', 'The recipe does not know this source: it has no place, and stays behind.', name);
    else if (rules && Object.keys(rules).length > 0)
      for (const l of layers)
        if (!(l.name in rules))
          out.push({
            code: 'recipe-no-rule',
            severity: 'info',
            message: `The recipe has no rule for the layer ${l.name}: it crosses as it is.`,
            count: l.count,
            location: name,
          });
  }
  return out;
}

/** Metres in the unit of a system; null for degrees. */
function unitOf(text: string): number | null {
  const crs = crsOf(text);
  return crs && isPlane(crs) ? crs.unit.metres : null;
}

const sameLength = (a: number | null, b: number): boolean => a === null || Math.abs(a / b - 1) < 1e-9;

function* layerMisfits(rule: LayerRule, layer: LayerProfile, all: readonly LayerProfile[]): Generator<[code: string, message: string]> {
  const fields = joinFields(layer.groups).map((f) => f.name);
  const known = (name: string): boolean => isKnownField(name, fields);
  for (const name of Object.keys(rule.fields ?? {}))
    if (!known(name) && !(rule.computed ?? []).includes(name))
      yield ['recipe-field-rule', `A rule is about a field ${name}, which no record has.`];
  for (const entity of rule.leftOut ?? [])
    if (!layer.groups.some((g) => g.entity === entity)) yield ['recipe-field', `${entity} is to be left out, and there is none.`];
  if (rule.where !== undefined) {
    try {
      const condition = parseFilter(rule.where);
      for (const { name } of namesIn(condition))
        if (!known(name)) yield ['recipe-field', `The filter asks for a field ${name}, which no record has.`];
      if (asksRecord(condition))
        yield ['recipe-field', 'The filter knows records by their number, which may be that of another record in another file.'];
    } catch (error) {
      if (!(error instanceof FilterFault)) throw error;
      yield ['recipe-field', `The filter cannot be read. ${error.message}`];
    }
  }
  const target = rule.to === undefined ? null : parseTemplate(rule.to);
  if (target !== null && typeof target !== 'string')
    for (const name of target.fields)
      if (!known(name)) yield ['recipe-field', `The layer it goes into is named by a field ${name}, which no record has.`];
  if (rule.join && !known(rule.join.key)) yield ['recipe-field', `Its table is joined by a field ${rule.join.key}, which no record has.`];
  if (rule.textTransfer && !all.some((l) => l.name === rule.textTransfer!.layer))
    yield ['recipe-field', `Its texts go to the layer ${rule.textTransfer.layer}, which is not there.`];
}
