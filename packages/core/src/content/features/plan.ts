import { type Reason, REASONS } from '../../model/reason';
import { isTaken, type LayerRule } from '../../operations/layer-rule';
import { SYMBOLOGY_FIELDS } from '../../model/symbology-fields';
import type { FeatureFormat, TargetField, TargetSet } from '../../formats/format';
import type { Kind } from '../../model/batch';
import type { FieldType } from '../../model/field';
import { type FieldProfile, type GroupProfile, joinFields, type LayerProfile, measuresProfile } from './profile';
import { computedField } from '../../filter/computed-fields';
import { follows, SIZED_DECIMALS, type Sizes } from '../../symbology/sizes';
import { abbreviate, nameFault, uniqueName } from './field-names';
import { oneTarget } from '../../operations/target-layer';
import type { LayerStyle } from '../../symbology/layer-style';
import type { SymbologyCount } from '../../symbology/style-rules';

/** A layer that may cross, with its rule. */
export interface PlannedLayer {
  source: string;
  profile: LayerProfile;
  rule: LayerRule;
  /** What is said of it as a whole, by the rule or by its source. */
  style: LayerStyle;
}

/** What happens to a field on its way into a format. */
export interface FieldChange {
  code: 'renamed' | 'text-cut' | 'characters-left' | 'rounded' | 'as-text';
  note: string;
}

/** A field of a set: its name and width in the target, and where its values come from. */
export interface PlannedField extends TargetField {
  computed: boolean;
  /** Faults that a person has to mend (a name too long, a clash). */
  fault: string | null;
  changes: FieldChange[];
  filled: number;
  /** It has the measures (M) of the vertices, for which the format has no room beside the positions. */
  measures?: true;
  /** A length or a direction that follows where its source is placed. */
  follows?: boolean;
}

/** What becomes one layer of the target: its fields, and the layers of the sources that go into it. */
export interface PlannedSet extends TargetSet {
  fields: PlannedField[];
  /** Layers that go into it, as source and layer name. */
  members: { source: string; layer: string }[];
}

/** Which set a record goes into, by source, layer, entity and kind, and by its own target where a rule gives it one; undefined when it stays behind. */
export type Route = (source: string, layer: string, entity: string, kind: Kind, to?: string) => number | undefined;

/** Which sets a format makes of the layers, and into which of them a record goes. */
export interface Plan {
  sets: PlannedSet[];
  route: Route;
  /** Why records that have no route stay behind; null for records that the plan knows nothing of. */
  reason(source: string, layer: string, entity: string, kind: Kind): Reason | null;
}

/** What a plan depends on besides its layers and its format. */
export interface PlanOptions {
  grouping: 'layer' | 'kind';
  /** Stem of the files of a set that holds all layers. */
  stem: string;
  /** Whether a person named the file so: then it is not made another name. */
  stemByHand?: boolean;
  /** Metres in one unit of the source's coordinates, for the number of chords. */
  unit_m: (source: string) => number;
  chord_m: number;
  /** What becomes of lengths and directions of a source. */
  sizes: (source: string) => Sizes;
}

/** Chords that curves with this load need: acos(1 - t/r) is nearly the root of 2t/r. */
export function chordsFor(load: number, unit_m: number, chord_m: number): number {
  return Math.ceil(load / (2 * Math.sqrt((2 * chord_m) / unit_m)));
}

/** Works out the sets that a format makes of the layers: their kinds, names, fields and sizes. */
export function makePlan(format: FeatureFormat, layers: readonly PlannedLayer[], options: PlanOptions): Plan {
  const { carries } = format.features;
  const buckets = new Map<
    string,
    { stem: string; byHand: boolean; kind: TargetSet['kind']; groups: { layer: PlannedLayer; group: GroupProfile }[] }
  >();
  const routes = new Map<string, string>();
  for (const layer of layers) {
    const one = oneTarget(layer.rule);
    for (const group of layer.profile.groups) {
      const kind = carries.kinds[group.kind];
      if (kind === null || !isTaken(layer.rule) || layer.rule.leftOut?.includes(group.entity)) continue;
      // where one file holds all sets, they are its layers, and layers of one name are one
      const to = group.to ?? one;
      const byLayer = carries.oneFile || options.grouping === 'layer' || to !== undefined;
      const setKind = carries.oneKindPerSet ? kind : 'mixed';
      const name = to ?? layer.profile.name;
      const own = !byLayer ? '' : to !== undefined || carries.oneFile ? `to ${name.toLowerCase()}` : `${layer.source}\n${name}`;
      const key = `${own}\n${setKind}`;
      let bucket = buckets.get(key);
      if (!bucket)
        buckets.set(
          key,
          (bucket = {
            stem: !byLayer ? options.stem : carries.oneFile ? name : fileStem(name),
            byHand: !byLayer && !carries.namesInside && options.stemByHand === true,
            kind: setKind,
            groups: [],
          }),
        );
      bucket.groups.push({ layer, group });
      routes.set(routeKey(layer.source, layer.profile.name, group.entity, group.kind, group.to), key);
    }
  }
  const measuresField = nameOfMeasures(layers);
  const names = new Set<string>();
  const taken = (name: string): boolean => names.has(name) || carries.setNames.reserved?.(name) === true;
  const kindsOf = new Map<string, number>();
  for (const { stem } of buckets.values()) kindsOf.set(stem, (kindsOf.get(stem) ?? 0) + 1);
  const sets: PlannedSet[] = [];
  const indexOf = new Map<string, number>();
  for (const [key, { stem, byHand, kind, groups }] of buckets) {
    const wanted = kindsOf.get(stem)! > 1 ? `${stem}_${kind}` : stem;
    const valid = byHand ? wanted : abbreviate(wanted, carries.setNames);
    let name = carries.setNames.reserved?.(valid.toLowerCase()) ? `_${valid}` : valid;
    for (let n = 2; taken(name.toLowerCase()); n++) name = `${[...valid].slice(0, carries.setNames.maxBytes - 5).join('')}_${n}`;
    names.add(name.toLowerCase());
    indexOf.set(key, sets.length);
    sets.push(planSet(format, name, kind, groups, measuresField, options));
  }
  const byName = new Map(layers.map((layer) => [`${layer.source}\n${layer.profile.name}`, layer]));
  return {
    sets,
    reason(source, layer, entity, kind) {
      const rule = byName.get(`${source}\n${layer}`)?.rule;
      if (!rule) return null;
      if (!isTaken(rule)) return REASONS.layer;
      if (rule.leftOut?.includes(entity)) return REASONS.entity;
      return carries.kinds[kind] === null ? reasonOfKind(kind) : null;
    },
    route: (source, layer, entity, kind, to) => indexOf.get(routes.get(routeKey(source, layer, entity, kind, to)) ?? ''),
  };
}

/** Why a format that cannot hold a kind leaves its records behind. */
export const reasonOfKind = (kind: Kind): Reason => (kind === 'none' ? REASONS.noGeometry : REASONS.kind);

const routeKey = (source: string, layer: string, entity: string, kind: Kind, to = ''): string =>
  `${source}\n${layer}\n${entity}\n${kind}\n${to}`;

function planSet(
  format: FeatureFormat,
  name: string,
  kind: TargetSet['kind'],
  groups: { layer: PlannedLayer; group: GroupProfile }[],
  measuresField: string,
  options: PlanOptions,
): PlannedSet {
  const { carries } = format.features;
  const count = groups.reduce((sum, g) => sum + g.group.count, 0);
  const chords = groups.reduce(
    (sum, g) => sum + (carries.curves ? 0 : chordsFor(g.group.chordLoad, options.unit_m(g.layer.source), options.chord_m)),
    0,
  );
  const members = [
    ...new Map(
      groups.map(({ layer }) => [`${layer.source}\n${layer.profile.name}`, { source: layer.source, layer: layer.profile.name }]),
    ).values(),
  ];
  const fields = planFields(
    format,
    groups.map(({ layer, group }) => ({ layer, group: withSizes(group, options.sizes(layer.source)) })),
    kind,
    measuresField,
  );
  return {
    name,
    kind,
    count,
    members,
    color: colorOf(groups.map((g) => g.group)),
    heights: carries.heights && groups.some((g) => g.group.heights),
    measures: carries.measures && groups.some((g) => g.group.measures !== undefined),
    fields: fields.map((f) => (groups.some(({ layer }) => follows(f.from, options.sizes(layer.source))) ? { ...f, follows: true } : f)),
    vertices: groups.reduce((sum, g) => sum + g.group.vertices, 0) + chords,
    parts: groups.reduce((n, g) => n + (g.group.parts ?? g.group.count), 0),
    several: groups.some((g) => g.group.several !== 0),
    symbology: symbologyOf(groups.map((g) => g.group)),
    style: styleOf(
      groups.map((g) => g.layer.style),
      fields,
    ),
    most: groups.reduce(
      (n, g) =>
        Math.max(
          n,
          (g.group.most ?? g.group.vertices) +
            (carries.curves ? 0 : chordsFor(g.group.chordLoad, options.unit_m(g.layer.source), options.chord_m)),
        ),
      0,
    ),
  };
}

/** The profile of a group whose lengths and directions change, and will have fractions. */
function withSizes(group: GroupProfile, sizes: Sizes): GroupProfile {
  if (!group.fields.some((f) => follows(f.name, sizes))) return group;
  const whole = (f: FieldProfile): number => Math.max(f.whole + Math.ceil(Math.max(0, Math.log10(sizes.ratio))), 4);
  return {
    ...group,
    fields: group.fields.map((f) =>
      follows(f.name, sizes)
        ? { ...f, type: 'decimal', decimals: SIZED_DECIMALS, whole: whole(f), maxBytes: whole(f) + 1 + SIZED_DECIMALS }
        : f,
    ),
  };
}

/** What the records of some groups are drawn with, those that are drawn alike together. */
function symbologyOf(groups: readonly GroupProfile[]): SymbologyCount[] {
  const out = new Map<string, SymbologyCount>();
  for (const group of groups) {
    for (const { values, count } of group.symbology ?? []) {
      const key = JSON.stringify([group.kind, SYMBOLOGY_FIELDS.map((f) => values[f] ?? null)]);
      const known = out.get(key);
      out.set(key, { kind: group.kind, values, count: count + (known?.count ?? 0) });
    }
  }
  return [...out.values()].sort((a, b) => b.count - a.count);
}

/** The style of a set: the first label whose field is there, under its name there, and scales that all its layers agree on. */
function styleOf(styles: readonly LayerStyle[], fields: readonly PlannedField[]): LayerStyle {
  const label = styles.flatMap((s) => (s.label && fields.some((f) => f.from === s.label!.field) ? [s.label] : []))[0];
  const [first, ...others] = styles.map((s) => s.scales);
  return {
    label: label ? { ...label, field: fields.find((f) => f.from === label.field)!.to } : null,
    scales: first && others.every((s) => s && s.min === first.min && s.max === first.max) ? first : null,
  };
}

/** The first colour of the most numerous group that states one. */
function colorOf(groups: readonly GroupProfile[]): string | null {
  const first = [...groups]
    .sort((a, b) => b.count - a.count)
    .map((g) => g.fields.find((f) => f.name === 'color')?.samples[0])
    .find((c) => typeof c === 'string' && /^#[0-9a-f]{6}$/.test(c));
  return (first as string | undefined) ?? null;
}

/** The name of the field of measures: none that a layer has already. */
function nameOfMeasures(layers: readonly PlannedLayer[]): string {
  const known = new Set(layers.flatMap((l) => l.profile.groups.flatMap((g) => g.fields.map((f) => f.name))));
  let name = 'measures';
  for (let n = 2; known.has(name); n++) name = `measures_${n}`;
  return name;
}

function planFields(
  format: FeatureFormat,
  groups: { layer: PlannedLayer; group: GroupProfile }[],
  kind: TargetSet['kind'],
  measuresField: string,
): PlannedField[] {
  const planned: PlannedField[] = [];
  // fields of a layer that is told to leave one behind are asked layer by layer
  const wanted = groups.map(({ layer, group }) => ({
    ...group,
    fields: group.fields.filter((f) => layer.rule.fields?.[f.name]?.taken !== false),
  }));
  const given = (from: string): string | undefined =>
    groups.map((g) => g.layer.rule.fields?.[from]?.to).find((to) => to !== undefined && to !== '');
  for (const profile of joinFields(wanted))
    if (profile.filled > 0 || !format.features.carries.fieldsByRecord) planned.push(planField(format, profile, given(profile.name)));
  const measured = groups.filter(({ layer }) => layer.rule.fields?.[measuresField]?.taken !== false).map(({ group }) => group);
  const measures = format.features.carries.measures ? null : measuresProfile(measured, measuresField);
  if (measures) planned.push({ ...planField(format, measures, given(measuresField)), measures: true });
  const computed = new Set(groups.flatMap((g) => g.layer.rule.computed ?? []));
  for (const name of computed) {
    if (!applies(name, kind)) continue;
    const field = computedField(name);
    if (!field || planned.some((f) => f.from === name)) continue;
    planned.push({
      from: name,
      to: given(name) ?? abbreviate(name, format.features.carries.fieldNames),
      type: 'decimal',
      width: format.features.carries.number.maxWidth - 1,
      decimals: field.decimals,
      computed: true,
      fault: null,
      changes: [],
      filled: -1,
    });
  }
  const order = groups.map(({ layer }) => layer.rule.fieldOrder).find((o) => o !== undefined);
  if (order) {
    const rank = ({ from }: PlannedField): number => (order.includes(from) ? order.indexOf(from) : order.length);
    planned.sort((a, b) => rank(a) - rank(b));
  }
  if (planned.length === 0 && !format.features.carries.mayBeBare)
    planned.push({
      from: 'number',
      to: 'number',
      type: 'integer',
      width: 10,
      decimals: 0,
      computed: true,
      fault: null,
      changes: [],
      filled: -1,
    });
  settleNames(format, planned, given);
  return planned;
}

function applies(computed: string, kind: TargetSet['kind']): boolean {
  if (kind === 'mixed') return true;
  const point = kind === 'point' || kind === 'text';
  const measure = computedField(computed)?.measure;
  return measure === 'length' ? !point && kind !== 'none' : measure === 'area' ? kind === 'polygon' : point;
}

/** Digits of a whole number that every number of double precision holds. */
const EXACT_DIGITS = 15;

const TYPE_WORDS: Record<FieldType, string> = {
  text: 'texts',
  integer: 'integer values',
  decimal: 'decimal values',
  boolean: 'boolean values',
  date: 'days',
  time: 'times of day',
  datetime: 'dates with times',
  bytes: 'bytes',
};

function planField(format: FeatureFormat, profile: FieldProfile, given: string | undefined): PlannedField {
  const { carries } = format.features;
  const changes: FieldChange[] = [];
  let type: FieldType = profile.type;
  // a day is a text that says so, and the same text where there is no type for it
  if (type === 'date' && !carries.types.includes('date')) type = 'text';
  if (type === 'datetime' && carries.types.includes(type) && carries.moments === 'utc' && profile.utc !== true) {
    type = 'text';
    changes.push({ code: 'as-text', note: 'dates with times that are not in UTC are written as text' });
  }
  const exact = type !== 'integer' || profile.whole <= EXACT_DIGITS || carries.exactIntegers !== false;
  if (!carries.types.includes(type) || !exact) {
    type = 'text';
    changes.push({
      code: 'as-text',
      note: exact
        ? `${TYPE_WORDS[profile.type]} are written as text`
        : 'whole numbers of more than 15 digits are written as text, since a number here would round them',
    });
  }
  // some of its values are numbers, or true and false
  else if (profile.type === 'text' && (profile.whole > 0 || profile.truths) && !carries.typesByValue)
    changes.push({ code: 'as-text', note: 'numbers and truth values that stand among texts are written as text' });
  if (profile.notXml !== undefined && carries.text.xml)
    changes.push({
      code: 'characters-left',
      note: `${profile.notXml} ${profile.notXml === 1 ? 'text has' : 'texts have'} control characters, which XML does not have: they are left out`,
    });
  const { declared } = profile;
  // what the source declares is kept where there is room for it, even where its values need less
  const asDeclared = declared?.type === type ? declared : undefined;
  let width = Math.max(1, profile.maxBytes, type === 'text' ? Math.min(asDeclared?.width ?? 0, carries.text.maxBytes) : 0);
  let decimals = 0;
  const cut = type === 'text' && width > carries.text.maxBytes;
  if (type === 'text' && width > carries.text.maxBytes) {
    changes.push({ code: 'text-cut', note: `texts over ${carries.text.maxBytes} bytes are cut; the longest has ${width}` });
    width = carries.text.maxBytes;
  } else if (type === 'integer' || type === 'decimal') {
    const { maxWidth, maxDecimals } = carries.number;
    const wanted = Math.max(profile.decimals, asDeclared?.decimals ?? 0);
    decimals = type === 'decimal' ? Math.min(wanted, maxDecimals, Math.max(0, maxWidth - profile.whole - 1)) : 0;
    if (decimals < profile.decimals)
      changes.push({ code: 'rounded', note: `rounded to ${decimals} decimals; some values have ${profile.decimals}` });
    width = Math.min(maxWidth, Math.max(1, profile.whole + (decimals > 0 ? decimals + 1 : 0), asDeclared?.width ?? 0));
    if (decimals < profile.decimals) width = Math.min(maxWidth, width + 1); // rounding may carry into one more digit
  } else if (type === 'boolean') width = 1;
  else if (type === 'date') width = 8;
  return {
    from: profile.name,
    to: given ?? '',
    type,
    width,
    decimals,
    computed: false,
    fault: null,
    changes,
    filled: profile.filled,
    ...(declared && declared.type === type ? { declared } : {}),
    ...(cut ? { cut } : {}),
  };
}

/** Names typed by hand stand and are checked; the others are made valid and unique around them. */
function settleNames(format: FeatureFormat, fields: PlannedField[], given: (from: string) => string | undefined): void {
  const rules = format.features.carries.fieldNames;
  const fold = (name: string): string => (rules.caseMatters ? name : name.toLowerCase());
  const taken = new Map<string, PlannedField>();
  for (const field of fields) {
    const hand = given(field.from);
    if (hand === undefined) continue;
    const clash = taken.get(fold(hand));
    field.to = hand;
    field.fault = nameFault(hand, rules) ?? (clash ? `${clash.from} has this name already.` : null);
    if (!clash) taken.set(fold(hand), field);
  }
  for (const field of fields) {
    if (given(field.from) === undefined) {
      field.to = uniqueName(field.from, (n) => taken.has(fold(n)) || rules.reserved?.(n.toLowerCase()) === true, rules);
      taken.set(fold(field.to), field);
    }
    if (field.to !== field.from && !field.changes.some((c) => c.code === 'renamed'))
      field.changes.unshift({ code: 'renamed', note: `${field.from} becomes ${field.to}` });
  }
}

/** Names that some systems keep for devices, whatever their extension. Common practice, no source. */
const DEVICES = /^(con|prn|aux|nul|com\d|lpt\d)$/;

/** A plain file name of lower-case letters, digits, "-" and "_" from a layer's name. */
export function fileStem(layer: string): string {
  const stem = layer
    .normalize('NFKD')
    .replace(/[\u0300-\u036f]/g, '')
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '_')
    .replace(/^_|_$/g, '')
    .slice(0, 60);
  return stem === '' ? 'layer' : DEVICES.test(stem) ? `${stem}_layer` : stem;
}
