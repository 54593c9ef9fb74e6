import { arcOf } from './arc';

/** Gets a vertex with the bulge of the arc that leads to the next one. */
export type Emit = (x: number, y: number, z: number, bulge: number) => void;

/** A point of a curve at a parameter, into `out`. */
export type CurvePoint = (t: number, out: Float64Array) => void;

/** Halvings at most: errors shrink eightfold with each, so that a curve that does not fit by then has a jump, or is no curve. */
const DEEPEST = 12;
/** Heights run evenly along a piece; they may stand off by so many tolerances, or a helix would fall to pieces by the thousand. */
const HEIGHTS = 50;
/** Share of the coordinates themselves below which distances are rounding. */
const ROUNDING = 4e-15;

/**
 * Follows a curve by circular arcs, each through its ends and its middle, halved until its quarters lie within `tolerance` of
 * the arc and heights change evenly. The last point is left to the caller.
 * @param tolerance in the unit of the coordinates
 */
export function followCurve(point: CurvePoint, from: number, to: number, tolerance: number, emit: Emit): void {
  const p0 = new Float64Array(3),
    p1 = new Float64Array(3);
  point(from, p0);
  point(to, p1);
  const largest = Math.max(...[p0, p1].flatMap((p) => [Math.abs(p[0]!), Math.abs(p[1]!), Math.abs(p[2]!)]));
  follow(point, from, p0, to, p1, Math.max(tolerance, ROUNDING * largest), emit, 0);
}

function follow(
  point: CurvePoint,
  t0: number,
  p0: Float64Array,
  t1: number,
  p1: Float64Array,
  tolerance: number,
  emit: Emit,
  depth: number,
): void {
  const tm = (t0 + t1) / 2;
  const pm = new Float64Array(3),
    q = new Float64Array(3);
  point(tm, pm);
  const ax = pm[0]! - p0[0]!,
    ay = pm[1]! - p0[1]!,
    bx = p1[0]! - pm[0]!,
    by = p1[1]! - pm[1]!;
  // half of the arc's sweep is the turn from one half chord to the other
  const turn = Math.atan2(ax * by - ay * bx, ax * bx + ay * by);
  if (depth < DEEPEST && Number.isFinite(turn)) {
    let fits = Math.abs(turn) < Math.PI / 4;
    const bulge = Math.tan(turn / 2);
    for (const t of [(t0 + tm) / 2, (tm + t1) / 2]) {
      if (!fits) break;
      point(t, q);
      const even = p0[2]! + ((p1[2]! - p0[2]!) * (t - t0)) / (t1 - t0);
      fits = offArc(p0, p1, bulge, q) <= tolerance && Math.abs(q[2]! - even) <= HEIGHTS * tolerance;
    }
    if (!fits) {
      follow(point, t0, p0, tm, pm, tolerance, emit, depth + 1);
      follow(point, tm, pm, t1, p1, tolerance, emit, depth + 1);
      return;
    }
  }
  emit(p0[0]!, p0[1]!, p0[2]!, Math.abs(turn) < 1e-9 || Math.abs(turn) > 3 || !Number.isFinite(turn) ? 0 : Math.tan(turn / 2));
}

/** Distance of a point from an arc's circle, or from its chord where it hardly bends. */
function offArc(p0: Float64Array, p1: Float64Array, bulge: number, q: Float64Array): number {
  const dx = p1[0]! - p0[0]!,
    dy = p1[1]! - p0[1]!;
  const chord = Math.hypot(dx, dy);
  if (chord === 0) return Math.hypot(q[0]! - p0[0]!, q[1]! - p0[1]!);
  if (Math.abs(bulge) < 1e-6) return Math.abs(((q[0]! - p0[0]!) * dy - (q[1]! - p0[1]!) * dx) / chord);
  const { cx, cy, radius } = arcOf(p0[0]!, p0[1]!, p1[0]!, p1[1]!, bulge);
  return Math.abs(Math.hypot(q[0]! - cx, q[1]! - cy) - radius);
}

/** A rational B-spline: de Boor's recursion in homogeneous coordinates. L. Piegl, W. Tiller, The NURBS Book, algorithms A3.1 and A4.1. */
export class Spline {
  /**
   * @param points x, y, z of each control point
   * @param weights one a control point; empty where all are 1
   */
  constructor(
    readonly degree: number,
    readonly knots: readonly number[],
    readonly points: readonly number[],
    readonly weights: readonly number[],
  ) {}

  get count(): number {
    return this.points.length / 3;
  }

  /** Whether there are as many knots as the degree and the control points ask for, none smaller than the one before. */
  get sound(): boolean {
    return (
      this.degree >= 1 &&
      this.degree <= 30 &&
      this.count > this.degree &&
      this.knots.length === this.count + this.degree + 1 &&
      this.knots.every((k, i) => i === 0 || k >= this.knots[i - 1]!) &&
      this.end > this.start
    );
  }

  get start(): number {
    return this.knots[this.degree]!;
  }

  get end(): number {
    return this.knots[this.count]!;
  }

  point(t: number, out: Float64Array): void {
    const { degree: p, knots, points, weights } = this;
    // the last span whose first knot is not beyond t
    let span = p,
      beyond = this.count;
    while (beyond - span > 1) {
      const middle = (span + beyond) >> 1;
      if (t >= knots[middle]!) span = middle;
      else beyond = middle;
    }
    const d = new Float64Array(4 * (p + 1));
    for (let j = 0; j <= p; j++) {
      const k = span - p + j;
      const w = weights[k] ?? 1;
      d[4 * j] = points[3 * k]! * w;
      d[4 * j + 1] = points[3 * k + 1]! * w;
      d[4 * j + 2] = points[3 * k + 2]! * w;
      d[4 * j + 3] = w;
    }
    for (let r = 1; r <= p; r++) {
      for (let j = p; j >= r; j--) {
        const k = span - p + j;
        const low = knots[k]!,
          width = knots[k + p - r + 1]! - low;
        const a = width === 0 ? 0 : (t - low) / width;
        for (let c = 0; c < 4; c++) d[4 * j + c] = (1 - a) * d[4 * (j - 1) + c]! + a * d[4 * j + c]!;
      }
    }
    const w = d[4 * p + 3]!;
    for (let c = 0; c < 3; c++) out[c] = d[4 * p + c]! / w;
  }

  /** Follows the whole curve, one knot span after the other; the last point is left to the caller. */
  follow(tolerance: number, emit: Emit): void {
    for (let i = this.degree; i < this.count; i++) {
      const a = this.knots[i]!,
        b = this.knots[i + 1]!;
      if (b > a) {
        const m = (a + b) / 2; // the middle of a span may lie on its chord while its quarters do not
        followCurve((t, out) => this.point(t, out), a, m, tolerance, emit);
        followCurve((t, out) => this.point(t, out), m, b, tolerance, emit);
      }
    }
  }
}

/** Largest extent of some points, for tolerances that grow with what is drawn. */
export function sizeOf(points: readonly number[], stride: number): number {
  let size = 0;
  for (let c = 0; c < 2; c++) {
    let low = Infinity,
      high = -Infinity;
    for (let i = c; i < points.length; i += stride) {
      low = Math.min(low, points[i]!);
      high = Math.max(high, points[i]!);
    }
    size = Math.max(size, high - low);
  }
  return size;
}
