import Flatbush from 'flatbush';
import { segmentDistance } from '../../geometry/distance';
import { crossingOf } from '../../geometry/segment-crossing';
import { Problem } from '../../model/problem';
import { NodeTable } from './node-table';

/** Lines as a graph in the plane: edges meet at nodes only, and no node lies on an edge that does not end there. */
export interface Linework {
  /** x and y of the nodes, by twos. */
  nodes: Float64Array;
  /** The two nodes of each edge, the lower number first; no edge is there twice. */
  edges: Uint32Array;
  /** How far a line lies from where it was at most, in units of the coordinates: what it was moved step by step, summed up. */
  largestMove: number;
}

/** What two coordinates may differ by where they mean the same, as a share of them: what is lost in working out where two lines cross. */
export const NOISE = 2 ** -44;

/** Passes after which lines would have to be settled; each makes new nodes, which lie apart, and there is room for so many only. */
const MOST_PASSES = 100;

/** An edge by its nodes; sets of these are exact up to 2^26 nodes. */
const keyOf = (a: number, b: number): number => (a < b ? a * 2 ** 26 + b : b * 2 ** 26 + a);
const nodesOf = (key: number): [number, number] => [Math.floor(key / 2 ** 26), key % 2 ** 26];

/**
 * Nodes lines: where they cross or come within the tolerance of each other they get a node in common. What lies within it of a node moves
 * there; everything else stays where it is to the last digit. The result does not depend on the order of the lines. Method: nodes are set
 * at least a tolerance apart, ends first, then crossings, each edge being bent through the nodes within reach of it, until no edge has
 * another one within reach; as Hobby, "Practical segment intersection with finite precision output", 1999, does on a grid.
 * @param segments x and y of both ends, by fours; one without a length is a point, which lines within reach go through
 * @param tolerance in units of the coordinates
 */
export function nodeLinework(segments: Float64Array, tolerance: number): Linework {
  let most = 0;
  for (const v of segments) most = Math.max(most, Math.abs(v));
  // less than what is lost in working out where two lines cross is no tolerance
  const within = Math.max(tolerance, most * NOISE, Number.MIN_VALUE);
  const table = new NodeTable(within);
  const ends = endsInOrder(segments);
  for (let k = 0; k < ends.length; k++) table.take(segments[2 * ends[k]!]!, segments[2 * ends[k]! + 1]!);
  let edges = new Set<number>();
  const moves = new Moves();
  let points = false;
  for (let k = 0; k < segments.length; k += 4) {
    const a = table.take(segments[k]!, segments[k + 1]!),
      b = table.take(segments[k + 2]!, segments[k + 3]!);
    const off = Math.max(table.distance(a, segments[k]!, segments[k + 1]!), table.distance(b, segments[k + 2]!, segments[k + 3]!));
    moves.add(keyOf(a, b), off);
    if (a !== b) edges.add(keyOf(a, b));
    else points = true;
  }
  // one order, however they came
  edges = new Set(Float64Array.from(edges).sort());
  let pending: ReadonlySet<number> = edges;
  for (let pass = 0; pending.size > 0; pass++) {
    if (pass === MOST_PASSES)
      throw new Problem('linework-unsettled', 'These lines lie too near to each other to be told apart. Give a larger tolerance.');
    // a node that ends no edge is beside one from the first
    pending = settle(table, edges, pending, within, moves, pass === 0 && points ? 0 : table.count);
  }
  const out = new Uint32Array(2 * edges.size);
  let to = 0;
  for (const key of edges) {
    const [a, b] = nodesOf(key);
    out[to++] = a;
    out[to++] = b;
  }
  return { nodes: table.all(), edges: out, largestMove: moves.largest };
}

/** How far edges have been moved so far, those that have been. */
class Moves {
  private readonly byEdge = new Map<number, number>();
  largest = 0;

  of(edge: number): number {
    return this.byEdge.get(edge) ?? 0;
  }

  /** What several lines have become one of counts as far as the one that was moved most. */
  add(edge: number, by: number): void {
    if (by <= this.of(edge)) return;
    this.byEdge.set(edge, by);
    if (by > this.largest) this.largest = by;
  }
}

/** The ends of segments by x, then by y. */
function endsInOrder(segments: Float64Array): Uint32Array {
  const ends = new Uint32Array(segments.length / 2);
  for (let k = 0; k < ends.length; k++) ends[k] = k;
  return ends.sort((p, q) => segments[2 * p]! - segments[2 * q]! || segments[2 * p + 1]! - segments[2 * q + 1]!);
}

/** Splits the edges that are not settled yet, and those that they meet. @param known nodes from this one on may lie beside any edge @returns those that have to be looked at because of it */
function settle(
  table: NodeTable,
  edges: Set<number>,
  pending: ReadonlySet<number>,
  within: number,
  moves: Moves,
  known: number,
): Set<number> {
  const all = Float64Array.from(edges);
  const boxes = new Flatbush(all.length);
  for (const key of all) {
    const [a, b] = nodesOf(key);
    boxes.add(
      Math.min(table.x(a), table.x(b)),
      Math.min(table.y(a), table.y(b)),
      Math.max(table.x(a), table.x(b)),
      Math.max(table.y(a), table.y(b)),
    );
  }
  boxes.finish();
  const splits = new Map<number, Set<number>>();
  const split = (key: number, node: number): void => {
    const [a, b] = nodesOf(key);
    if (node === a || node === b) return;
    const own = splits.get(key);
    if (own) own.add(node);
    else splits.set(key, new Set([node]));
  };
  for (const key of pending) {
    const [a, b] = nodesOf(key);
    const [x1, y1, x2, y2] = [table.x(a), table.y(a), table.x(b), table.y(b)];
    const [minx, miny, maxx, maxy] = [Math.min(x1, x2), Math.min(y1, y2), Math.max(x1, x2), Math.max(y1, y2)];
    for (const at of boxes.search(minx - within, miny - within, maxx + within, maxy + within)) {
      const other = all[at]!;
      if (other === key) continue;
      const [c, d] = nodesOf(other);
      for (const node of [c, d]) if (isBeside(table, node, a, b, within)) split(key, node);
      for (const node of [a, b]) if (isBeside(table, node, c, d, within)) split(other, node);
      if (a === c || a === d || b === c || b === d) continue;
      const crossing = crossingOf(x1, y1, x2, y2, table.x(c), table.y(c), table.x(d), table.y(d));
      if (!crossing) continue;
      const node = table.take(...crossing);
      split(key, node);
      split(other, node);
    }
  }
  // a node that is new may lie beside an edge that had nothing to do with it
  for (let node = known; node < table.count; node++) {
    const [x, y] = [table.x(node), table.y(node)];
    for (const at of boxes.search(x - within, y - within, x + within, y + within)) {
      const [a, b] = nodesOf(all[at]!);
      if (isBeside(table, node, a, b, within)) split(all[at]!, node);
    }
  }
  const next = new Set<number>();
  for (const [key, nodes] of splits) {
    edges.delete(key);
    const [a, b] = nodesOf(key);
    const [x1, y1] = [table.x(a), table.y(a)];
    const [dx, dy] = [table.x(b) - x1, table.y(b) - y1];
    const along = (n: number): number => (table.x(n) - x1) * dx + (table.y(n) - y1) * dy;
    const chain = [a, ...[...nodes].sort((p, q) => along(p) - along(q) || p - q), b];
    let off = 0;
    for (const n of nodes) off = Math.max(off, segmentDistance(x1, y1, table.x(b), table.y(b), table.x(n), table.y(n)));
    const moved = moves.of(key) + off;
    for (let k = 1; k < chain.length; k++) {
      const piece = keyOf(chain[k - 1]!, chain[k]!);
      moves.add(piece, moved);
      if (edges.has(piece)) continue;
      edges.add(piece);
      next.add(piece);
    }
  }
  return next;
}

/** Whether a node lies so near to the inside of an edge that the edge goes through it. */
function isBeside(table: NodeTable, node: number, a: number, b: number, within: number): boolean {
  if (node === a || node === b) return false;
  const [x1, y1, x2, y2, x, y] = [table.x(a), table.y(a), table.x(b), table.y(b), table.x(node), table.y(node)];
  const [dx, dy] = [x2 - x1, y2 - y1];
  const t = (x - x1) * dx + (y - y1) * dy;
  return t > 0 && t < dx * dx + dy * dy && segmentDistance(x1, y1, x2, y2, x, y) <= within;
}
