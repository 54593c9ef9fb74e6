import { LINE, POINT, POLYGON } from '../../model/batch';
import type { BatchBuilder } from '../../model/batch-builder';
import { childOf, childrenOf, childText, type XmlNode } from '../../io/xml';

/** Thrown for coordinates that are none; the message says which. */
export class NotKml extends Error {}

/** A simple geometry within a feature. */
interface Piece {
  node: XmlNode;
  kind: number;
}

const SIMPLE: Record<string, number> = { Point: POINT, LineString: LINE, LinearRing: LINE, Polygon: POLYGON, Track: LINE };

/** All simple geometries of a feature; what is not read goes to `other`. */
export function* piecesOf(feature: XmlNode, other: (name: string) => void, deep = 0): Generator<Piece> {
  if (deep > 64) throw new NotKml('geometries lie in geometries more than 64 deep');
  for (const node of feature.children) {
    const kind = SIMPLE[node.name];
    if (kind !== undefined) yield { node, kind };
    else if (node.name === 'MultiGeometry' || node.name === 'MultiTrack') yield* piecesOf(node, other, deep + 1);
    else if (node.name === 'Model') other(node.name);
  }
}

/** Puts a piece into the record at hand as one more part, or several for an area with holes; false for one without a vertex. */
export function putPiece({ node, kind }: Piece, out: BatchBuilder): boolean {
  const before = out.vertices;
  if (node.name === 'Track') putTrack(node, out);
  else if (kind === POLYGON) {
    const rings = [...childrenOf(node, 'outerBoundaryIs'), ...childrenOf(node, 'innerBoundaryIs')].flatMap((b) =>
      childrenOf(b, 'LinearRing'),
    );
    for (const ring of rings) putRun(childText(ring, 'coordinates'), out, true);
  } else putRun(childText(node, 'coordinates'), out, false);
  return out.vertices > before;
}

function putRun(text: string | null, out: BatchBuilder, ring: boolean): void {
  if (text === null) return;
  let count = 0;
  let first: [number, number, number] | null = null,
    last: [number, number, number] | null = null;
  for (const [x, y, z] of placesIn(text)) {
    const place = `${x},${y},${z ?? ''}`;
    last = [real(x, place), real(y, place), z === undefined || z === '' ? NaN : real(z, place)];
    out.vertex(...last);
    first ??= last;
    count++;
  }
  if (ring && first && last && count > 2 && (first[0] !== last[0] || first[1] !== last[1])) out.vertex(...first);
  if (count > 0) out.endPart();
}

/** Longitude, latitude and height of each place, as they are written; "" where nothing stands. Blanks about a comma are not allowed, and common. */
function* placesIn(text: string): Generator<string[]> {
  const token = /[^\s,]+|,/g;
  let place: string[] = [];
  let open = true;
  for (let found = token.exec(text); found; found = token.exec(text)) {
    if (found[0] === ',') {
      // a place that lacks its first numbers is none, however many commas follow
      if (open && place.push('') > 2) break;
      open = true;
      continue;
    }
    if (!open) {
      yield place;
      place = [];
    }
    place.push(found[0]);
    open = false;
  }
  if (place.length > 0) yield place;
}

function real(text: string | undefined, place: string): number {
  const v = text === undefined || text === '' ? NaN : Number(text);
  if (Number.isNaN(v)) throw new NotKml(`"${place.slice(0, 40)}" is no longitude, latitude and height`);
  return v;
}

function putTrack(node: XmlNode, out: BatchBuilder): void {
  const places = childrenOf(node, 'coord');
  for (const { text } of places) {
    const [x, y, z] = text.trim().split(/\s+/);
    // a moment without a place
    if (x === undefined || x === '') continue;
    out.vertex(real(x, text), real(y, text), z === undefined ? NaN : real(z, text));
  }
  if (places.length > 0) out.endPart();
}

/** What a feature says besides its place: names and values, as texts or as its schema types them. */
export function* valuesOf(
  feature: XmlNode,
  types: (schema: string, field: string) => string | undefined,
): Generator<[string, string | number | boolean]> {
  // where its schema has a field of the same name, what stands outside of it is made of the data, and no data itself
  const schemas = childrenOf(childOf(feature, 'ExtendedData'), 'SchemaData').map((s) => s.attributes.schemaUrl?.replace(/^.*#/, '') ?? '');
  for (const name of ['name', 'description', 'address', 'phoneNumber', 'Snippet'] as const) {
    const text = childText(feature, name);
    if (text !== null && !schemas.some((s) => types(s, name) !== undefined)) yield [name, text];
  }
  const time = childText(childOf(feature, 'TimeStamp'), 'when');
  if (time !== null) yield ['time', time];
  const span = childOf(feature, 'TimeSpan');
  for (const name of ['begin', 'end'] as const) {
    const text = childText(span, name);
    if (text !== null) yield [name, text];
  }
  const data = childOf(feature, 'ExtendedData');
  for (const one of childrenOf(data, 'Data')) {
    const value = childOf(one, 'value')?.text;
    if (one.attributes.name && value !== undefined) yield [one.attributes.name, value];
  }
  for (const set of childrenOf(data, 'SchemaData')) {
    const schema = set.attributes.schemaUrl?.replace(/^.*#/, '') ?? '';
    for (const one of childrenOf(set, 'SimpleData')) {
      const name = one.attributes.name;
      if (name) yield [name, typed(one.text, types(schema, name))];
    }
  }
}

/** Source: OGC 07-147r2, section 9.6, kml:SimpleField. */
const NUMBERS = new Set(['int', 'uint', 'short', 'ushort', 'float', 'double']);

function typed(text: string, type: string | undefined): string | number | boolean {
  if (type === undefined) return text;
  if (NUMBERS.has(type) && text.trim() !== '' && Number.isFinite(Number(text))) return Number(text);
  if (type === 'bool' && /^\s*(true|false|0|1)\s*$/.test(text)) return /true|1/.test(text);
  return text;
}

/** What a geometry says of its heights, where that is not "on the ground". */
export function* heightsOf({ node }: Piece): Generator<[string, string | boolean]> {
  const mode = childText(node, 'altitudeMode');
  if (mode !== null && mode !== 'clampToGround') yield ['altitude_mode', mode];
  if (childText(node, 'extrude') === '1') yield ['extrude', true];
  if (node.name === 'Track') {
    const times = childrenOf(node, 'when').map((w) => w.text.trim());
    if (times.length > 0) yield ['times', JSON.stringify(times)];
  }
}
