import { type Crs, isPlane } from '../../crs/crs';
import type { ByteSource } from '../../io/bytes';
import { attributesText, featureText, type Told } from './element-values';
import { sizeOut, SIZES } from './sizes';

/** A structure or a pipe while it waits for the rest of its network. */
export interface NetworkItem {
  values: Record<string, Told>;
  /** Where it begins and ends; of a structure, where it is. */
  ends: [string, string];
  course: string;
  /** Whether it is straight from end to end. */
  isStraight: boolean;
}

/** Attributes of each element and the fields that they are of. Source: LandXML-1.2.xsd, Struct, Pipe; from memory. */
const STRUCT = { name: 'id', desc: 'desc', elevRim: 'rim', elevSump: 'sump' },
  PIPE = { name: 'id', refStart: 'from_id', refEnd: 'to_id', length: 'length', slope: 'slope', desc: 'desc' };

/** Attributes that hold text. */
const TEXTS = new Set(['name', 'desc', 'refStart', 'refEnd', 'material']);

/** Shapes of cross sections by the names that they have in the field `shape`. Source: LandXML-1.2.xsd; from memory. */
const PIPE_SHAPES = new Set(['Circ', 'Egg', 'Elli', 'Rect']),
  STRUCT_SHAPES = new Set(['Circ', 'Rect', 'Inlet', 'Outlet']);

interface Invert {
  pipe: string;
  elev: string;
  flow: 'in' | 'out';
}

/** Structures and pipes of a network, from lines of JSON. An invert stands with its structure where pipe and structures are each there once. */
export async function* networkText(structures: ByteSource, pipes: ByteSource, crs: Crs): AsyncGenerator<string> {
  const once = await namesThereOnce(structures),
    pipesOnce = await namesThereOnce(pipes);
  const places = new Map<string, string>();
  for await (const { values, ends } of items(structures)) if (once.has(idOf(values))) places.set(idOf(values), ends[0]);
  const inverts = new Map<string, Invert[]>();
  /** Whether the inverts of a pipe can stand with its structures. */
  const isTold = (values: NetworkItem['values']): boolean => {
    const [from, to] = [values.from_id?.value ?? '', values.to_id?.value ?? ''];
    return pipesOnce.has(idOf(values)) && places.has(from) && places.has(to) && from !== to;
  };
  const add = (structure: string, pipe: string, invert: Told | undefined, flow: Invert['flow']): void => {
    if (invert && !invert.isText) inverts.set(structure, [...(inverts.get(structure) ?? []), { pipe, elev: invert.value, flow }]);
  };
  for await (const { values } of items(pipes)) {
    if (!isTold(values)) continue;
    add(values.from_id!.value, idOf(values), values.inv_start, 'out');
    add(values.to_id!.value, idOf(values), values.inv_end, 'in');
  }
  const diameters = isPlane(crs) ? crs.unit : null;
  const made = (values: NetworkItem['values'], own: Readonly<Record<string, string>>, shapes: ReadonlySet<string>, usual: string) =>
    elementOf(values, own, shapes, usual, (mm) => sizeOut(mm, diameters));
  yield '<Structs>\n';
  for await (const { values, ends } of items(structures)) {
    const { attributes, shape, rest } = made(values, STRUCT, STRUCT_SHAPES, 'Connection');
    const own = once.has(idOf(values)) ? (inverts.get(idOf(values)) ?? []) : [];
    const told = own.map((v) => `<Invert${attributesText({ elev: v.elev, flowDir: v.flow, refPipe: v.pipe })}/>`).join('');
    yield `<Struct${attributes}><Center>${ends[0]}</Center>${shape}${told}${featureText(rest)}</Struct>\n`;
  }
  yield '</Structs>\n<Pipes>\n';
  for await (const { values, ends, course, isStraight } of items(pipes)) {
    const { attributes, shape, rest } = made(values, PIPE, PIPE_SHAPES, 'CircPipe');
    const within = isTold(values);
    // heights along a straight pipe between its structures are those of its inverts
    const flat = (place: string | undefined): string => (place ?? '').split(' ').slice(0, 2).join(' ');
    const isBetween =
      within &&
      isStraight &&
      flat(ends[0]) === flat(places.get(values.from_id!.value)) &&
      flat(ends[1]) === flat(places.get(values.to_id!.value)) &&
      heightOf(ends[0]) === values.inv_start?.value &&
      heightOf(ends[1]) === values.inv_end?.value;
    for (const field of ['inv_start', 'inv_end']) if (within && rest[field] && !rest[field].isText) delete rest[field];
    yield `<Pipe${attributes}>${shape}${isBetween ? '' : course}${featureText(rest)}</Pipe>\n`;
  }
  yield '</Pipes>\n';
}

const idOf = (values: NetworkItem['values']): string => values.id?.value ?? '';

const heightOf = (place: string): string | undefined => place.split(' ')[2];

/** Ids that one record has, and no other. */
async function namesThereOnce(source: ByteSource): Promise<Set<string>> {
  const seen = new Set<string>(),
    twice = new Set<string>();
  for await (const { values } of items(source)) {
    const id = idOf(values);
    if (seen.has(id)) twice.add(id);
    seen.add(id);
  }
  seen.delete('');
  for (const id of twice) seen.delete(id);
  return seen;
}

/** Attributes, cross section and what is left of what a structure or a pipe says. @param usual the element of a cross section of which nothing is known */
function elementOf(
  values: NetworkItem['values'],
  own: Readonly<Record<string, string>>,
  shapes: ReadonlySet<string>,
  usual: string,
  sizeOf: (mm: number) => string,
): { attributes: string; shape: string; rest: Record<string, Told> } {
  const rest = { ...values };
  const attributes: Record<string, string> = { name: '' };
  for (const [attribute, field] of Object.entries(own)) {
    const told = values[field];
    // an id may be a number as well
    if (!told || (told.isText !== TEXTS.has(attribute) && !(attribute === 'name' || attribute.startsWith('ref')))) continue;
    attributes[attribute] = told.value;
    if (told.isText === TEXTS.has(attribute)) delete rest[field];
  }
  const kind = values.shape?.value ?? '';
  const section: Record<string, string> = {};
  const takes = shapes.has(kind) || (usual === 'CircPipe' && values.diameter !== undefined);
  if (takes)
    for (const field of [...SIZES, 'material']) {
      const told = rest[field];
      if (!told || told.isText !== TEXTS.has(field)) continue;
      section[field] = field === 'material' ? told.value : sizeOf(Number(told.value));
      delete rest[field];
    }
  const suffix = usual === 'CircPipe' ? 'Pipe' : 'Struct';
  if (shapes.has(kind)) delete rest.shape;
  const name = shapes.has(kind) ? `${kind}${suffix}` : usual;
  return { attributes: attributesText(attributes), shape: `<${name}${attributesText(section)}/>`, rest };
}

/** What was put aside, item by item. */
async function* items(source: ByteSource): AsyncGenerator<NetworkItem> {
  const decoder = new TextDecoder();
  let rest = '';
  for await (const piece of source.stream()) {
    const lines = (rest + decoder.decode(piece, { stream: true })).split('\n');
    rest = lines.pop()!;
    for (const line of lines) yield JSON.parse(line) as NetworkItem;
  }
}
