import { dateNotStated } from '../date-not-stated';
import { operationFindings } from '../../placement/operation-advice';
import { isTaken } from '../../operations/layer-rule';
import { type Crs, verticalOf } from '../../crs/crs';
import type { Step } from '../../crs/transform';
import type { FeatureFormat } from '../../formats/format';
import type { Kind } from '../../model/batch';
import type { Finding } from '../../model/finding';
import { messageOf } from '../../model/problem';
import { type GroupProfile, joinFields } from './profile';
import { effectsOf, type LayerReport } from '../../operations/apply';
import type { Effect } from '../../operations/operation';
import { type Reason, REASONS } from '../../model/reason';
import { targetLayer, tellsApart } from '../../operations/target-layer';
import { prescribedCrs } from '../../formats/options';
import { type LinePattern, symbolKey } from '../../symbology/library';
import { lengthUnit } from '../../symbology/sizes';
import type { LayerStyle } from '../../symbology/layer-style';
import { type CarriedSymbology, carriedPart, NO_SYMBOLOGY } from '../../symbology/carried';
import { type Symbolizer, symbolizerOf, saysSomething } from '../../symbology/symbolizer';
import { TOLERANCE_M } from '../tolerance';
import type { WriteTarget } from './write';
import { leavesArea, type PlacedIn, type Route, routeTo } from '../../placement/route';
import { chordsFor, reasonOfKind, type Plan, type PlannedLayer, type PlannedSet } from './plan';

/** What will become of the records of one layer of a source, counted once each: unchanged, changed, or left behind. */
export interface ForecastRow {
  source: string;
  layer: string;
  records: number;
  unchanged: number;
  changed: number;
  left: number;
  effects: Effect[];
  /** How its records are drawn, there and here, the most frequent first: what is not held in the target's own way is told. */
  symbology: { source: Symbolizer; target: Symbolizer; lost: string[]; count: number }[];
  /** What is said of the layer as a whole, and what the target holds of it, and does not. */
  style: { source: LayerStyle; target: LayerStyle; lost: string[] };
  /** In plain words, how the target holds looks. */
  symbologyHow: string;
  /** What the rules did to its records before they cross. */
  report: LayerReport | null;
}

/** What a deliverable will change or leave behind, before it is written. */
export interface Forecast {
  rows: ForecastRow[];
  totals: { records: number; unchanged: number; changed: number; left: number };
  /** Records that will be written. */
  arriving: number;
  sets: PlannedSet[];
  files: { name: string; bytes: number }[];
  /** Ways of the coordinates, one a source. */
  paths: { source: string; steps: Step[]; accuracy_m: number | null; ballpark: boolean; problem: string | null }[];
  curves: { records: number; vertices: number };
  /** Fields that arrive under another name, with both; those changed; those with a fault that must be mended first. */
  fields: { renamed: { from: string; to: string }[]; changed: number; faults: number };
  /** Names of the fields that its records have on their way, those left out as well. */
  fieldNames: string[];
  /** Why it cannot run yet; empty when it can. */
  blocked: string[];
  findings: Finding[];
}

/** Records without an image in the target, by layer and {@link groupKey}. */
export type NoImage = Readonly<Record<string, Readonly<Record<string, number>>>>;

/** The records of a layer that are of one entity and one kind, as a key. */
export const groupKey = (entity: string, kind: Kind): string => `${entity} ${kind}`;

/** A source as far as a forecast has to know it. */
export interface ForecastSource {
  name: string;
  /** Null until the source is placed. */
  placed: PlacedIn | null;
  unit_m: number;
  /** What the reader found when it came in; the location is the layer. */
  findings: readonly Finding[];
  /** What makes it doubtful that it lies where it is placed. */
  doubts?: readonly Finding[];
  reports?: Readonly<Record<string, LayerReport>>;
  /** Records without an image in the target, by layer, where some may have none. */
  noImage?: NoImage;
  /** Patterns of its lines, by name in small letters, in its own unit. */
  patterns?: Readonly<Record<string, LinePattern>>;
}

/** What becomes of a kind of record in a format that cannot draw it as it was. */
const KIND_CHANGES: Partial<Record<Kind, { code: string; message: (n: number) => string }>> = {
  text: { code: 'text-as-point', message: (n) => `${n} ${n === 1 ? 'text' : 'texts'} as points with the text in a field` },
};

const KIND_WORDS: Record<Kind, readonly [string, string]> = {
  point: ['point', 'points'],
  line: ['line', 'lines'],
  polygon: ['area', 'areas'],
  text: ['text', 'texts'],
  none: ['record without geometry', 'records without geometry'],
};

/** Works out, from what the format says it carries and what the layers hold, what a deliverable will change or leave behind. */
export function forecast(
  format: FeatureFormat,
  plan: Plan,
  layers: readonly PlannedLayer[],
  sources: readonly ForecastSource[],
  { crs: target, stem, options, chord_m }: WriteTarget,
): Forecast {
  const byName = new Map(sources.map((s) => [s.name, s]));
  const taken = layers.filter((l) => isTaken(l.rule));
  const rows = taken.map((layer) =>
    rowOf(format, layer, byName.get(layer.source)!, chord_m, format.features.write?.symbology?.(options) ?? NO_SYMBOLOGY),
  );
  const sum = (pick: (r: ForecastRow) => number): number => rows.reduce((n, r) => n + pick(r), 0);
  const ways = new Map([...new Set(taken.map((l) => l.source))].map((name) => [name, routeOf(name, byName.get(name)!.placed, target)]));
  const lying = new Set(taken.filter((l) => l.profile.extent !== null).map((l) => l.source));
  const paths = [...ways].filter(([source, w]) => lying.has(source) || w.path.problem !== null).map(([, w]) => w.path);
  const files = format.features.write?.files(plan.sets, { stem, options }).map(({ name, bytes }) => ({ name, bytes })) ?? [];
  const allFields = plan.sets.flatMap((s) => s.fields);
  const faults = allFields.filter((f) => f.fault !== null).length;
  // what has no image is in the plan, which knows entities and kinds only
  const imageless = rows.flatMap((r) => r.effects).reduce((n, e) => n + (e.code === REASONS.noImage.code ? e.count : 0), 0);
  const arriving = Math.max(0, plan.sets.reduce((n, set) => n + set.count, 0) - imageless);
  const blocked: string[] = [];
  if (taken.length === 0) blocked.push('No layer is taken. Take some in Gather.');
  else if (arriving === 0) blocked.push('Nothing is left to cross: everything is left out in Shape, or lies outside the area of interest.');
  for (const { profile, rule } of taken) {
    const target = targetLayer(rule);
    if (typeof target === 'string') blocked.push(`The layer that ${profile.name} goes into cannot be read: ${target} Mend it in Shape.`);
  }
  for (const path of paths) if (path.problem) blocked.push(path.problem);
  if (faults > 0)
    blocked.push(
      `${faults} ${faults === 1 ? 'field name has' : 'field names have'} a fault. Mend ${faults === 1 ? 'it' : 'them'} in Shape.`,
    );
  const findings = [...sizeFindings(format, plan, files), ...(format.features.write?.limits?.(plan.sets, options) ?? [])];
  for (const finding of findings) if (finding.severity === 'wrong') blocked.push(finding.message);
  const prescribed = prescribedCrs(format, options);
  if (prescribed !== null && target.id !== prescribed)
    blocked.push(`${format.name} of this form is written in ${prescribed} only. Choose that as the target system, or another form.`);
  const ofCrs = format.features.write?.crsFindings(target, options) ?? [];
  for (const finding of ofCrs) if (finding.severity === 'wrong') blocked.push(finding.message);
  const rounding_m = format.features.write?.rounding_m?.(options) ?? 0;
  if (rounding_m > TOLERANCE_M)
    findings.push({
      code: 'positions-rounded',
      severity: 'caution',
      message: `Positions are rounded to within ${rounding_m} m.`,
      count: plan.sets.reduce((n, s) => n + s.vertices, 0),
    });
  findings.push(...dataFindings(format, plan), ...ofCrs, ...dateNotStated(target, format.name));
  for (const layer of taken) {
    const { route } = ways.get(layer.source)!;
    if (route && layer.profile.extent && leavesArea(route, target, layer.profile.extent)) {
      findings.push({
        code: 'outside-area',
        severity: 'caution',
        message: `Part of it lies outside the area of use of ${target.name} (${target.area!.name}). Check the placement, or take another target system: distances grow wrong out there.`,
        count: 1,
        location: layer.profile.name,
      });
    }
  }
  for (const [source, { route }] of ways) {
    const { placed, doubts = [] } = byName.get(source)!;
    if (lying.has(source)) findings.push(...doubts);
    if (route && placed && lying.has(source)) findings.push(...operationFindings(source, placed, route, target));
  }
  findings.push(...heightFindings(format, taken, ways, target));
  if (!format.features.carries.curves) findings.push(...taken.flatMap((l) => coarseCurves(l, byName.get(l.source)!.unit_m, chord_m)));
  for (const path of paths) {
    if (path.ballpark)
      findings.push({
        code: 'datum-ballpark',
        severity: 'caution',
        message: `No datum change to ${target.name} is known for ${path.source}: its numbers are taken over, and positions may be off by tens of metres. This was accepted in Place.`,
        count: 1,
        location: path.source,
      });
  }
  for (const set of plan.sets) {
    for (const field of set.fields) {
      for (const change of field.changes) {
        if (change.code !== 'renamed')
          findings.push({
            code: `field-${change.code}`,
            severity: 'caution',
            message: `${field.from}: ${change.note}.`,
            count: 1,
            location: set.name,
          });
      }
    }
  }
  const curved = taken.flatMap((l) => keptGroups(l).map((g) => ({ g, unit_m: byName.get(l.source)!.unit_m })));
  return {
    rows,
    totals: {
      records: sum((r) => r.records),
      unchanged: sum((r) => r.unchanged),
      changed: sum((r) => r.changed),
      left: sum((r) => r.left),
    },
    arriving,
    sets: plan.sets,
    files,
    paths,
    curves: {
      records: format.features.carries.curves ? 0 : curved.reduce((n, { g }) => n + g.curved, 0),
      vertices: format.features.carries.curves ? 0 : curved.reduce((n, { g, unit_m }) => n + chordsFor(g.chordLoad, unit_m, chord_m), 0),
    },
    fields: {
      renamed: [
        ...new Map(
          allFields
            .filter((f) => f.changes.some((c) => c.code === 'renamed'))
            .map((f) => [`${f.from}\n${f.to}`, { from: f.from, to: f.to }]),
        ).values(),
      ],
      changed: new Set(allFields.filter((f) => f.changes.some((c) => c.code !== 'renamed')).map((f) => f.from)).size,
      faults,
    },
    fieldNames: [...new Set([...taken.flatMap((l) => joinFields(l.profile.groups).map((f) => f.name)), ...allFields.map((f) => f.from)])],
    blocked,
    findings,
  };
}

/** Curves so large that the most chords that one may have do not keep within the tolerance. */
function coarseCurves(layer: PlannedLayer, unit_m: number, chord_m: number): Finding[] {
  const off = keptGroups(layer).flatMap((g) => (g.leastTolerances ?? []).filter((t) => t * unit_m > chord_m * (1 + 1e-9)));
  if (off.length === 0) return [];
  const most_m = Number((Math.max(...off) * unit_m).toPrecision(2));
  return [
    {
      code: 'curves-coarser',
      severity: 'caution',
      message: `Curves are so large that the chords of some stand off by up to ${most_m} m, more than the ${chord_m} m that are asked for: as many as a record may have do not come nearer.`,
      count: off.length,
      location: layer.profile.name,
    },
  ];
}

/** What becomes of heights that a system is stated for, there or here. */
function heightFindings(
  format: FeatureFormat,
  taken: readonly PlannedLayer[],
  ways: ReadonlyMap<string, { route: Route | null }>,
  target: Crs,
): Finding[] {
  const high = taken.filter((l) => keptGroups(l).some((g) => g.heights));
  if (high.length === 0 || !format.features.carries.heights) return [];
  const vertical = verticalOf(target);
  const found: Finding[] = [...new Set(high.map((l) => l.source))].flatMap((source) => {
    const transform = ways.get(source)?.route?.transform;
    const from = transform && 'compound' in transform.from ? transform.from.compound?.vertical : undefined;
    const note =
      transform?.heightNote ?? (from && !vertical ? `Heights stay those of ${from.name}, of which ${target.name} says nothing.` : null);
    return note ? [{ code: 'heights-as-they-are', severity: 'caution' as const, message: note, count: 1, location: source }] : [];
  });
  if (vertical && !format.features.carries.verticalSystem)
    found.push({
      code: 'vertical-not-stated',
      severity: 'caution',
      message: `${format.name} cannot state a system for heights: they are those of ${vertical.name}, which has to be told to whoever gets the file.`,
      count: 1,
    });
  return found;
}

function keptGroups(layer: PlannedLayer): GroupProfile[] {
  return layer.profile.groups.filter((g) => !layer.rule.leftOut?.includes(g.entity));
}

function rowOf(format: FeatureFormat, layer: PlannedLayer, source: ForecastSource, chord_m: number, held: CarriedSymbology): ForecastRow {
  const { carries } = format.features;
  const effects: Effect[] = [];
  let changed = 0;
  let left = 0;
  let records = layer.profile.count;
  const leave = ({ code, by }: Pick<Reason, 'code' | 'by'>, count: number, message: string): void => {
    left += count;
    effects.push({ effect: 'left', by, code, count, message });
  };
  for (const finding of source.findings) {
    if (!finding.left || finding.location !== layer.profile.name) continue;
    records += finding.count;
    leave({ code: finding.code, by: 'reader' }, finding.count, `${finding.count} × ${finding.message.replace(/\.$/, '')}`);
  }
  const report = source.reports?.[layer.profile.name] ?? null;
  for (const effect of report ? effectsOf(report) : []) {
    effects.push(effect);
    if (!effect.gone) continue;
    records += effect.count;
    if (effect.effect === 'left') left += effect.count;
    else changed += effect.count;
  }
  const nowhere = new Map(Object.entries(source.noImage?.[layer.profile.name] ?? {}));
  /** Records of a group without an image; those of several groups of one entity are told once. */
  const takeNowhere = (group: GroupProfile): number => {
    const key = groupKey(group.entity, group.kind);
    const n = Math.min(group.count, nowhere.get(key) ?? 0);
    nowhere.set(key, (nowhere.get(key) ?? 0) - n);
    return n;
  };
  let curves = 0;
  let vertices = 0;
  for (const group of layer.profile.groups) {
    const carried = !layer.rule.leftOut?.includes(group.entity) && carries.kinds[group.kind] !== null;
    const imageless = carried ? takeNowhere(group) : 0;
    if (imageless > 0) leave(REASONS.noImage, imageless, REASONS.noImage.sentence(imageless));
    const n = group.count - imageless;
    if (n === 0) continue;
    if (layer.rule.leftOut?.includes(group.entity)) {
      leave(REASONS.entity, n, `${n} ${group.entity} left out in Shape`);
    } else if (carries.kinds[group.kind] === null) {
      leave(
        reasonOfKind(group.kind),
        n,
        group.kind === 'none'
          ? `${n} without geometry, which ${format.name} cannot hold`
          : `${n} ${group.entity} cannot be held by ${format.name}`,
      );
    } else if (carries.kinds[group.kind] !== group.kind) {
      changed += n;
      effects.push({
        effect: 'changed',
        code: KIND_CHANGES[group.kind]?.code ?? 'kind-changed',
        count: n,
        message:
          KIND_CHANGES[group.kind]?.message(n) ??
          `${n} ${KIND_WORDS[group.kind][n === 1 ? 0 : 1]} as ${KIND_WORDS[carries.kinds[group.kind]!][n === 1 ? 0 : 1]}`,
      });
    } else if (!carries.curves && group.curved > 0) {
      changed += group.curved;
      curves += group.curved;
      vertices += group.vertices + chordsFor(group.chordLoad, source.unit_m, chord_m);
    } else if (!carries.symbology && group.entity === 'INSERT' && group.kind === 'point') {
      changed += n;
      effects.push({
        effect: 'changed',
        code: 'block-as-point',
        count: n,
        message: `${n} ${n === 1 ? 'block' : 'blocks'} as points with their data`,
      });
    }
  }
  const targets = new Set(keptGroups(layer).map((g) => g.to ?? layer.profile.name));
  if (tellsApart(layer.rule) && targets.size > 0)
    effects.push({
      effect: 'told',
      code: 'told-apart',
      count: layer.profile.count,
      message: `goes into ${targets.size} ${targets.size === 1 ? 'layer' : 'layers'} by ${layer.rule.to}`,
    });
  const kinds = new Set(
    keptGroups(layer)
      .map((g) => carries.kinds[g.kind])
      .filter((k) => k !== null),
  );
  if (carries.oneKindPerSet && kinds.size > 1)
    effects.push({
      effect: 'told',
      code: 'split-by-kind',
      count: layer.profile.count,
      message: `in ${kinds.size} sets: ${[...kinds].join(', ')}`,
    });
  if (curves > 0)
    effects.push({
      effect: 'changed',
      code: 'curves-as-chords',
      count: curves,
      message: `${curves} with curves as about ${vertices} vertices`,
    });
  const measured = carries.measures ? 0 : keptGroups(layer).reduce((n, g) => n + (g.measures?.records ?? 0), 0);
  if (measured > 0)
    effects.push({
      effect: 'told',
      code: 'measures-as-field',
      count: measured,
      message: `${measured} with measures (M), which go into a field as text`,
    });
  const { looks, lost } = symbologyOf(layer, source, held);
  if (lost.records > 0)
    effects.push({
      effect: 'told',
      code: 'looks-lost',
      count: lost.records,
      message: `${lost.records} drawn without ${[...lost.words].join(', ')}${held.color ? '' : ', as looks are fields only'}`,
    });
  const style = styleIn(layer, held);
  if (style.lost.length > 0)
    effects.push({ effect: 'told', code: 'style-lost', count: layer.profile.count, message: `drawn without ${style.lost.join(' and ')}` });
  return {
    source: layer.source,
    layer: layer.profile.name,
    records,
    unchanged: records - changed - left,
    changed,
    left,
    effects,
    symbology: looks,
    style,
    symbologyHow: held.how,
    report,
  };
}

function styleIn({ style, rule }: PlannedLayer, held: CarriedSymbology): ForecastRow['style'] {
  const there = style.label !== null && rule.fields?.[style.label.field]?.taken !== false;
  const target: LayerStyle = { label: held.label && there ? style.label : null, scales: held.scales ? style.scales : null };
  return {
    source: style,
    target,
    lost: [
      ...(style.label && !target.label ? [there ? 'its labels' : `its labels, whose field ${style.label.field} stays behind`] : []),
      ...(style.scales && !target.scales ? ['its range of scales'] : []),
    ],
  };
}

/** Looks of a layer that are told one by one. */
const MOST_LOOKS = 8;

function symbologyOf(
  layer: PlannedLayer,
  source: ForecastSource,
  held: CarriedSymbology,
): { looks: ForecastRow['symbology']; lost: { records: number; words: Set<string> } } {
  const words = new Set<string>();
  let records = 0;
  const looks: ForecastRow['symbology'] = [];
  const all = keptGroups(layer)
    .flatMap((g) => (g.symbology ?? []).map((l) => ({ kind: g.kind, ...l })))
    .sort((a, b) => b.count - a.count);
  for (const { kind, values, count } of all) {
    const look = symbolizerOf(
      kind,
      (f) => values[f] ?? null,
      (name) => source.patterns?.[symbolKey(name)],
      source.placed ? lengthUnit(source.placed.crs, source.unit_m) : source.unit_m,
    );
    if (!saysSomething(look)) continue;
    const { look: target, lost } = carriedPart(look, held);
    // that blocks become points is told by itself
    const told = lost.filter((word) => word !== 'symbol');
    if (told.length > 0) records += count;
    for (const word of told) words.add(word);
    const same = looks.find((l) => JSON.stringify(l.source) === JSON.stringify(look));
    if (same) same.count += count;
    else if (looks.length < MOST_LOOKS) looks.push({ source: look, target, lost, count });
  }
  return { looks, lost: { records, words } };
}

/** The way of a source into the target, and what the forecast says of it; the route is null where there is none. */
function routeOf(source: string, placed: PlacedIn | null, target: Crs): { route: Route | null; path: Forecast['paths'][number] } {
  const none = (problem: string): ReturnType<typeof routeOf> => ({
    route: null,
    path: { source, steps: [], accuracy_m: null, ballpark: false, problem },
  });
  if (!placed) return none(`${source} has no coordinate system yet. Choose it in Place.`);
  try {
    const route = routeTo(placed, target);
    return {
      route,
      path: { source, steps: route.steps, accuracy_m: route.accuracy_m, ballpark: route.transform.path.ballpark, problem: null },
    };
  } catch (error) {
    return none(messageOf(error));
  }
}

function sizeFindings(format: FeatureFormat, plan: Plan, files: { name: string; bytes: number }[]): Finding[] {
  const findings: Finding[] = [];
  for (const file of files) {
    if (file.bytes > format.features.carries.maxBytes)
      findings.push({
        code: 'file-too-large',
        severity: 'wrong',
        message: `${file.name} would be larger than a ${format.name} file may be. Leave some layers behind in Gather, or write one set a layer.`,
        count: 1,
        location: file.name,
      });
  }
  const { setCount = Infinity } = format.features.carries;
  if (plan.sets.length > setCount)
    findings.push({
      code: 'too-many-sets',
      severity: 'wrong',
      message: `It would have ${plan.sets.length} layers; at most ${setCount} go into one ${format.name} here. Let layers go into one another in Shape, or leave some behind in Gather.`,
      count: plan.sets.length - setCount,
    });
  for (const set of plan.sets) {
    const over = set.fields.length - format.features.carries.fieldCount;
    if (over > 0)
      findings.push({
        code: 'too-many-fields',
        severity: 'wrong',
        message: `${set.name} would have ${set.fields.length} fields; at most ${format.features.carries.fieldCount} fit. Leave some behind in Shape.`,
        count: over,
        location: set.name,
      });
  }
  return findings;
}

/** Records whose data may not have room all together. */
function dataFindings({ features: { carries } }: FeatureFormat, plan: Plan): Finding[] {
  const { recordBytes } = carries;
  if (recordBytes === undefined) return [];
  return plan.sets.flatMap((set) => {
    const most = set.fields.reduce((n, f) => n + f.width + f.to.length + FIELD_BYTES, 0);
    return most > recordBytes
      ? [
          {
            code: 'record-too-large',
            severity: 'caution' as const,
            message: `If one record filled all of its ${set.fields.length} fields, its data would take ${most} bytes; ${recordBytes} fit on one object, and what does not fit would stay behind. Leave long fields behind in Shape.`,
            count: 1,
            location: set.name,
          },
        ]
      : [];
  });
}

/** Bytes that a field takes besides its name and its value. */
const FIELD_BYTES = 20;
