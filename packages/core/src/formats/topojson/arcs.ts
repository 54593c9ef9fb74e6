import { Problem } from '../../model/problem';
import { NotAGeometry } from '../geojson/geometry';

/** A document. Source: "The TopoJSON Format Specification", 1.0, section 2.1. */
export interface Topology {
  type: 'Topology';
  objects: Record<string, unknown>;
  arcs: unknown[];
  transform?: { scale: [number, number]; translate: [number, number] };
  crs?: unknown;
}

type Position = number[];

/** Lines of a topology with their positions worked out, and how positions of points get there. */
export interface Arcs {
  list: Position[][];
  point(p: Position): Position;
  /** Positions that geometries may still be made of: an arc may be named any number of times. */
  left: number;
}

/** How often each arc may be used on the average; neighbours, their districts and their country use one perhaps six times. */
const MOST_USED = 100;
const MOST_POSITIONS = 1_000_000;

/** Positions from the differences that they are told by. Source: the same, sections 2.1.2 and 2.1.3. @throws Problem */
export function decodeArcs({ arcs, transform }: Topology, file: string): Arcs {
  const at = (x: number, y: number): Position =>
    transform ? [x * transform.scale[0] + transform.translate[0], y * transform.scale[1] + transform.translate[1]] : [x, y];
  const list = arcs.map((arc, k) => {
    if (!Array.isArray(arc)) throw new Problem('topojson-broken', `${file}: arc ${k} is no list of positions. Export it again.`, { file });
    let x = 0,
      y = 0;
    return (arc as Position[]).map((p) => {
      if (!Array.isArray(p) || typeof p[0] !== 'number' || typeof p[1] !== 'number')
        throw new Problem('topojson-broken', `${file}: arc ${k} has a position that is not made of numbers. Export it again.`, { file });
      [x, y] = transform ? [x + p[0], y + p[1]] : [p[0], p[1]];
      return [...at(x, y), ...p.slice(2)];
    });
  });
  const left = MOST_POSITIONS + MOST_USED * list.reduce((n, arc) => n + arc.length, 0);
  return { list, left, point: (p) => [...at(p[0]!, p[1]!), ...p.slice(2)] };
}

/** How deep arcs, or positions of points, lie in lists. Source: the same, sections 2.2.1 to 2.2.6. */
const DEPTHS: Record<string, { arcs: boolean; depth: number }> = {
  Point: { arcs: false, depth: 0 },
  MultiPoint: { arcs: false, depth: 1 },
  LineString: { arcs: true, depth: 0 },
  MultiLineString: { arcs: true, depth: 1 },
  Polygon: { arcs: true, depth: 1 },
  MultiPolygon: { arcs: true, depth: 2 },
};

/** The coordinates of a geometry, as GeoJSON would have them. @throws NotAGeometry */
export function coordinatesOf(geometry: Record<string, unknown>, arcs: Arcs): unknown {
  const shape = DEPTHS[String(geometry.type)];
  if (!shape) throw new NotAGeometry(`"${String(geometry.type).slice(0, 40)}" is no kind of geometry`);
  const within = (value: unknown, depth: number): unknown => {
    if (!Array.isArray(value))
      throw new NotAGeometry(
        `the ${shape.arcs ? 'arcs' : 'coordinates'} of a ${String(geometry.type)} are not in lists as deep as they should be`,
      );
    if (depth > 0) return value.map((v) => within(v, depth - 1));
    return shape.arcs ? stitched(value as number[], arcs) : arcs.point(value as Position);
  };
  return within(shape.arcs ? geometry.arcs : geometry.coordinates, shape.depth);
}

/** Arcs one after the other; one that is told by its number's complement runs backwards, and the position where two meet stands once. */
function stitched(numbers: readonly number[], arcs: Arcs): Position[] {
  const out: Position[] = [];
  for (const n of numbers) {
    const arc = arcs.list[n < 0 ? ~n : n];
    if (!arc) throw new NotAGeometry(`it is made of arc ${n}, which there is not`);
    arcs.left -= arc.length;
    if (arcs.left < 0) throw new NotAGeometry('the arcs are named so often that they come to more positions than are read');
    const run = n < 0 ? [...arc].reverse() : arc;
    for (let k = out.length > 0 ? 1 : 0; k < run.length; k++) out.push(run[k]!);
  }
  return out;
}
