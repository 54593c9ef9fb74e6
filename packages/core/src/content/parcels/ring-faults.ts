import Flatbush from 'flatbush';
import { crossingOf } from '../../geometry/segment-crossing';
import { turn } from '../../geometry/turn';

type XY = [number, number];

/** What is wrong with the outline of one area. */
export interface RingFault {
  kind: 'self-crossing' | 'self-touch' | 'spike' | 'repeated-vertex' | 'collapsed';
  at: XY;
  /** Length of a spike; null for others. */
  length: number | null;
}

/**
 * What is wrong with the rings of an area, each taken with the others: sides that cross or run along each other, corners that are met
 * twice, spikes, vertices that are repeated, and rings of fewer than three corners. Source of what an outline may not do: OGC 06-103r4, "Simple feature access", 6.1.11.1.
 * @param rings x and y of corners by twos, the first repeated at the end
 */
export function ringFaults(rings: readonly (readonly number[])[]): RingFault[] {
  const out: RingFault[] = [];
  const sides: Side[] = [];
  rings.forEach((ring, r) => {
    const corners = cornersOf(ring, out);
    if (corners.length < 3) out.push({ kind: 'collapsed', at: corners[0]!, length: null });
    spikesOf(corners, out);
    corners.forEach((a, k) => sides.push({ ring: r, k, last: corners.length - 1, a, b: corners[(k + 1) % corners.length]! }));
  });
  if (sides.length < 2) return out;
  const boxes = new Flatbush(sides.length);
  for (const { a, b } of sides) boxes.add(Math.min(a[0], b[0]), Math.min(a[1], b[1]), Math.max(a[0], b[0]), Math.max(a[1], b[1]));
  boxes.finish();
  // two sides meet in a corner that is met twice, four of them
  const told = new Set<string>();
  const tell = (kind: RingFault['kind'], at: XY): void => {
    if (told.has(at.join())) return;
    told.add(at.join());
    out.push({ kind, at, length: null });
  };
  sides.forEach((one, n) => {
    const [a, b] = [one.a, one.b];
    const near = boxes.search(Math.min(a[0], b[0]), Math.min(a[1], b[1]), Math.max(a[0], b[0]), Math.max(a[1], b[1]), (m) => m > n);
    for (const m of near) {
      const other = sides[m]!;
      const at = crossing(one, other);
      if (at) tell('self-crossing', at);
      else if (one.ring === other.ring && !follow(one, other) && same(one.a, other.a)) tell('self-touch', one.a);
    }
  });
  return out;
}

interface Side {
  ring: number;
  k: number;
  last: number;
  a: XY;
  b: XY;
}

const same = (p: XY, q: XY): boolean => p[0] === q[0] && p[1] === q[1];

/** Whether two sides come one after the other. */
const follow = (p: Side, q: Side): boolean =>
  p.ring === q.ring && (Math.abs(p.k - q.k) === 1 || (Math.min(p.k, q.k) === 0 && Math.max(p.k, q.k) === p.last));

/** The corners of a ring without the first one again; those that are there twice in a row are told, and are one. */
function cornersOf(ring: readonly number[], out: RingFault[]): XY[] {
  const corners: XY[] = [];
  for (let k = 0; k + 3 < ring.length; k += 2) {
    const corner: XY = [ring[k]!, ring[k + 1]!];
    if (corners.length > 0 && same(corners.at(-1)!, corner)) out.push({ kind: 'repeated-vertex', at: corner, length: null });
    else corners.push(corner);
  }
  while (corners.length > 1 && same(corners[0]!, corners.at(-1)!)) out.push({ kind: 'repeated-vertex', at: corners.pop()!, length: null });
  return corners;
}

/** Corners at which an outline turns back along the line that it came on. */
function spikesOf(corners: readonly XY[], out: RingFault[]): void {
  const n = corners.length;
  corners.forEach((at, k) => {
    const [before, after] = [corners[(k + n - 1) % n]!, corners[(k + 1) % n]!];
    const forward = (at[0] - before[0]) * (after[0] - at[0]) + (at[1] - before[1]) * (after[1] - at[1]);
    if (n < 3 || forward >= 0 || turn(...before, ...at, ...after) !== 0) return;
    const length = Math.min(Math.hypot(at[0] - before[0], at[1] - before[1]), Math.hypot(at[0] - after[0], at[1] - after[1]));
    out.push({ kind: 'spike', at, length });
  });
}

/** Where two sides cross, or run along each other; null where they have no more than an end in common. */
function crossing(p: Side, q: Side): XY | null {
  const [a, b, c, d] = [p.a, p.b, q.a, q.b];
  const [t1, t2, t3, t4] = [turn(...a, ...b, ...c), turn(...a, ...b, ...d), turn(...c, ...d, ...a), turn(...c, ...d, ...b)];
  if (t1 === 0 && t2 === 0) return follow(p, q) ? null : along(a, b, c, d);
  // a corner within a side of the same ring: the outline meets itself there, whether it goes through or not
  if (p.ring === q.ring)
    for (const [v, t, from, to] of [[c, t1, a, b] as const, [d, t2, a, b] as const, [a, t3, c, d] as const, [b, t4, c, d] as const])
      if (t === 0 && !same(v, from) && !same(v, to) && between(from, to, v)) return v;
  return crossingOf(...a, ...b, ...c, ...d);
}

const between = (a: XY, b: XY, v: XY): boolean => (v[0] - a[0]) * (v[0] - b[0]) <= 0 && (v[1] - a[1]) * (v[1] - b[1]) <= 0;

/** The middle of what two sides on one line have in common; null where that is a point at most. */
function along(a: XY, b: XY, c: XY, d: XY): XY | null {
  const axis = Math.abs(b[0] - a[0]) > Math.abs(b[1] - a[1]) ? 0 : 1;
  const low = Math.max(Math.min(a[axis], b[axis]), Math.min(c[axis], d[axis])),
    high = Math.min(Math.max(a[axis], b[axis]), Math.max(c[axis], d[axis]));
  if (low >= high) return null;
  const t = ((low + high) / 2 - a[axis]) / (b[axis] - a[axis]);
  return [a[0] + t * (b[0] - a[0]), a[1] + t * (b[1] - a[1])];
}
