import { type Crs, isPlane, metresPerUnit, verticalOf } from '../crs/crs';
import { projectorOf } from '../crs/projector';
import { type ControlPair, type Fit, type FitKind, fitPairs, type PointMap } from './fit';

/** How the numbers of a file become those of the system that they are in; all absent members change nothing. */
export interface PlacementParameters {
  /** Metres in one unit of the numbers; null when they are in the unit of the system. */
  unit_m: number | null;
  /** North-south comes first in the file. */
  axesSwapped?: boolean | undefined;
  /** Both signs are turned against those of the system. */
  signReversed?: boolean | undefined;
  /** Added at the end, in the unit of the system: a false easting or leading digits that were dropped. */
  offset?: readonly [number, number] | undefined;
  /** Marks that place the numbers instead of all of this, whatever they are. */
  fit?: { kind: FitKind; pairs: readonly ControlPair[] } | undefined;
}

/** The way of a file's numbers into the plane of their system, and back. */
export interface PlacementTransform {
  /** Nothing changes. */
  same: boolean;
  forward: PointMap;
  inverse: PointMap;
  /** Units of the system in one unit of the file, and degrees by which the drawing is turned counterclockwise. */
  scale: number;
  rotation: number;
  fit: Fit | null;
}

const nothing: PointMap = () => {};

/** @throws Problem of the fit */
export function compilePlacement(crs: Crs, numbers: PlacementParameters): PlacementTransform {
  const factor = isPlane(crs) ? factorOf(metresPerUnit(crs, numbers.unit_m), crs.unit.metres) : 1;
  const vertical = verticalOf(crs);
  const zFactor = vertical && isPlane(crs) && numbers.unit_m !== null ? factorOf(numbers.unit_m, vertical.unit.metres) : factor;
  if (numbers.fit) {
    const fit = fitPairs(numbers.fit.kind, numbers.fit.pairs);
    const z = scaleHeights(zFactor),
      zBack = scaleHeights(1 / zFactor);
    return {
      same: false,
      fit,
      scale: fit.scale,
      rotation: fit.rotation,
      forward(p, s, n, stride) {
        fit.forward(p, s, n, stride);
        z(p, s, n, stride);
      },
      inverse(p, s, n, stride) {
        fit.inverse(p, s, n, stride);
        zBack(p, s, n, stride);
      },
    };
  }
  const { axesSwapped: swapped = false, signReversed: turned = false, offset: plus } = numbers;
  const scale = scaleAll(factor, zFactor),
    unscale = scaleAll(1 / factor, 1 / zFactor);
  const same = factor === 1 && zFactor === 1 && !swapped && !turned && !plus;
  const swap = swapped ? swapAxes : nothing,
    turn = turned ? turnSigns : nothing;
  return {
    same,
    scale: factor,
    rotation: turned ? 180 : 0,
    fit: null,
    forward(p, s, n, stride) {
      if (same) return;
      swap(p, s, n, stride);
      turn(p, s, n, stride);
      scale(p, s, n, stride);
      if (plus) add(plus[0], plus[1])(p, s, n, stride);
    },
    inverse(p, s, n, stride) {
      if (same) return;
      if (plus) add(-plus[0], -plus[1])(p, s, n, stride);
      unscale(p, s, n, stride);
      turn(p, s, n, stride);
      swap(p, s, n, stride);
    },
  };
}

/** 0.001 rather than 0.001/1, and exactly 1 when the units are the same. */
function factorOf(metres: number, crsUnit: number): number {
  return metres === crsUnit ? 1 : metres / crsUnit;
}

/** Multiplies positions and heights, which may be in different units; a factor whose reciprocal is whole divides, which rounds once. */
function scaleAll(factor: number, zFactor: number): PointMap {
  if (factor === 1 && zFactor === 1) return nothing;
  const xy = scaled(factor),
    z = scaled(zFactor);
  return (p, start, count, stride) => {
    for (let i = start, end = start + count * stride; i < end; i += stride) {
      p[i] = xy(p[i]!);
      p[i + 1] = xy(p[i + 1]!);
      if (stride > 2) p[i + 2] = z(p[i + 2]!);
    }
  };
}

function scaled(factor: number): (v: number) => number {
  const divisor = Math.round(1 / factor);
  return divisor !== 0 && Math.abs(1 / factor - divisor) < 1e-9 ? (v) => v / divisor : (v) => v * factor;
}

function scaleHeights(factor: number): PointMap {
  return (p, start, count, stride) => {
    if (factor === 1 || stride < 3) return;
    for (let i = start, end = start + count * stride; i < end; i += stride) p[i + 2] = p[i + 2]! * factor;
  };
}

const swapAxes: PointMap = (p, start, count, stride) => {
  for (let i = start, end = start + count * stride; i < end; i += stride) {
    const x = p[i]!;
    p[i] = p[i + 1]!;
    p[i + 1] = x;
  }
};

const turnSigns: PointMap = (p, start, count, stride) => {
  for (let i = start, end = start + count * stride; i < end; i += stride) {
    p[i] = -p[i]!;
    p[i + 1] = -p[i + 1]!;
  }
};

function add(dx: number, dy: number): PointMap {
  return (p, start, count, stride) => {
    for (let i = start, end = start + count * stride; i < end; i += stride) {
      p[i] = p[i]! + dx;
      p[i + 1] = p[i + 1]! + dy;
    }
  };
}

/**
 * Scale of a projection at a place of its plane: metres on the grid in a metre on the ellipsoid, along the north-south axis.
 * @returns null for a geographic system, or where the place has no image
 */
export function gridScaleAt(crs: Crs, x: number, y: number): number | null {
  if (crs.kind !== 'projected') return null;
  const step = 10;
  const [e, n] = [x * crs.unit.metres, y * crs.unit.metres];
  const p = Float64Array.of(e, n - step, e, n + step);
  projectorOf(crs).inverse(p, 0, 2, 2);
  const { a, invF } = crs.base.datum.ellipsoid;
  const f = invF === 0 ? 0 : 1 / invF,
    e2 = f * (2 - f);
  const rad = Math.PI / 180,
    lat = ((p[1]! + p[3]!) / 2) * rad;
  const w = 1 - e2 * Math.sin(lat) ** 2;
  const north = (p[3]! - p[1]!) * rad * ((a * (1 - e2)) / w ** 1.5),
    east = (p[2]! - p[0]!) * rad * (a / Math.sqrt(w)) * Math.cos(lat);
  const ground = Math.hypot(north, east);
  return ground > 0 ? (2 * step) / ground : null;
}
