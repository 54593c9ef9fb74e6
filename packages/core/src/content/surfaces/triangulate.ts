import Constrainautor from '@kninnug/constrainautor';
import Delaunator from 'delaunator';
import { turn } from '../../geometry/turn';
import { nodeLinework } from '../parcels/node-linework';

/** Points and the lines between them that a triangulation is to keep. */
export interface Triangulated {
  /** x and y by twos, those that were given first; then those where lines cross. */
  points: Float64Array;
  /** Corners by threes, counter-clockwise. */
  triangles: Uint32Array;
}

/**
 * The Delaunay triangulation of points in which lines are sides. Lines are noded first: they go through every point that they meet, and
 * where they cross there is a point. Method: Delaunator (Delaunay by a sweep, with exact predicates) and Constrainautor on it (Sloan, "A fast
 * algorithm for generating constrained Delaunay triangulations", 1993).
 * @param points x and y by twos, no two the same; three at the least
 * @param lines numbers of two points each, by twos
 */
export function triangulate(points: Float64Array, lines: Uint32Array): Triangulated {
  const noded = lines.length === 0 ? { points, edges: lines } : nodedLines(points, lines);
  const all = noded.points;
  // near the origin numbers have more room behind the point
  const [ox, oy] = [all[0] ?? 0, all[1] ?? 0];
  const del = new Delaunator(all.map((v, k) => v - (k % 2 === 0 ? ox : oy)));
  if (del.triangles.length > 0 && noded.edges.length > 0) {
    const keeper = new Constrainautor(del);
    for (let e = 0; e < noded.edges.length; e += 2) keeper.constrainOne(noded.edges[e]!, noded.edges[e + 1]!);
  }
  const triangles = Uint32Array.from(del.triangles);
  for (let t = 0; t < triangles.length; t += 3) {
    const [a, b, c] = [2 * triangles[t]!, 2 * triangles[t + 1]!, 2 * triangles[t + 2]!];
    if (turn(all[a]!, all[a + 1]!, all[b]!, all[b + 1]!, all[c]!, all[c + 1]!) < 0)
      [triangles[t + 1], triangles[t + 2]] = [triangles[t + 2]!, triangles[t + 1]!];
  }
  return { points: all, triangles };
}

/** Lines that meet at points only. */
function nodedLines(points: Float64Array, lines: Uint32Array): { points: Float64Array; edges: Uint32Array } {
  const count = points.length / 2;
  const segments = new Float64Array(2 * lines.length + 2 * points.length);
  lines.forEach((p, k) => segments.set(points.subarray(2 * p, 2 * p + 2), 2 * k));
  for (let p = 0; p < count; p++)
    for (const half of [0, 2]) segments.set(points.subarray(2 * p, 2 * p + 2), 2 * lines.length + 4 * p + half);
  const { nodes, edges } = nodeLinework(segments, 0);
  // points lie apart, so that each is a node of its own, and the others are where lines cross
  const [byPlace, nodesByPlace] = [inOrder(points), inOrder(nodes)];
  const numberOf = new Uint32Array(nodes.length / 2);
  const more: number[] = [];
  for (let k = 0, p = 0; k < nodesByPlace.length; k++) {
    const [node, point] = [nodesByPlace[k]!, byPlace[p]];
    if (point !== undefined && points[2 * point] === nodes[2 * node] && points[2 * point + 1] === nodes[2 * node + 1]) {
      numberOf[node] = point;
      p++;
    } else {
      numberOf[node] = count + more.length / 2;
      more.push(nodes[2 * node]!, nodes[2 * node + 1]!);
    }
  }
  const all = new Float64Array(points.length + more.length);
  all.set(points);
  all.set(more, points.length);
  return { points: all, edges: edges.map((n) => numberOf[n]!) };
}

/** The numbers of points by x, then by y. */
function inOrder(points: Float64Array): Uint32Array {
  const order = new Uint32Array(points.length / 2);
  for (let k = 0; k < order.length; k++) order[k] = k;
  return order.sort((a, b) => points[2 * a]! - points[2 * b]! || points[2 * a + 1]! - points[2 * b + 1]!);
}
