import { NOT_XML } from '../../io/xml';
import { type PlainValue, shownValue, valueText } from '../../model/value';
import type { Value } from '../../model/value';
import { SYMBOLOGY_FIELDS, type SymbologyField } from '../../model/symbology-fields';
import { curveLoad } from '../../geometry/flatten';
import { type Bounds, emptyBounds, featureBounds, isEmpty, join } from '../../geometry/bounds';
import { type FeatureBatch, hasMeasure, type Kind, KINDS, measuresText, partCount, vertexRange } from '../../model/batch';
import type { Declarations, FieldDeclaration, FieldType } from '../../model/field';

/** What the values of one field need room for. */
export interface FieldProfile {
  name: string;
  type: FieldType;
  /** Records that have a value. */
  filled: number;
  /** Longest text, UTF-8 bytes. */
  maxBytes: number;
  /** Most characters before the decimal point, sign included. */
  whole: number;
  /** Most digits after the decimal point that the values really have. */
  decimals: number;
  /** The first few different values, as they are shown. */
  samples: PlainValue[];
  /** Texts with characters that XML does not have; absent where there are none. */
  notXml?: number;
  /** Whether some values are true or false; absent where none is. */
  truths?: true;
  /** Whether all of its dates with times are in UTC; of such fields only. */
  utc?: boolean;
  /** How the source declares it, where all of its groups agree. */
  declared?: FieldDeclaration;
}

/** The records of one layer that are of one kind and one entity, and go into one layer where a rule tells them apart. */
export interface GroupProfile {
  to?: string;
  entity: string;
  kind: Kind;
  count: number;
  vertices: number;
  /** Parts of all records, and records that have more than one; not known of layers that were summed up long ago. */
  parts?: number;
  several?: number;
  /** Most vertices of one record; not known of layers that were summed up long ago. */
  most?: number;
  /** Records with at least one arc. */
  curved: number;
  /** Sum over all arcs of sweep (radians) times the root of the radius: what their chords are counted from. */
  chordLoad: number;
  /** How near the chords of its records with curves come to them at the best, in the unit of its coordinates: the largest few. */
  leastTolerances?: number[];
  /** What its records are drawn with, the most frequent first; those beyond the first few dozen are not told apart. */
  symbology?: { values: Partial<Record<SymbologyField, Value>>; count: number }[];
  /** True when some vertex has a height other than zero. */
  heights: boolean;
  /** Records with a measure (M) on some vertex, the most bytes that the measures of one take as text, and those of the first; absent where there are none. */
  measures?: { records: number; maxBytes: number; first: string };
  fields: FieldProfile[];
}

/** A layer summed up: its records by entity and kind, its fields, its bounds. Forecasts are made from profiles alone. */
export interface LayerProfile {
  name: string;
  count: number;
  /** As drawn, in the source's own unit; null for a layer without geometry. */
  extent: Bounds | null;
  /** Records with a vertex whose x or y is no number; absent where there are none. */
  nowhere?: number;
  zRange: [number, number] | null;
  groups: GroupProfile[];
}

/** Whether some record of these layers lies somewhere. */
export const hasGeometry = (layers: readonly Pick<LayerProfile, 'extent' | 'nowhere'>[]): boolean =>
  layers.some((l) => l.extent !== null || (l.nowhere ?? 0) > 0);

const SAMPLES = 8;
/** Records with curves whose size is kept, the largest first. */
const LARGEST = 100;
/** Characters of a text that is only shown. */
const SHOWN = 80;

interface Gathering {
  profile: GroupProfile;
  fields: Map<string, FieldProfile>;
  looks: Map<string, { values: Partial<Record<SymbologyField, Value>>; count: number }>;
}

/** Looks of a group that are told apart. */
const MOST_LOOKS = 60;

interface LayerGathering {
  name: string;
  count: number;
  extent: Bounds;
  nowhere: number;
  z: [number, number];
  groups: Map<string, Gathering>;
  declared?: Declarations | undefined;
}

/** Sums up layers from their batches, in one pass. */
export class Profiler {
  private readonly layersByName = new Map<string, LayerGathering>();

  add(batch: FeatureBatch): void {
    let layer = this.layersByName.get(batch.layer);
    if (!layer)
      this.layersByName.set(
        batch.layer,
        (layer = { name: batch.layer, count: 0, extent: emptyBounds(), nowhere: 0, z: [Infinity, -Infinity], groups: new Map() }),
      );
    layer.count += batch.count;
    layer.declared ??= batch.declared;
    const groupOf: Gathering[] = [];
    const bounds: Bounds = emptyBounds();
    for (let i = 0; i < batch.count; i++) {
      const group = gathering(layer, batch.entities[i]!, KINDS[batch.kinds[i]!]!, batch.to);
      groupOf.push(group);
      addGeometry(batch, i, layer, group.profile);
      featureBounds(batch, i, bounds);
      if (bounds.every(Number.isFinite)) join(layer.extent, bounds);
      if (!isSomewhere(batch, i)) layer.nowhere++;
    }
    addSymbology(batch, groupOf);
    for (const [name, column] of batch.columns) {
      const declared = batch.declared?.get(name);
      for (let i = 0; i < batch.count; i++) {
        const value = column[i]!;
        if (value !== null) addValue(groupOf[i]!, name, value, declared);
      }
    }
  }

  layers(): LayerProfile[] {
    return [...this.layersByName.values()].map((layer) => ({
      name: layer.name,
      count: layer.count,
      extent: isEmpty(layer.extent) ? null : layer.extent,
      ...(layer.nowhere > 0 ? { nowhere: layer.nowhere } : {}),
      zRange: layer.z[0] <= layer.z[1] ? layer.z : null,
      groups: [...layer.groups.values()].map((g) => ({
        ...g.profile,
        symbology: [...g.looks.values()].sort((a, b) => b.count - a.count),
        fields: [...g.fields.values(), ...emptyFields(layer, g)],
      })),
    }));
  }
}

function gathering(layer: LayerGathering, entity: string, kind: Kind, to: string | undefined): Gathering {
  const key = `${entity} ${kind} ${to ?? ''}`;
  let group = layer.groups.get(key);
  if (!group) {
    group = {
      profile: {
        ...(to === undefined ? {} : { to }),
        entity,
        kind,
        count: 0,
        vertices: 0,
        parts: 0,
        several: 0,
        most: 0,
        curved: 0,
        chordLoad: 0,
        heights: false,
        fields: [],
      },
      fields: new Map(),
      looks: new Map(),
    };
    layer.groups.set(key, group);
  }
  return group;
}

function addSymbology(batch: FeatureBatch, groupOf: readonly Gathering[]): void {
  const told = SYMBOLOGY_FIELDS.flatMap((field) => {
    const column = batch.columns.get(field);
    return column ? [{ field, column }] : [];
  });
  let last = null as { key: string; group: Gathering; look: { count: number } } | null;
  for (let i = 0; i < batch.count; i++) {
    const group = groupOf[i]!;
    let key = '';
    for (const { column } of told) key += `${column[i] ?? ''}\n`;
    if (last?.key === key && last.group === group) {
      last.look.count++;
      continue;
    }
    let look = group.looks.get(key);
    if (!look && group.looks.size < MOST_LOOKS)
      group.looks.set(
        key,
        (look = {
          values: Object.fromEntries(told.filter(({ column }) => column[i] !== null).map(({ field, column }) => [field, column[i]!])),
          count: 0,
        }),
      );
    if (!look) continue;
    look.count++;
    last = { key, group, look };
  }
}

/** Whether all vertices of a record have an x and a y. */
function isSomewhere(batch: FeatureBatch, i: number): boolean {
  const [start, end] = vertexRange(batch, i);
  for (let v = start; v < end; v++) if (!Number.isFinite(batch.coords[3 * v]!) || !Number.isFinite(batch.coords[3 * v + 1]!)) return false;
  return true;
}

function addGeometry(batch: FeatureBatch, i: number, layer: LayerGathering, group: GroupProfile): void {
  const [start, end] = vertexRange(batch, i);
  const { coords } = batch;
  group.count++;
  group.vertices += end - start;
  if (end - start > group.most!) group.most = end - start;
  // a point of several places may have them in one part
  const parts = group.kind === 'point' || group.kind === 'text' ? end - start : partCount(batch, i);
  group.parts! += parts;
  if (parts > 1) group.several!++;
  for (let v = start; v < end; v++) {
    const z = coords[3 * v + 2]!;
    if (z < layer.z[0]) layer.z[0] = z;
    if (z > layer.z[1]) layer.z[1] = z;
    if (z !== 0 && z === z) group.heights = true;
  }
  if (hasMeasure(batch, i)) {
    const text = measuresText(batch, i)!;
    group.measures ??= { records: 0, maxBytes: 0, first: text.slice(0, SHOWN) };
    group.measures.records++;
    group.measures.maxBytes = Math.max(group.measures.maxBytes, text.length);
  }
  const curves = curveLoad(batch, i);
  if (!curves) return;
  group.curved++;
  group.chordLoad += curves.load;
  const largest = (group.leastTolerances ??= []);
  if (largest.length === LARGEST && curves.leastTolerance <= largest[LARGEST - 1]!) return;
  largest.push(curves.leastTolerance);
  largest.sort((a, b) => b - a).splice(LARGEST);
}

function addValue(group: Gathering, name: string, value: Exclude<Value, null>, declared: FieldDeclaration | undefined): void {
  let field = group.fields.get(name);
  if (!field)
    group.fields.set(
      name,
      (field = {
        name,
        type: typeOf(value, declared),
        ...(declared ? { declared } : {}),
        filled: 0,
        maxBytes: 0,
        whole: 0,
        decimals: 0,
        samples: [],
      }),
    );
  field.filled++;
  const { samples } = field;
  const known = samples.length > 0 && samples[samples.length - 1] === value;
  if (known) return;
  field.type = widerType(field.type, typeOf(value, declared));
  measure(field, value);
  const shown = shownValue(value);
  if (samples.length < SAMPLES && !samples.includes(shown)) samples.push(shown);
}

/** UTF-8 length of a text. */
export function utf8Length(text: string): number {
  let n = text.length;
  for (let i = 0; i < text.length; i++) {
    const c = text.charCodeAt(i);
    if (c < 0x80) continue;
    n += c < 0x800 ? 1 : c >= 0xd800 && c <= 0xdbff ? 1 : c >= 0xdc00 && c <= 0xdfff ? 1 : 2;
  }
  return n;
}

function measure(field: FieldProfile, value: Exclude<Value, null>): void {
  if (typeof value === 'number' || typeof value === 'bigint') {
    const [whole, decimals] = typeof value === 'bigint' ? [String(value).length, 0] : digitsOf(value);
    if (whole > field.whole) field.whole = whole;
    if (decimals > field.decimals) field.decimals = decimals;
    const bytes = whole + (decimals > 0 ? decimals + 1 : 0);
    if (bytes > field.maxBytes) field.maxBytes = bytes;
    return;
  }
  if (typeof value === 'boolean') field.truths = true;
  if (field.type === 'datetime') field.utc = (field.utc ?? true) && String(value).endsWith('Z');
  if (typeof value === 'string' && NOT_XML.test(value)) field.notXml = (field.notXml ?? 0) + 1;
  const bytes = utf8Length(valueText(value));
  if (bytes > field.maxBytes) field.maxBytes = bytes;
}

/** Characters before the point (sign included) and digits after it, of the shortest decimal that is this number. */
export function digitsOf(value: number): [number, number] {
  const text = String(value);
  const e = text.indexOf('e');
  if (e < 0) {
    const point = text.indexOf('.');
    return point < 0 ? [text.length, 0] : [point, text.length - point - 1];
  }
  const exponent = Number(text.slice(e + 1));
  const mantissa = text.slice(0, e);
  const point = mantissa.indexOf('.');
  const fraction = point < 0 ? 0 : mantissa.length - point - 1;
  return exponent < 0 ? [value < 0 ? 2 : 1, fraction - exponent] : [(value < 0 ? 2 : 1) + exponent, Math.max(0, fraction - exponent)];
}

/** Types whose values are texts. */
const TEXT_TYPES: ReadonlySet<FieldType> = new Set(['text', 'date', 'time', 'datetime']);

/** What a value is, by itself and by what its source declares. */
function typeOf(value: Exclude<Value, null>, declared: FieldDeclaration | undefined): FieldType {
  if (typeof value === 'bigint') return 'integer';
  if (typeof value === 'number') return Number.isInteger(value) && declared?.type !== 'decimal' ? 'integer' : 'decimal';
  if (typeof value === 'boolean') return 'boolean';
  if (value instanceof Uint8Array) return 'bytes';
  // a day is also a moment to sources that know no days
  if (declared?.type === 'datetime') return isDate(value) ? 'date' : 'datetime';
  if (declared) return TEXT_TYPES.has(declared.type) ? declared.type : 'text';
  return isDate(value) ? 'date' : 'text';
}

/** Whether a text is a day as ISO 8601 writes it. */
function isDate(text: string): boolean {
  return text.length === 10 && /^\d{4}-(0[1-9]|1[0-2])-(0[1-9]|[12]\d|3[01])$/.test(text);
}

/** The narrowest type that holds the values of both. */
export function widerType(a: FieldType, b: FieldType): FieldType {
  if (a === b) return a;
  const both = (...types: FieldType[]): boolean => types.includes(a) && types.includes(b);
  return both('integer', 'decimal') ? 'decimal' : both('date', 'datetime') ? 'datetime' : 'text';
}

/** The declaration that holds for both; none where they are of different types. */
function widerDeclaration(a: FieldDeclaration | undefined, b: FieldDeclaration | undefined): FieldDeclaration | undefined {
  if (!a || !b || a.type !== b.type) return undefined;
  const most = (x: number | undefined, y: number | undefined): number | undefined =>
    x === undefined || y === undefined ? undefined : Math.max(x, y);
  const [width, decimals] = [most(a.width, b.width), most(a.decimals, b.decimals)];
  return { type: a.type, ...(width === undefined ? {} : { width }), ...(decimals === undefined ? {} : { decimals }) };
}

/** Declared fields in which no record of a group has a value: they are fields all the same. */
function emptyFields({ declared }: LayerGathering, { fields }: Gathering): FieldProfile[] {
  return [...(declared ?? [])]
    .filter(([name]) => !fields.has(name))
    .map(([name, d]) => ({ name, type: d.type, declared: d, filled: 0, maxBytes: 0, whole: 0, decimals: 0, samples: [] }));
}

/** The field that the measures (M) of vertices go into where a format has no room for them; null where there are none. @param name of the field */
export function measuresProfile(groups: readonly GroupProfile[], name: string): FieldProfile | null {
  const measured = groups.flatMap((g) => g.measures ?? []);
  if (measured.length === 0) return null;
  const filled = measured.reduce((n, m) => n + m.records, 0);
  return {
    name,
    type: 'text',
    filled,
    maxBytes: Math.max(...measured.map((m) => m.maxBytes)),
    whole: 0,
    decimals: 0,
    samples: [measured[0]!.first],
  };
}

/** One profile of a field over several groups. */
export function joinFields(groups: readonly GroupProfile[]): FieldProfile[] {
  const joined = new Map<string, FieldProfile>();
  for (const group of groups) {
    for (const field of group.fields) {
      const known = joined.get(field.name);
      if (!known) {
        joined.set(field.name, { ...field, samples: [...field.samples] });
        continue;
      }
      known.type = field.filled === 0 ? known.type : known.filled === 0 ? field.type : widerType(known.type, field.type);
      known.declared = widerDeclaration(known.declared, field.declared);
      if (field.notXml !== undefined) known.notXml = (known.notXml ?? 0) + field.notXml;
      if (field.truths) known.truths = true;
      if (field.utc !== undefined) known.utc = (known.utc ?? true) && field.utc;
      known.filled += field.filled;
      known.maxBytes = Math.max(known.maxBytes, field.maxBytes);
      known.whole = Math.max(known.whole, field.whole);
      known.decimals = Math.max(known.decimals, field.decimals);
      for (const sample of field.samples) if (known.samples.length < SAMPLES && !known.samples.includes(sample)) known.samples.push(sample);
    }
  }
  return [...joined.values()];
}
