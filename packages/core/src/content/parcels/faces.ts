import Flatbush from 'flatbush';
import { emptyBounds, growAlong } from '../../geometry/bounds';
import { ringArea2 } from '../../geometry/ring-area';
import { ringHolds } from '../../geometry/ring-holds';
import { turn } from '../../geometry/turn';
import type { Linework } from './node-linework';

/** An area between lines: corners as x and y by twos, the first repeated at the end; the shell runs counter-clockwise, holes clockwise. */
export interface Face {
  shell: Float64Array;
  holes: Float64Array[];
}

/** Edges that bound no area: a chain with a loose end, or one that leads from one part of the lines to another. */
export interface LooseEnd {
  /** Where the loose end is, or the middle of an edge that has none. */
  at: [number, number];
  length: number;
}

/** What lines make in the plane. */
export interface Faces {
  faces: Face[];
  /** Chains of lines that end somewhere without meeting another one. */
  dangles: LooseEnd[];
  /** Edges with the same area on both sides that have no loose end. */
  bridges: LooseEnd[];
}

/**
 * The areas that lines enclose, each point of the plane within the lines being in just one. A half-edge `2e` runs along edge `e`, `2e + 1`
 * against it. Method: faces of a plane graph by turning clockwise at each node, rings cut where they touch themselves; de Berg et al.,
 * "Computational Geometry", third edition, section 2.2 (the doubly connected edge list).
 */
export function facesOf({ nodes, edges }: Linework): Faces {
  const alive = new Uint8Array(edges.length / 2).fill(1);
  const dangles = peel(nodes, edges, alive);
  let walks = walksOf(nodes, edges, alive);
  const bridges: LooseEnd[] = [];
  // edges with one face on both sides bound nothing; without them there are no others
  for (let e = 0; e < alive.length; e++)
    if (alive[e] && walks.of[2 * e] === walks.of[2 * e + 1]) {
      const [a, b] = [edges[2 * e]!, edges[2 * e + 1]!];
      bridges.push({
        at: [(nodes[2 * a]! + nodes[2 * b]!) / 2, (nodes[2 * a + 1]! + nodes[2 * b + 1]!) / 2],
        length: lengthOf(nodes, a, b),
      });
      alive[e] = 0;
    }
  if (bridges.length > 0) walks = walksOf(nodes, edges, alive);
  return { faces: nested(nodes, walks.rings), dangles, bridges };
}

const lengthOf = (nodes: Float64Array, a: number, b: number): number =>
  Math.hypot(nodes[2 * b]! - nodes[2 * a]!, nodes[2 * b + 1]! - nodes[2 * a + 1]!);

/** The half-edges that leave each node: of node n those from `first[n]` up to `first[n + 1]`. */
function leaving(count: number, edges: Uint32Array, alive: Uint8Array): { first: Uint32Array; halves: Uint32Array } {
  const first = new Uint32Array(count + 1);
  for (let h = 0; h < edges.length; h++) if (alive[h >> 1]) first[edges[h]! + 1]!++;
  for (let n = 0; n < count; n++) first[n + 1]! += first[n]!;
  const halves = new Uint32Array(first[count]!);
  const at = first.slice();
  for (let h = 0; h < edges.length; h++) if (alive[h >> 1]) halves[at[edges[h]!]!++] = h;
  return { first, halves };
}

/** Takes edges with a loose end away, until there is none. */
function peel(nodes: Float64Array, edges: Uint32Array, alive: Uint8Array): LooseEnd[] {
  const { first, halves } = leaving(nodes.length / 2, edges, alive);
  const degree = new Uint32Array(nodes.length / 2);
  for (let n = 0; n < degree.length; n++) degree[n] = first[n + 1]! - first[n]!;
  const out: LooseEnd[] = [];
  for (let end = 0; end < degree.length; end++) {
    let node = end;
    let length = 0;
    while (degree[node] === 1) {
      let half = -1;
      for (let k = first[node]!; k < first[node + 1]!; k++) if (alive[halves[k]! >> 1]) half = halves[k]!;
      alive[half >> 1] = 0;
      const to = edges[half ^ 1]!;
      degree[node]!--;
      degree[to]!--;
      length += lengthOf(nodes, node, to);
      node = to;
    }
    if (length > 0) out.push({ at: [nodes[2 * end]!, nodes[2 * end + 1]!], length });
  }
  return out;
}

/** A ring by its nodes, without the first one again; twice its signed area; which face's border it is part of, and which part of the lines. */
interface Ring {
  nodes: Uint32Array;
  area2: number;
  walk: number;
  part: number;
}

/** The borders of all faces, each half-edge with the one that has it on its left. */
function walksOf(nodes: Float64Array, edges: Uint32Array, alive: Uint8Array): { rings: Ring[]; of: Int32Array } {
  const count = nodes.length / 2;
  const { first, halves } = leaving(count, edges, alive);
  const place = new Uint32Array(edges.length);
  for (let n = 0; n < count; n++) {
    const own = halves.subarray(first[n]!, first[n + 1]!);
    own.sort((p, q) => byAngle(nodes, n, edges[p ^ 1]!, edges[q ^ 1]!));
    own.forEach((h, k) => (place[h] = first[n]! + k));
  }
  /** The half-edge that goes on with the same face on its left: the next one clockwise from the way back. */
  const onward = (half: number): number => {
    const back = half ^ 1;
    const n = edges[back]!;
    const at = place[back]!;
    return halves[at === first[n]! ? first[n + 1]! - 1 : at - 1]!;
  };
  const parts = partsOf(count, edges, alive);
  const of = new Int32Array(edges.length).fill(-1);
  const rings: Ring[] = [];
  /** Where a node stands in the ring that is being walked; -1 where it does not. */
  const standing = new Int32Array(count).fill(-1);
  let walk = 0;
  for (let start = 0; start < edges.length; start++) {
    if (!alive[start >> 1] || of[start] !== -1) continue;
    const stack: number[] = [];
    let half = start;
    do {
      of[half] = walk;
      const n = edges[half]!;
      if (standing[n]! >= 0) cutOff(stack, n, walk);
      standing[n] = stack.length;
      stack.push(n);
      half = onward(half);
    } while (half !== start);
    cutOff(stack, stack[0]!, walk);
    walk++;
  }
  return { rings, of };

  /** What was walked since a node is a ring of its own when the walk is there again. */
  function cutOff(stack: number[], n: number, walk: number): void {
    const own = stack.splice(standing[n]!);
    for (const other of own) standing[other] = -1;
    // there and back again encloses nothing
    if (own.length < 3) return;
    rings.push({ nodes: Uint32Array.from(own), area2: areaOf(nodes, own), walk, part: parts[n]! });
  }
}

/** The order of two ways from a node, counter-clockwise from the east, to the last digit. */
function byAngle(nodes: Float64Array, n: number, p: number, q: number): number {
  const [x, y] = [nodes[2 * n]!, nodes[2 * n + 1]!];
  const upper = (k: number): boolean => nodes[2 * k + 1]! > y || (nodes[2 * k + 1]! === y && nodes[2 * k]! > x);
  const [a, b] = [upper(p), upper(q)];
  if (a !== b) return a ? -1 : 1;
  return -turn(x, y, nodes[2 * p]!, nodes[2 * p + 1]!, nodes[2 * q]!, nodes[2 * q + 1]!);
}

/** Which connected part of the lines each node belongs to. */
function partsOf(count: number, edges: Uint32Array, alive: Uint8Array): Uint32Array {
  const up = new Uint32Array(count);
  for (let n = 0; n < count; n++) up[n] = n;
  const root = (n: number): number => {
    while (up[n] !== n) n = up[n] = up[up[n]!]!;
    return n;
  };
  for (let e = 0; e < alive.length; e++) if (alive[e]) up[root(edges[2 * e]!)] = root(edges[2 * e + 1]!);
  for (let n = 0; n < count; n++) up[n] = root(n);
  return up;
}

/** x and y of a ring's corners by twos, the first repeated at the end. */
function cornersOf(nodes: Float64Array, ring: ArrayLike<number>): Float64Array {
  const out = new Float64Array(2 * ring.length + 2);
  for (let k = 0; k <= ring.length; k++) {
    const n = ring[k % ring.length]!;
    out[2 * k] = nodes[2 * n]!;
    out[2 * k + 1] = nodes[2 * n + 1]!;
  }
  return out;
}

function areaOf(nodes: Float64Array, ring: ArrayLike<number>): number {
  const corners = cornersOf(nodes, ring);
  return ringArea2(corners, 0, corners.length / 2, 2);
}

/** The boxes of faces, to be searched, by their number. @param faces one at the least */
export function boxesOf(faces: readonly Face[]): Flatbush {
  const boxes = new Flatbush(faces.length);
  for (const { shell } of faces) {
    const box = emptyBounds();
    growAlong(box, shell);
    boxes.add(...box);
  }
  boxes.finish();
  return boxes;
}

/** Shells with their holes: rings of the same border, and the outer borders of parts that lie within. */
function nested(nodes: Float64Array, rings: readonly Ring[]): Face[] {
  const shells = rings.filter((r) => r.area2 > 0);
  const faces = shells.map((r): Face => ({ shell: cornersOf(nodes, r.nodes), holes: [] }));
  if (shells.length === 0) return faces;
  const ofWalk = new Map(shells.map((r, k) => [r.walk, k]));
  const boxes = boxesOf(faces);
  for (const ring of rings) {
    if (ring.area2 >= 0) continue;
    let within = ofWalk.get(ring.walk);
    if (within === undefined) {
      const [x, y] = [nodes[2 * ring.nodes[0]!]!, nodes[2 * ring.nodes[0]! + 1]!];
      // lines of another part never touch: a corner lies in or out
      for (const k of boxes.search(x, y, x, y)) {
        const { part, area2 } = shells[k]!;
        const { shell } = faces[k]!;
        if (part !== ring.part && (within === undefined || area2 < shells[within]!.area2) && ringHolds(shell, 0, shell.length / 2, x, y, 2))
          within = k;
      }
    }
    if (within !== undefined) faces[within]!.holes.push(cornersOf(nodes, ring.nodes));
  }
  return faces;
}
