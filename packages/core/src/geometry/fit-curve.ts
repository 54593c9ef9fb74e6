import { type Emit, followCurve } from './curve';

type Vector = [number, number, number];

const minus = (a: Vector, b: Vector): Vector => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
const size = (a: Vector): number => Math.hypot(...a);
const cross = (a: Vector, b: Vector): number => Math.hypot(a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]);

/**
 * The directions at the ends of a curve through points, from the chords near them.
 * Source: L. Piegl, W. Tiller, The NURBS Book, equations 9.29, 9.31 and 9.32 (five points), with both chords alike where the points lie on a line.
 */
function endDirections(points: readonly Vector[]): [Vector, Vector] {
  const n = points.length;
  const chords = Array.from({ length: n - 1 }, (_, k) => minus(points[k + 1]!, points[k]!));
  const beyond = (near: Vector, next: Vector): Vector => [2 * near[0] - next[0], 2 * near[1] - next[1], 2 * near[2] - next[2]];
  const at = (q: readonly [Vector, Vector, Vector, Vector]): Vector => {
    const v1 = cross(q[0], q[1]),
      v2 = cross(q[2], q[3]);
    const a = v1 + v2 === 0 ? 0.5 : v1 / (v1 + v2);
    return [0, 1, 2].map((k) => (1 - a) * q[1][k]! + a * q[2][k]!) as Vector;
  };
  const first = chords[0]!,
    second = chords[1]!,
    last = chords[n - 2]!,
    fore = chords[n - 3]!;
  const before = beyond(first, second),
    wayBefore = beyond(before, first);
  const after = beyond(last, fore),
    wayAfter = beyond(after, last);
  return [at([wayBefore, before, first, second]), at([fore, last, after, wayAfter])];
}

/**
 * Follows the cubic curve with even bending through points, its parameter the length of the chords and its ends in the given directions.
 * Source: The NURBS Book, section 9.2.2, here by the slopes at the points (the same curve). The last point is left to the caller.
 * @param points x, y, z of each
 * @param ends directions at the ends; null where they are to be found from the points
 */
export function followThrough(
  points: readonly number[],
  ends: readonly [Vector | null, Vector | null],
  tolerance: number,
  emit: Emit,
): void {
  const p: Vector[] = [];
  for (let k = 0; k + 2 < points.length; k += 3) {
    const q: Vector = [points[k]!, points[k + 1]!, points[k + 2]!];
    if (p.length === 0 || size(minus(q, p[p.length - 1]!)) > 0) p.push(q);
  }
  if (p.length < 3) {
    if (p.length > 0) emit(...p[0]!, 0);
    return;
  }
  const found = endDirections(p);
  const unit = (v: Vector): Vector => v.map((c) => c / (size(v) || 1)) as Vector;
  const n = p.length - 1;
  const h = Array.from({ length: n }, (_, k) => size(minus(p[k + 1]!, p[k]!)));
  const slopes: Vector[] = [
    unit(ends[0] ?? found[0]),
    ...Array.from({ length: n - 1 }, (): Vector => [0, 0, 0]),
    unit(ends[1] ?? found[1]),
  ];
  // the second derivative goes through every point evenly: a band of three, solved from one end and back
  const factor = new Float64Array(n + 1);
  for (let k = 1; k < n; k++) {
    const low = h[k]!,
      high = h[k - 1]!;
    const pivot = 2 * (low + high) - low * factor[k - 1]!;
    factor[k] = k < n - 1 ? high / pivot : 0;
    for (let c = 0; c < 3; c++) {
      const right =
        3 * ((low * (p[k]![c]! - p[k - 1]![c]!)) / h[k - 1]! + (high * (p[k + 1]![c]! - p[k]![c]!)) / h[k]!) -
        (k === n - 1 ? high * slopes[n]![c]! : 0);
      slopes[k]![c] = (right - low * slopes[k - 1]![c]!) / pivot;
    }
  }
  for (let k = n - 2; k >= 1; k--) for (let c = 0; c < 3; c++) slopes[k]![c]! -= factor[k]! * slopes[k + 1]![c]!;
  for (let k = 0; k < n; k++) {
    const [a, b, m0, m1, d] = [p[k]!, p[k + 1]!, slopes[k]!, slopes[k + 1]!, h[k]!];
    const point = (t: number, out: Float64Array): void => {
      const u = 1 - t;
      for (let c = 0; c < 3; c++)
        out[c] = a[c]! * u * u * (1 + 2 * t) + b[c]! * t * t * (3 - 2 * t) + d * (m0[c]! * t * u * u - m1[c]! * t * t * u);
    };
    followCurve(point, 0, 0.5, tolerance, emit);
    followCurve(point, 0.5, 1, tolerance, emit);
  }
}
