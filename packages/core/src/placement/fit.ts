import { Problem } from '../model/problem';
import { rubberSheet } from './rubber-sheet';
import { leastSquares } from './solve';

/** Ways in which a source is fitted to control points, the stiffer ones first. */
export const FIT_KINDS = ['similarity', 'rigid', 'affine', 'second-order', 'projective', 'rubber-sheet'] as const;
export type FitKind = (typeof FIT_KINDS)[number];

/** A mark of the source and the position that it has in the frame. */
export interface ControlPair {
  from: readonly [number, number];
  to: readonly [number, number];
  name?: string | undefined;
  /** Left out of the fit; its residual is told all the same. */
  out?: boolean | undefined;
}

/** What a fit of a kind needs and is called. */
export const FITS: Record<FitKind, { name: string; points: number; note: string }> = {
  similarity: { name: 'Similarity', points: 2, note: 'shift, turn and one scale' },
  rigid: { name: 'Similarity without scale', points: 2, note: 'shift and turn; lengths stay' },
  affine: { name: 'Affine', points: 3, note: 'scales and skew of its own in each direction' },
  'second-order': { name: 'Second-order polynomial', points: 6, note: 'bends lines; for paper that has warped' },
  projective: { name: 'Projective', points: 4, note: 'a view from aside; lines stay straight' },
  'rubber-sheet': { name: 'Rubber sheet', points: 3, note: 'every mark exactly in its place, stretched between in triangles' },
};

/** A map of the plane in place: `count` points of `stride` numbers from index `start`. */
export type PointMap = (points: Float64Array, start: number, count: number, stride: number) => void;

/** How far a control point lies off after the fit. */
export interface Residual {
  /** Where the fit puts the mark, minus where it is, in frame units. */
  dx: number;
  dy: number;
  d: number;
}

/** A fit worked out: the maps both ways, and how well it holds. */
export interface Fit {
  kind: FitKind;
  forward: PointMap;
  inverse: PointMap;
  /** One a pair, those left out included. */
  residuals: Residual[];
  /** Root mean square of the residuals of the pairs that take part: sqrt(sum d^2 / n). */
  rms: number;
  /** Pairs that take part beyond those that the kind needs; 0 means that nothing checks it. */
  spare: number;
  /** Of the best similarity through the same pairs: frame units a source unit, degrees counterclockwise. */
  scale: number;
  rotation: number;
  /** Relative uncertainty of the scale; Infinity when nothing checks it. */
  scaleSpread: number;
}

/**
 * Fits a map of a kind to pairs by least squares of the residuals in the frame.
 * @throws Problem `fit-too-few`; `fit-collinear` when the marks lie on one line, or in one place
 */
export function fitPairs(kind: FitKind, pairs: readonly ControlPair[]): Fit {
  const used = pairs.filter((p) => !p.out);
  const needed = FITS[kind].points;
  if (used.length < needed)
    throw new Problem(
      'fit-too-few',
      `${FITS[kind].name} needs ${needed} control points; ${used.length} ${used.length === 1 ? 'takes' : 'take'} part. Add ${needed - used.length} more, or choose a simpler kind.`,
    );
  const from = centred(used.map((p) => p.from)),
    to = centred(used.map((p) => p.to));
  if (from.size === 0 || to.size === 0) throw new Problem('fit-collinear', 'All marks lie in one place. Choose marks that lie far apart.');
  const similar = similarity(from, to);
  if (needed >= 3)
    for (const [side, points] of [
      ['source', from],
      ['frame', to],
    ] as const)
      checkSpread(used, points, side, kind);
  const map = MAKERS[kind](from, to, similar, used);
  const { forward, inverse } = placed(map, from, to);
  const p = Float64Array.from(pairs.flatMap((q) => q.from));
  forward(p, 0, pairs.length, 2);
  const residuals = pairs.map((q, i): Residual => {
    const dx = p[2 * i]! - q.to[0],
      dy = p[2 * i + 1]! - q.to[1];
    return { dx, dy, d: Math.hypot(dx, dy) };
  });
  const squares = residuals.reduce((sum, r, i) => (pairs[i]!.out ? sum : sum + r.d * r.d), 0);
  const scale = (Math.hypot(similar[0], similar[1]) * to.size) / from.size;
  const freedom = 2 * used.length - 4;
  const simple = simpleResiduals(from, to, similar);
  return {
    kind,
    forward,
    inverse,
    residuals,
    rms: Math.sqrt(squares / used.length),
    spare: used.length - needed,
    scale,
    rotation: (Math.atan2(similar[1], similar[0]) * 180) / Math.PI,
    scaleSpread:
      freedom > 0
        ? Math.sqrt(simple / freedom / from.points.reduce((s, [x, y]) => s + x * x + y * y, 0)) / Math.hypot(similar[0], similar[1])
        : Infinity,
  };
}

/** Points about their middle, in units of their own size, so that the equations are well behaved. */
interface Centred {
  x: number;
  y: number;
  size: number;
  points: [number, number][];
}

function centred(points: (readonly [number, number])[]): Centred {
  const x = points.reduce((s, p) => s + p[0], 0) / points.length,
    y = points.reduce((s, p) => s + p[1], 0) / points.length;
  const size = Math.max(...points.map((p) => Math.hypot(p[0] - x, p[1] - y)));
  return { x, y, size, points: points.map((p) => (size === 0 ? [0, 0] : [(p[0] - x) / size, (p[1] - y) / size])) };
}

/** a and b of x' = a x - b y, y' = b x + a y, between centred points, where shifts vanish. */
function similarity(from: Centred, to: Centred): [number, number] {
  let a = 0,
    b = 0,
    n = 0;
  from.points.forEach(([x, y], i) => {
    const [u, v] = to.points[i]!;
    a += x * u + y * v;
    b += x * v - y * u;
    n += x * x + y * y;
  });
  return [a / n, b / n];
}

function simpleResiduals(from: Centred, to: Centred, [a, b]: [number, number]): number {
  return from.points.reduce((s, [x, y], i) => s + (a * x - b * y - to.points[i]![0]) ** 2 + (b * x + a * y - to.points[i]![1]) ** 2, 0);
}

/** Marks nearer to one line than this share of their spread do not hold a fit across the line. */
const THIN = 1e-3;

function checkSpread(pairs: readonly ControlPair[], { points, size }: Centred, side: string, kind: FitKind): void {
  let xx = 0,
    xy = 0,
    yy = 0;
  for (const [x, y] of points) {
    xx += x * x;
    xy += x * y;
    yy += y * y;
  }
  const middle = (xx + yy) / 2,
    half = Math.hypot((xx - yy) / 2, xy);
  const across = Math.sqrt(Math.max(0, middle - half) / points.length),
    along = Math.sqrt((middle + half) / points.length);
  if (across > THIN * along) return;
  const names = pairs.map((p, i) => p.name ?? `${i + 1}`).join(', ');
  throw new Problem(
    'fit-collinear',
    `The marks ${names} lie on one line in the ${side}, within ${(across * size).toPrecision(2)} units of it, so ${FITS[kind].name.toLowerCase()} cannot be told across it. Add a mark aside of the line, or choose a similarity.`,
  );
}

/** A map between centred points. */
interface UnitMap {
  forward(x: number, y: number, out: Float64Array): void;
  inverse(u: number, v: number, out: Float64Array): void;
}

type Maker = (from: Centred, to: Centred, similar: [number, number], pairs: readonly ControlPair[]) => UnitMap;

const MAKERS: Record<FitKind, Maker> = {
  similarity: (_from, _to, [a, b]) => linear(a, -b, b, a),
  rigid(from, to, [a, b]) {
    const k = from.size / to.size / Math.hypot(a, b);
    return linear(a * k, -b * k, b * k, a * k);
  },
  affine: (from, to) => linear(...affine(from, to)),
  'second-order': secondOrder,
  projective,
  'rubber-sheet': (from, to) => rubberSheet(from.points, to.points, affine(from, to)),
};

function linear(a: number, b: number, c: number, d: number): UnitMap {
  const det = a * d - b * c;
  return {
    forward(x, y, out) {
      out[0] = a * x + b * y;
      out[1] = c * x + d * y;
    },
    inverse(u, v, out) {
      out[0] = (d * u - b * v) / det;
      out[1] = (a * v - c * u) / det;
    },
  };
}

/** a, b, c, d of x' = a x + b y, y' = c x + d y. */
function affine(from: Centred, to: Centred): [number, number, number, number] {
  const solve = (k: 0 | 1): Float64Array =>
    leastSquares(
      from.points.map(([x, y]) => Float64Array.of(x, y)),
      Float64Array.from(to.points, (p) => p[k]),
    )!;
  const [u, v] = [solve(0), solve(1)];
  return [u[0]!, u[1]!, v[0]!, v[1]!];
}

function secondOrder(from: Centred, to: Centred): UnitMap {
  const solve = (k: 0 | 1): Float64Array => {
    const found = leastSquares(
      from.points.map(([x, y]) => Float64Array.of(1, x, y, x * x, x * y, y * y)),
      Float64Array.from(to.points, (p) => p[k]),
    );
    if (!found)
      throw new Problem(
        'fit-collinear',
        'The marks lie on one curve of the second order (two lines, a circle), so a second-order polynomial cannot be told from them. Add a mark aside of it.',
      );
    return found;
  };
  const [u, v] = [solve(0), solve(1)];
  const at = (c: Float64Array, x: number, y: number): number =>
    c[0]! + c[1]! * x + c[2]! * y + c[3]! * x * x + c[4]! * x * y + c[5]! * y * y;
  return {
    forward(x, y, out) {
      out[0] = at(u, x, y);
      out[1] = at(v, x, y);
    },
    inverse: (s, t, out) => {
      // Newton's steps from the affine part
      const start = linear(u[1]!, u[2]!, v[1]!, v[2]!);
      start.inverse(s - u[0]!, t - v[0]!, out);
      let [x, y] = [out[0]!, out[1]!];
      for (let round = 0; round < 20; round++) {
        const ex = at(u, x, y) - s,
          ey = at(v, x, y) - t;
        if (Math.abs(ex) + Math.abs(ey) < 1e-15) break;
        const j = linear(
          u[1]! + 2 * u[3]! * x + u[4]! * y,
          u[2]! + u[4]! * x + 2 * u[5]! * y,
          v[1]! + 2 * v[3]! * x + v[4]! * y,
          v[2]! + v[4]! * x + 2 * v[5]! * y,
        );
        j.inverse(ex, ey, out);
        x -= out[0]!;
        y -= out[1]!;
      }
      out[0] = x;
      out[1] = y;
    },
  };
}

function projective(from: Centred, to: Centred): UnitMap {
  const rows: Float64Array[] = [];
  const right: number[] = [];
  from.points.forEach(([x, y], i) => {
    const [u, v] = to.points[i]!;
    rows.push(Float64Array.of(x, y, 1, 0, 0, 0, -x * u, -y * u), Float64Array.of(0, 0, 0, x, y, 1, -x * v, -y * v));
    right.push(u, v);
  });
  let h = leastSquares(
    rows.map((r) => Float64Array.from(r)),
    Float64Array.from(right),
  );
  if (!h)
    throw new Problem(
      'fit-collinear',
      'Three of the marks lie on one line, so a projective fit cannot be told from them. Add a mark aside of the line.',
    );
  // the equations weigh a mark by its distance from the horizon; a few rounds set that right
  for (let round = 0; round < 4; round++) {
    const weights = from.points.map(([x, y]) => 1 / (h![6]! * x + h![7]! * y + 1));
    h =
      leastSquares(
        rows.map((r, i) => r.map((c) => c * weights[i >> 1]!)),
        Float64Array.from(right, (c, i) => c * weights[i >> 1]!),
      ) ?? h;
  }
  const [a, b, c, d, e, f, g, k] = h as unknown as [number, number, number, number, number, number, number, number];
  return {
    forward(x, y, out) {
      const w = g * x + k * y + 1;
      out[0] = w > 0 ? (a * x + b * y + c) / w : NaN;
      out[1] = w > 0 ? (d * x + e * y + f) / w : NaN;
    },
    inverse: (u, v, out) => linear(a - u * g, b - u * k, d - v * g, e - v * k).inverse(u - c, v - f, out),
  };
}

/** The map between the points themselves. */
function placed(map: UnitMap, from: Centred, to: Centred): { forward: PointMap; inverse: PointMap } {
  const out = new Float64Array(2);
  const run =
    (one: UnitMap['forward'], a: Centred, b: Centred): PointMap =>
    (p, start, count, stride) => {
      for (let i = start, end = start + count * stride; i < end; i += stride) {
        one((p[i]! - a.x) / a.size, (p[i + 1]! - a.y) / a.size, out);
        p[i] = b.x + b.size * out[0]!;
        p[i + 1] = b.y + b.size * out[1]!;
      }
    };
  return { forward: run((x, y, o) => map.forward(x, y, o), from, to), inverse: run((u, v, o) => map.inverse(u, v, o), to, from) };
}
