import { Problem } from '../model/problem';
import { type Crs, datumOf, type GeographicCrs } from './crs';
import { helmertShift } from './datum/helmert';
import { undo } from './datum/undo';
import { METHODS } from './methods/index';
import type { Projector } from './methods/method';
import { datumPaths, endsOf, type DatumPath } from './operations';

/** Works in place on `count` points of `stride` numbers from index `from`; x and y are the first two of each. */
type Run = (points: Float64Array, from: number, count: number, stride: number) => void;

/** One step of the way, for people. `accuracy_m` is 0 for an exact conversion, null when it is not known. */
export interface Step {
  id: string | null;
  name: string;
  accuracy_m: number | null;
}

/** A compiled way from one CRS to another. */
export interface Transform {
  readonly from: Crs;
  readonly to: Crs;
  readonly steps: readonly Step[];
  /** Metres, from the registry; null when it is not known. */
  readonly accuracy_m: number | null;
  /**
   * Transforms `count` points in place. Points that have no image become NaN in x and y.
   * @returns how many those were
   */
  apply(points: Float64Array, from: number, count: number, stride: number): number;
  /** The way back, which leads to where each point came from. */
  inverse(): Transform;
}

/**
 * Compiles the way from one CRS to another, by the given datum path or else the most accurate known one.
 * @throws Problem `crs-no-datum-path` when no datum change between the two is known
 */
export function compileTransform(from: Crs, to: Crs, path?: DatumPath): Transform {
  const chosen = path ?? datumPaths(from, to)[0];
  if (!chosen) {
    throw new Problem('crs-no-datum-path',
      `No datum change from ${datumOf(from).name} to ${datumOf(to).name} is known, so ${label(from)} cannot be carried to ${label(to)}. Choose another target system.`);
  }
  const runs: Run[] = [];
  const steps: Step[] = [];
  const same = from.id !== null && from.id === to.id;
  if (!same) {
    if (from.kind === 'projected') {
      const projector = projectorOf(from);
      const metres = from.unit.metres;
      if (metres !== 1) runs.push(scaleBy(metres));
      runs.push(projector.inverse);
      steps.push({ id: null, name: `${methodName(from)}, inverse (${from.name})`, accuracy_m: 0 });
    } else pushUnit(runs, from, false);
    let meridian = datumOf(from).primeMeridian;
    for (const step of chosen.steps) {
      const [a, b] = endsOf(step);
      if (meridian !== 0) runs.push(turnBy(meridian));
      runs.push(step.undo ? undo(helmertShift(step.operation.helmert, b.ellipsoid, a.ellipsoid, step.inverse)) : helmertShift(step.operation.helmert, a.ellipsoid, b.ellipsoid, step.inverse));
      meridian = 0;
      steps.push({ id: step.operation.id, name: step.operation.name + (step.inverse !== step.undo ? ', inverse' : ''), accuracy_m: step.operation.accuracy_m });
    }
    const target = datumOf(to).primeMeridian;
    if (meridian !== target) runs.push(turnBy(meridian - target));
    if (to.kind === 'projected') {
      runs.push(projectorOf(to).forward);
      if (to.unit.metres !== 1) runs.push(scaleBy(1 / to.unit.metres));
      steps.push({ id: null, name: `${methodName(to)} (${to.name})`, accuracy_m: 0 });
    } else pushUnit(runs, to, true);
  }
  return {
    from, to, steps,
    accuracy_m: chosen.accuracy_m,
    apply(points, start, count, stride) {
      for (const run of runs) run(points, start, count, stride);
      let lost = 0;
      for (let i = start, end = start + count * stride; i < end; i += stride) {
        if (!Number.isFinite(points[i]!) || !Number.isFinite(points[i + 1]!)) {
          points[i] = points[i + 1] = NaN;
          lost++;
        }
      }
      return lost;
    },
    inverse: () => compileTransform(to, from, {
      steps: chosen.steps.map((s) => ({ ...s, undo: !s.undo })).reverse(),
      accuracy_m: chosen.accuracy_m,
    }),
  };
}

/** "EPSG:2193", or the name where there is no code. */
export function label(crs: Crs): string {
  return crs.id ?? crs.name;
}

function projectorOf(crs: Extract<Crs, { kind: 'projected' }>): Projector {
  const method = METHODS.get(crs.method);
  if (!method) throw new Problem('crs-method-unknown', `${crs.name} uses the projection method EPSG:${crs.method}, which is not available.`);
  return method.compile(crs.base.datum.ellipsoid, (p) => crs.parameters[p] ?? 0);
}

function methodName(crs: Extract<Crs, { kind: 'projected' }>): string {
  return METHODS.get(crs.method)?.name ?? `method ${crs.method}`;
}

function pushUnit(runs: Run[], crs: GeographicCrs, out: boolean): void {
  if (crs.degreesPerUnit !== 1) runs.push(scaleBy(out ? 1 / crs.degreesPerUnit : crs.degreesPerUnit));
}

function scaleBy(k: number): Run {
  return (p, from, count, stride) => {
    for (let i = from, end = from + count * stride; i < end; i += stride) {
      p[i]! *= k;
      p[i + 1]! *= k;
    }
  };
}

function turnBy(degrees: number): Run {
  return (p, from, count, stride) => {
    for (let i = from, end = from + count * stride; i < end; i += stride) p[i]! += degrees;
  };
}
