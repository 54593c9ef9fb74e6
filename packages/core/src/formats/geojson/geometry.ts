import { LINE, POINT, POLYGON } from '../../model/batch';
import type { BatchBuilder } from '../../model/batch-builder';

type Position = readonly number[];

/** What was found odd in a geometry, to be told. */
export type Oddity = 'ring-closed' | 'more-numbers' | 'no-geometry';

interface Shape {
  kind: number;
  /** How deep the positions lie in lists. */
  depth: 0 | 1 | 2 | 3;
  ring: boolean;
}

/** Source: RFC 7946, section 3.1. */
const SHAPES: Record<string, Shape> = {
  Point: { kind: POINT, depth: 0, ring: false },
  MultiPoint: { kind: POINT, depth: 1, ring: false },
  LineString: { kind: LINE, depth: 1, ring: false },
  MultiLineString: { kind: LINE, depth: 2, ring: false },
  Polygon: { kind: POLYGON, depth: 2, ring: true },
  MultiPolygon: { kind: POLYGON, depth: 3, ring: true },
};

/** Thrown for what is no geometry; the message says where. */
export class NotAGeometry extends Error {}

/** A geometry as records are made of it: a collection is as many. */
export function* simpleGeometries(geometry: unknown, depth = 0): Generator<{ type: string; coordinates: unknown }> {
  if (typeof geometry !== 'object' || geometry === null) throw new NotAGeometry('its geometry is no object');
  const { type, coordinates, geometries } = geometry as { type?: unknown; coordinates?: unknown; geometries?: unknown };
  if (type === 'GeometryCollection') {
    if (!Array.isArray(geometries)) throw new NotAGeometry('a GeometryCollection has no list of geometries');
    if (depth > 16) throw new NotAGeometry('collections lie in collections more than 16 deep');
    for (const one of geometries) yield* simpleGeometries(one, depth + 1);
  } else if (typeof type === 'string') yield { type, coordinates };
  else throw new NotAGeometry('its geometry has no type');
}

/**
 * Puts a simple geometry into a record.
 * @returns the kind of record, or null for one without vertices
 * @throws NotAGeometry
 */
export function putGeometry(
  { type, coordinates }: { type: string; coordinates: unknown },
  out: BatchBuilder,
  odd: (what: Oddity) => void,
): number | null {
  const shape = SHAPES[type];
  if (!shape) throw new NotAGeometry(`"${type.slice(0, 40)}" is no kind of geometry`);
  const before = out.vertices;
  const put = (list: unknown, depth: number): void => {
    if (!Array.isArray(list)) throw new NotAGeometry(`the coordinates of a ${type} are not in lists as deep as they should be`);
    if (depth === 0) {
      position(list, out, odd);
      out.endPart();
    } else if (depth > (shape.kind === POINT ? 0 : 1)) for (const inner of list) put(inner, depth - 1);
    else {
      for (const p of list) position(p as Position, out, odd);
      if (shape.ring && list.length > 0) close(list as Position[], out, odd);
      if (list.length > 0) out.endPart();
    }
  };
  put(coordinates, shape.depth);
  return out.vertices > before ? shape.kind : null;
}

function position(p: Position, out: BatchBuilder, odd: (what: Oddity) => void): void {
  if (!Array.isArray(p) || typeof p[0] !== 'number' || typeof p[1] !== 'number')
    throw new NotAGeometry('a position is not a list of two or more numbers');
  if (!Number.isFinite(p[0]) || !Number.isFinite(p[1])) throw new NotAGeometry('a position has a number that is too large to be held');
  if (p.length > 3) odd('more-numbers');
  out.vertex(p[0], p[1], typeof p[2] === 'number' ? p[2] : NaN);
}

/** A ring ends where it begins; one that does not is closed. */
function close(ring: Position[], out: BatchBuilder, odd: (what: Oddity) => void): void {
  if (ring.length < 3) throw new NotAGeometry('a ring has fewer than three positions');
  const first = ring[0]!,
    last = ring[ring.length - 1]!;
  if (first[0] === last[0] && first[1] === last[1]) return;
  odd('ring-closed');
  position(first, out, odd);
}
