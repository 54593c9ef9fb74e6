import { followCurve, sizeOf, Spline } from '../../geometry/curve';

/** A boundary of a HATCH in the frame of the entity: x, y, bulge of each vertex; closed. */
export type Loop = number[];

const POLYLINE_PATH = 2;

/** Steps through the groups of an entity in their order. */
class Groups {
  at = 0;
  constructor(private readonly raw: readonly number[]) {}

  /** The value of the next group with this code, which must come next but for codes of no interest. */
  next(code: number): number | null {
    for (let i = this.at; i < this.raw.length; i += 2) {
      if (this.raw[i] === code) {
        this.at = i + 2;
        return this.raw[i + 1]!;
      }
    }
    return null;
  }

  /** The value of the code if it comes next. */
  maybe(code: number): number | null {
    if (this.raw[this.at] !== code) return null;
    this.at += 2;
    return this.raw[this.at - 1]!;
  }
}

/**
 * The boundaries of a HATCH, with curved edges followed by arcs. Source: DXF Reference, HATCH, "Boundary path data".
 * @param raw group codes and numbers by turns, from the whole entity
 * @param tolerance share of a curve's own size
 * @returns null when a path breaks off or names an edge that there is not
 */
export function hatchLoops(raw: readonly number[], tolerance: number): Loop[] | null {
  const groups = new Groups(raw);
  const paths = groups.next(91);
  if (paths === null || paths > 100_000) return null;
  const loops: Loop[] = [];
  for (let p = 0; p < paths; p++) {
    const flags = groups.next(92);
    if (flags === null) return null;
    const loop = flags & POLYLINE_PATH ? polylinePath(groups) : edgePath(groups, tolerance);
    if (!loop) return null;
    if (loop.length > 3) loops.push(loop);
  }
  return loops;
}

function polylinePath(groups: Groups): Loop | null {
  const bulged = groups.next(72),
    count = groups.next(93);
  if (count === null) return null;
  const loop: Loop = [];
  for (let k = 0; k < count; k++) {
    const x = groups.next(10),
      y = groups.next(20);
    if (x === null || y === null) return null;
    loop.push(x, y, bulged ? (groups.maybe(42) ?? 0) : 0);
  }
  return loop;
}

/** Draws an edge into a loop; the end of its last piece is the start of the next edge. */
const EDGES: Record<number, (groups: Groups, loop: Loop, tolerance: number) => boolean> = {
  1(groups, loop) {
    const [x, y] = [groups.next(10), groups.next(20)];
    if (x === null || y === null) return false;
    loop.push(x, y, 0);
    groups.next(11);
    return groups.next(21) !== null;
  },
  2(groups, loop) {
    const [x, y, r, a, b, forward] = [groups.next(10), groups.next(20), groups.next(40), groups.next(50), groups.next(51), groups.next(73)];
    if (x === null || y === null || r === null || a === null || b === null || forward === null) return false;
    const [a0, sweep] = sweepOf(a, b, forward !== 0);
    const pieces = Math.abs(sweep) > Math.PI ? 2 : 1;
    for (let k = 0; k < pieces; k++) {
      const t = a0 + (sweep * k) / pieces;
      loop.push(x + r * Math.cos(t), y + r * Math.sin(t), Math.tan(sweep / pieces / 4));
    }
    return true;
  },
  3(groups, loop, tolerance) {
    const [x, y, mx, my, ratio, a, b, forward] = [
      groups.next(10),
      groups.next(20),
      groups.next(11),
      groups.next(21),
      groups.next(40),
      groups.next(50),
      groups.next(51),
      groups.next(73),
    ];
    if (x === null || y === null || mx === null || my === null || ratio === null || a === null || b === null || forward === null)
      return false;
    const [a0, sweep] = sweepOf(a, b, forward !== 0);
    // angles of an ellipse edge are parameters of the ellipse
    const quarters = Math.max(1, Math.ceil(Math.abs(sweep) / (Math.PI / 2)));
    const point = (t: number, out: Float64Array): void => {
      out[0] = x + mx * Math.cos(t) - my * ratio * Math.sin(t);
      out[1] = y + my * Math.cos(t) + mx * ratio * Math.sin(t);
      out[2] = 0;
    };
    for (let k = 0; k < quarters; k++)
      followCurve(
        point,
        a0 + (sweep * k) / quarters,
        a0 + (sweep * (k + 1)) / quarters,
        tolerance * Math.hypot(mx, my),
        (px, py, _z, bulge) => loop.push(px, py, bulge),
      );
    return true;
  },
  4(groups, loop, tolerance) {
    const [degree, rational] = [groups.next(94), groups.next(73)];
    const [knotCount, pointCount] = [groups.next(95), groups.next(96)];
    if (degree === null || knotCount === null || pointCount === null || knotCount + pointCount > 1e6) return false;
    const knots: number[] = [],
      points: number[] = [],
      weights: number[] = [];
    for (let k = 0; k < knotCount; k++) knots.push(groups.next(40) ?? NaN);
    for (let k = 0; k < pointCount; k++) {
      points.push(groups.next(10) ?? NaN, groups.next(20) ?? NaN, 0);
      if (rational) weights.push(groups.maybe(42) ?? 1);
    }
    const spline = new Spline(degree, knots, points, weights);
    if (!spline.sound || points.some(Number.isNaN)) return false;
    spline.follow(tolerance * sizeOf(points, 3), (x, y, _z, bulge) => loop.push(x, y, bulge));
    return true;
  },
};

function edgePath(groups: Groups, tolerance: number): Loop | null {
  const edges = groups.next(93);
  if (edges === null) return null;
  const loop: Loop = [];
  for (let k = 0; k < edges; k++) {
    const type = groups.next(72);
    if (type === null || !EDGES[type]?.(groups, loop, tolerance)) return null;
  }
  return loop;
}

/** Start and signed sweep, radians, of degrees that are counted clockwise where the edge runs so. */
function sweepOf(start: number, end: number, forward: boolean): [number, number] {
  const rad = Math.PI / 180;
  let sweep = (end - start) % 360;
  if (sweep <= 0) sweep += 360;
  return forward ? [start * rad, sweep * rad] : [-start * rad, -sweep * rad];
}
