import { plainDecimal } from '../../io/plain-decimal';
import { escaped } from '../../io/xml';
import type { FeatureBatch } from '../../model/batch';
import type { Value } from '../../model/value';
import type { TargetSet } from '../format';
import type { Part } from './set-roles';

/** A value on its way into an element, and whether it is text there. */
export interface Told {
  value: string;
  isText: boolean;
}

/** Attributes that hold text; all others are read as numbers where they are some. */
export const TEXT_ATTRIBUTES: ReadonlySet<string> = new Set(['name', 'desc', 'code', 'oID', 'state', 'brkType']);

/** The attributes of each element that have a field of the same name. Source: LandXML-1.2.xsd; from memory. */
const OWN: Record<Part, readonly string[]> = {
  points: ['name', 'code', 'desc', 'oID'],
  'plan features': ['name', 'desc', 'oID'],
  alignments: ['name', 'length', 'staStart', 'desc', 'oID'],
  parcels: ['name', 'area', 'desc', 'oID'],
  breaklines: ['brkType', 'name', 'desc'],
  contours: ['elev', 'desc'],
  faces: [],
  structures: [],
  pipes: [],
};

/**
 * What a record says: as attributes, and what is left for a Feature.
 * @param needed attributes that the schema wants, where the set has no field of that name; an empty one is read as nothing
 */
export function attributesOf(
  set: TargetSet,
  batch: FeatureBatch,
  i: number,
  part: Part,
  needed: Readonly<Record<string, string>> = {},
): { attributes: string; rest: Record<string, Told>; all: Record<string, Told> } {
  const all: Record<string, Told> = {};
  for (const field of set.fields) {
    const value = batch.columns.get(field.from)?.[i] ?? null;
    if (value !== null) all[field.to] = { value: textOf(value), isText: field.type === 'text' };
  }
  const attributes: Record<string, string> = Object.fromEntries(
    Object.entries(needed).filter(([name, value]) => value === '' || !set.fields.some((f) => f.to === name)),
  );
  const rest: Record<string, Told> = {};
  for (const [name, told] of Object.entries(all))
    if (OWN[part].includes(name) && told.isText === TEXT_ATTRIBUTES.has(name) && told.value !== '') attributes[name] = told.value;
    else rest[name] = told;
  return { attributes: attributesText(attributes), rest, all };
}

const textOf = (value: Value): string => (typeof value === 'number' ? plainDecimal(value) : String(value));

/** A value as an attribute holds it: line breaks and tabs would be read as blanks. Source: XML 1.0, section 3.3.3. */
const attributeText = (text: string): string => escaped(text).replace(/[\t\n]/g, (c) => `&#${c.charCodeAt(0)};`);

/** Attributes as they stand in a start tag, each after a blank. */
export const attributesText = (attributes: Readonly<Record<string, string>>): string =>
  Object.entries(attributes)
    .map(([name, value]) => ` ${name}="${attributeText(value)}"`)
    .join('');

/** What the two features of an element are called: one has texts, the other numbers. */
export const TEXTS = 'texts',
  NUMBERS = 'numbers';

/** The feature of a point that is several: how many, as its code. */
export const PLACES = 'places';

/** Values that no attribute has room for, label by label. Source: LandXML-1.2.xsd, Feature and Property; from memory. */
export function featureText(told: Readonly<Record<string, Told>>): string {
  const of = (isText: boolean): string =>
    Object.entries(told)
      .filter(([, t]) => t.isText === isText)
      .map(([label, { value }]) => `<Property label="${attributeText(label)}" value="${attributeText(value)}"/>`)
      .join('');
  const feature = (name: string, properties: string): string =>
    properties === '' ? '' : `<Feature name="${name}">${properties}</Feature>`;
  return feature(TEXTS, of(true)) + feature(NUMBERS, of(false));
}
