import type { Axes } from '../axes';
import type { Ellipsoid } from '../ellipsoid';
import { RAD } from '../angles';

/**
 * A projection made ready for one set of parameters. Both functions work in place on `n` points of `stride` numbers
 * from index `from`: degrees of longitude (east of the datum's own prime meridian) and latitude on one side, metres of easting and
 * northing (westing and southing where the method is orientated so) on the other. A point that has no image becomes NaN.
 */
export interface Projector {
  forward(points: Float64Array, from: number, n: number, stride: number): void;
  inverse(points: Float64Array, from: number, n: number, stride: number): void;
}

/** One EPSG coordinate operation method. */
export interface Method {
  /** EPSG code. */
  code: number;
  name: string;
  /** EPSG parameter codes that it takes, in the registry's order. */
  parameters: readonly number[];
  /** Which way its numbers grow, where that is not east and north. */
  orientation?: Pick<Axes, 'x' | 'y'>;
  compile(ellipsoid: Ellipsoid, value: (parameter: number) => number): Projector;
}

/** Brings a difference of longitudes, degrees, into [-180, 180]. */
export function wrapDegrees(d: number): number {
  return d > 180 ? d - 360 * Math.ceil((d - 180) / 360) : d < -180 ? d + 360 * Math.ceil((-180 - d) / 360) : d;
}

/**
 * The formula of a method for one point. Forward: radians east of the meridian of origin and radians of latitude to metres
 * from the false origin; inverse: the way back. The result goes to `out[0]` and `out[1]`.
 */
export type Formula = (a: number, b: number, out: Float64Array) => void;

/** A projector of two formulas about a meridian of origin (degrees) and a false origin (metres); `sx` and `sy` are -1 for axes that grow west and south. */
export function projector(
  lon0: number,
  fe: number,
  fn: number,
  forward: Formula,
  inverse: Formula,
  sx: 1 | -1 = 1,
  sy: 1 | -1 = 1,
): Projector {
  const out = new Float64Array(2);
  return {
    forward(p, from, count, stride) {
      for (let i = from, end = from + count * stride; i < end; i += stride) {
        const lat = p[i + 1]!;
        if (!(Math.abs(lat) <= 90 + 1e-12)) {
          p[i] = p[i + 1] = NaN;
          continue;
        }
        forward(wrapDegrees(p[i]! - lon0) * RAD, lat * RAD, out);
        p[i] = fe + sx * out[0]!;
        p[i + 1] = fn + sy * out[1]!;
      }
    },
    inverse(p, from, count, stride) {
      for (let i = from, end = from + count * stride; i < end; i += stride) {
        inverse(sx * (p[i]! - fe), sy * (p[i + 1]! - fn), out);
        p[i] = wrapDegrees(lon0 + out[0]! / RAD);
        p[i + 1] = out[1]! / RAD;
      }
    },
  };
}

/** Steps in radians, small against any curvature and large against rounding, for the derivatives of a formula. */
const STEP = 1e-6;

/**
 * The inverse of a formula that has no closed or well-behaved one, by Newton's method on the forward formula from a first
 * guess. Ends within the last bits or, where the plane point has no origin, with NaN.
 */
export function newtonInverse(forward: Formula, guess: Formula): Formula {
  const at = new Float64Array(2),
    plus = new Float64Array(2),
    minus = new Float64Array(2);
  return (x, y, out) => {
    guess(x, y, out);
    for (let round = 0; round < 20; round++) {
      const lam = out[0]!,
        phi = out[1]!;
      forward(lam, phi, at);
      const dx = x - at[0]!,
        dy = y - at[1]!;
      forward(lam + STEP, phi, plus);
      forward(lam - STEP, phi, minus);
      const xl = (plus[0]! - minus[0]!) / (2 * STEP),
        yl = (plus[1]! - minus[1]!) / (2 * STEP);
      forward(lam, phi + STEP, plus);
      forward(lam, phi - STEP, minus);
      const xp = (plus[0]! - minus[0]!) / (2 * STEP),
        yp = (plus[1]! - minus[1]!) / (2 * STEP);
      const det = xl * yp - xp * yl;
      const dLam = (dx * yp - dy * xp) / det,
        dPhi = (xl * dy - yl * dx) / det;
      out[0] = lam + dLam;
      out[1] = phi + dPhi;
      if (Math.abs(dLam) + Math.abs(dPhi) < 1e-14) return;
      if (!Number.isFinite(dLam + dPhi)) break;
      if (round === 19 && Math.abs(dLam) + Math.abs(dPhi) < 1e-11) return;
    }
    out[0] = out[1] = NaN;
  };
}

/** A projector with the signs of its axes turned, in place. */
export function mirrored(inner: Projector, sx: 1 | -1, sy: 1 | -1): Projector {
  const turn = (p: Float64Array, from: number, count: number, stride: number): void => {
    for (let i = from, end = from + count * stride; i < end; i += stride) {
      p[i]! *= sx;
      p[i + 1]! *= sy;
    }
  };
  return {
    forward(p, from, count, stride) {
      inner.forward(p, from, count, stride);
      turn(p, from, count, stride);
    },
    inverse(p, from, count, stride) {
      turn(p, from, count, stride);
      inner.inverse(p, from, count, stride);
    },
  };
}
