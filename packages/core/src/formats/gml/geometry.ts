import { CurveRun, type Position } from '../../geometry/curve-run';
import { LINE, POINT, POLYGON } from '../../model/batch';
import type { BatchBuilder } from '../../model/batch-builder';
import { childOf, childrenOf, type XmlNode } from '../../io/xml';

/** Thrown for what is no geometry; the message says why. */
export class NotGml extends Error {}

/** One simple geometry; several of one kind in one element are one record. */
interface Piece {
  kind: number;
  node: XmlNode;
}

/** Elements that are geometries. Source: OGC 07-036, clauses 10 and 11; OGC 02-069 for those of GML 2. */
const SIMPLE: Record<string, number> = {
  Point: POINT,
  LineString: LINE,
  Curve: LINE,
  CompositeCurve: LINE,
  OrientableCurve: LINE,
  LinearRing: LINE,
  Polygon: POLYGON,
  Surface: POLYGON,
  PolyhedralSurface: POLYGON,
  CompositeSurface: POLYGON,
  Triangle: POLYGON,
  Rectangle: POLYGON,
  PolygonPatch: POLYGON,
};
const SEVERAL = new Set([
  'MultiPoint',
  'MultiLineString',
  'MultiCurve',
  'MultiPolygon',
  'MultiSurface',
  'MultiGeometry',
  'GeometricComplex',
]);
/** What pieces of several lie in. */
const MEMBERS = /^(point|lineString|curve|polygon|surface|geometry)Members?$|^element$/;

/** Whether an element of this name, without its prefix, is a geometry. */
export const isGeometry = (name: string): boolean => name in SIMPLE || SEVERAL.has(name);

/** The simple geometries of an element; what is not read goes to `other`. */
export function* piecesOf(node: XmlNode, other: (name: string) => void, deep = 0): Generator<Piece> {
  if (deep > 64) throw new NotGml('geometries lie in geometries more than 64 deep');
  const kind = SIMPLE[node.name];
  if (kind !== undefined) yield { kind, node };
  else if (SEVERAL.has(node.name)) {
    for (const member of node.children)
      if (MEMBERS.test(member.name)) for (const inner of member.children) yield* piecesOf(inner, other, deep + 1);
  } else if (!/^(name|description|metaDataProperty|identifier|boundedBy)$/.test(node.name)) other(node.name);
}

/** How positions are read. */
export interface Axes {
  northFirst: boolean;
  dimension: number;
}

/** Puts a piece into the record at hand; false for one without a vertex. @throws NotGml */
export function putPiece({ kind, node }: Piece, out: BatchBuilder, axes: Axes): boolean {
  const before = out.vertices;
  const own = axesOf(node, axes);
  if (kind === POINT) {
    putRun(positionsOf(node, own), out);
    if (out.vertices > before) out.endPart();
  } else if (kind === LINE) curve(node, out, own);
  else surface(node, out, own, 0);
  return out.vertices > before;
}

function axesOf(node: XmlNode, axes: Axes): Axes {
  const told = Number(node.attributes.srsDimension ?? node.attributes.dimension);
  return told === 2 || told === 3 ? { ...axes, dimension: told } : axes;
}

function surface(node: XmlNode, out: BatchBuilder, axes: Axes, deep: number): void {
  if (deep > 16) throw new NotGml('surfaces lie in surfaces more than 16 deep');
  for (const child of node.children) {
    if (/^(exterior|interior|outerBoundaryIs|innerBoundaryIs)$/.test(child.name)) {
      for (const ring of child.children) {
        curve(ring, out, axesOf(ring, axes));
      }
    } else if (/^(patches|polygonPatches|trianglePatches|surfaceMember|PolygonPatch|Triangle|Rectangle|Polygon|Surface)$/.test(child.name))
      surface(child, out, axesOf(child, axes), deep + 1);
  }
}

/** A line or a ring, its arcs as bulges. */
function curve(node: XmlNode, out: BatchBuilder, axes: Axes): void {
  const run = new CurveRun();
  try {
    collect(node, run, axes, 0);
  } catch (error) {
    if (error instanceof RangeError) throw new NotGml(error.message);
    throw error;
  }
  run.put(out);
}

function collect(node: XmlNode, run: CurveRun, given: Axes, deep: number): void {
  if (deep > 64) throw new NotGml('curves lie in curves more than 64 deep');
  const axes = axesOf(node, given);
  switch (node.name) {
    case 'LineString':
    case 'LinearRing':
    case 'LineStringSegment':
    case 'Geodesic':
    case 'GeodesicString':
      return run.straight(positionsOf(node, axes));
    case 'Arc':
    case 'ArcString':
      return run.arcs(positionsOf(node, axes));
    case 'Circle': {
      const [a, b, c] = positionsOf(node, axes);
      if (!a || !b || !c) throw new NotGml('a Circle has fewer than three positions');
      return run.circle(a, b, c);
    }
    case 'Curve':
    case 'CompositeCurve':
    case 'Ring':
    case 'segments':
    case 'curveMember':
    case 'baseCurve':
      for (const child of node.children) collect(child, run, axes, deep + 1);
      return;
    case 'OrientableCurve': {
      const part = new CurveRun();
      for (const child of node.children) collect(child, part, axes, deep + 1);
      return run.add(part, node.attributes.orientation === '-');
    }
    case 'name':
    case 'description':
    case 'metaDataProperty':
    case 'identifier':
      return;
    default:
      throw new NotGml(`a curve by ${node.name} is not read`);
  }
}

function putRun(run: readonly Position[], out: BatchBuilder): void {
  for (const [x, y, z] of run) out.vertex(x, y, z);
}

/** Positions in whatever element they stand. Source: OGC 07-036, clause 10.1.4; OGC 02-069, clause 4.3 for coordinates and coord. */
function positionsOf(node: XmlNode, axes: Axes): Position[] {
  const list = childOf(node, 'posList');
  if (list) return numbersOf(list.text, axesOf(list, axes));
  const coordinates = childOf(node, 'coordinates');
  if (coordinates) return tuplesOf(coordinates, axes);
  const out: Position[] = [];
  for (const child of node.children) {
    if (child.name === 'pos') out.push(...numbersOf(child.text, { ...axes, dimension: child.text.trim().split(/\s+/).length }));
    else if (child.name === 'pointProperty' || child.name === 'pointRep')
      for (const point of childrenOf(child, 'Point')) out.push(...positionsOf(point, axesOf(point, axes)));
    else if (child.name === 'coord')
      out.push(
        position(
          ['X', 'Y', 'Z'].flatMap((n) => {
            const t = childOf(child, n)?.text;
            return t === undefined ? [] : [Number(t)];
          }),
          axes,
        ),
      );
  }
  return out;
}

function numbersOf(text: string, { northFirst, dimension }: Axes): Position[] {
  const trimmed = text.trim();
  if (trimmed === '') return [];
  const numbers = trimmed.split(/\s+/).map(Number);
  if (numbers.length % dimension !== 0) throw new NotGml(`${numbers.length} numbers are no positions of ${dimension}`);
  const out: Position[] = [];
  for (let k = 0; k < numbers.length; k += dimension) out.push(position(numbers.slice(k, k + dimension), { northFirst, dimension }));
  return out;
}

function tuplesOf({ text, attributes: { cs = ',', ts = ' ', decimal = '.' } }: XmlNode, axes: Axes): Position[] {
  const tuples = (ts.trim() === '' ? text.trim().split(/\s+/) : text.trim().split(ts)).filter((t) => t.trim() !== '');
  return tuples.map((t) =>
    position(
      t
        .trim()
        .split(cs)
        .map((n) => Number(decimal === '.' ? n : n.replace(decimal, '.'))),
      axes,
    ),
  );
}

function position(numbers: readonly number[], { northFirst }: Axes): Position {
  const [first, second, z] = numbers;
  if (first === undefined || second === undefined || !Number.isFinite(first) || !Number.isFinite(second))
    throw new NotGml('a position is not made of two or three numbers');
  return northFirst ? [second, first, z ?? NaN] : [first, second, z ?? NaN];
}
