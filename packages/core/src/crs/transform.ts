import { Problem } from '../model/problem';
import {
  type AnyCrs,
  type AreaOfUse,
  type Crs,
  type Datum,
  datumOf,
  type EarthCrs,
  type GeocentricCrs,
  isOnEarth,
  positionsOf,
  type LocalCrs,
  type ProjectedCrs,
  type VerticalCrs,
} from './crs';
import { maybeSamePlane } from './local-plane';
import { fromGeocentric, toGeocentric } from './datum/geocentric';
import { gridAtHand, shiftGrid } from './datum/grid-registry';
import { gridShift } from './datum/grid-shift';
import { atEpoch, helmertShift } from './datum/helmert';
import type { Shift } from './datum/shift';
import { invert } from './datum/inverse';
import { geoidStep, heightUnit, offsetBetween, type HeightStep } from './heights';
import { METHODS } from './methods/index';
import { wrapDegrees } from './methods/method';
import { OperationSet } from './operation-set';
import { datumPaths, type DatumPath, type DatumStep, missingGrids } from './operations';
import { projectorOf } from './projector';
import { lookup } from './registry/registry';

/** One step of the way, for people. `accuracy_m` is 0 for an exact conversion, null when it is not known. */
export interface Step {
  /** Code of a registered operation; null for a conversion. */
  id: string | null;
  name: string;
  /** The method behind it. */
  method: string;
  accuracy_m: number | null;
  /** Grid files that it reads. */
  grids: string[];
  /** What its result is in: degrees on a datum, or the numbers of the target. */
  result: string;
}

/** A compiled way from one CRS to another. */
export interface Transform {
  readonly from: AnyCrs;
  readonly to: AnyCrs;
  readonly path: DatumPath;
  readonly steps: readonly Step[];
  /** Metres, from the registry; null when it is not known. */
  readonly accuracy_m: number | null;
  /** What happens to heights, when that is not what both systems ask for; null when there is nothing to say. */
  readonly heightNote: string | null;
  /**
   * Transforms `count` points in place. Points that have no image become NaN in x and y.
   * @returns how many those were
   */
  apply(points: Float64Array, from: number, count: number, stride: number): number;
  /** Works through the steps with one point and returns it as it is after each; NaN where it has no image. */
  trace(point: readonly number[]): number[][];
  /** The way back, which leads to where each point came from. */
  inverse(): Transform;
}

/** How a way from one system to another is chosen. */
export interface TransformOptions {
  /** The datum path to take; the best one for the area when absent. */
  path?: DatumPath;
  /** Where the points lie, degrees, by which the operation is chosen; the areas of use of both systems when absent. */
  area?: AreaOfUse | null;
  /** Coordinate epoch, decimal years, for operations whose parameters move with time; their own epoch when absent. */
  epoch?: number | null;
  /** Take numbers over as they are where no change of datum is known, instead of refusing. */
  acceptBallpark?: boolean;
}

interface Run {
  run: Shift;
  step: Step;
}

/**
 * Compiles the way from one CRS to another.
 * @throws Problem `crs-no-datum-path` when no change of datum between the two is known and that was not accepted;
 *   `crs-method-unknown`; `grid-missing`; `crs-kind` when one of them holds no positions
 */
export function compileTransform(from: AnyCrs, to: AnyCrs, options: TransformOptions | DatumPath = {}): Transform {
  const {
    path: given,
    area = null,
    epoch = from.epoch ?? to.epoch ?? null,
    acceptBallpark = false,
  }: TransformOptions = 'steps' in options ? { path: options } : options;
  if (from.kind === 'local' && to.kind === 'local') {
    if (maybeSamePlane(from, to)) return betweenPlanes(from, to);
    throw new Problem(
      'crs-local',
      `${from.name} and ${to.name} are planes of different sites: nothing leads from one into the other. If they are one, choose ${to.name} in Place.`,
    );
  }
  if (from.epoch !== undefined && to.epoch !== undefined && from.epoch !== to.epoch)
    throw new Problem(
      'crs-epochs',
      `${label(from)} and ${label(to)} hold at two dates, and how the ground moved between them is not known here. Give both one date.`,
    );
  const a = partsOf(from),
    b = partsOf(to);
  const path = given ?? (area ? new OperationSet(a.position, b.position).forArea(area) : datumPaths(a.position, b.position)[0]!);
  if (path.ballpark && !acceptBallpark) {
    const others = datumPaths(a.position, b.position).filter((p) => p.missing.length > 0);
    const hint =
      others.length > 0
        ? ` ${others[0]!.steps.map((s) => s.operation.name).join(', ')} would do, with the grid file ${others[0]!.missing.join(' and ')}: put it into the grids folder.`
        : '';
    throw new Problem(
      'crs-no-datum-path',
      `No datum change from ${datumOf(a.position).name} to ${datumOf(b.position).name} is known, so ${label(from)} cannot be carried to ${label(to)} unless positions may be off by tens of metres.${hint}`,
    );
  }
  const same = from.id !== null && from.id === to.id;
  const degrees = a.position.kind === 'geographic' ? a.position.degreesPerUnit : null;
  const { runs, note, accuracy_m } = same ? { runs: [], note: null, accuracy_m: 0 } : compile(from, to, path, epoch);
  return {
    from,
    to,
    path,
    steps: runs.map((r) => r.step),
    accuracy_m,
    heightNote: note,
    apply(points, start, count, stride) {
      if (degrees && runs.length > 0) beyondPoles(points, start, count, stride, degrees);
      for (const { run } of runs) run(points, start, count, stride);
      let lost = 0;
      for (let i = start, end = start + count * stride; i < end; i += stride) {
        if (!Number.isFinite(points[i]!) || !Number.isFinite(points[i + 1]!)) {
          points[i] = points[i + 1] = NaN;
          lost++;
        }
      }
      return lost;
    },
    trace(point) {
      const p = Float64Array.from([point[0]!, point[1]!, point[2] ?? 0]);
      return runs.map(({ run }) => {
        run(p, 0, 1, 3);
        return [...p];
      });
    },
    inverse: () =>
      compileTransform(to, from, {
        path: { ...path, steps: path.steps.map((s) => ({ ...s, undo: !s.undo })).reverse() },
        epoch,
        acceptBallpark: true,
      }),
  };
}

/** From one plane of its own into another: their unit is all that they can differ in. */
function betweenPlanes(from: LocalCrs, to: LocalCrs): Transform {
  const factor = from.unit.metres / to.unit.metres;
  const same = Math.abs(factor - 1) < 1e-15;
  const change: Shift = (p, start, count, stride) => {
    for (let i = start, end = start + count * stride; i < end; i += stride)
      for (let k = 0; k < Math.min(3, stride); k++) p[i + k] = p[i + k]! * factor;
  };
  const step: Step = {
    id: null,
    name: `${from.unit.name} to ${to.unit.name}`,
    method: 'Change of unit',
    accuracy_m: 0,
    grids: [],
    result: to.name,
  };
  return {
    from,
    to,
    path: { steps: [], accuracy_m: 0, area: null, areaOf: null, missing: [], ballpark: false },
    steps: same ? [] : [step],
    accuracy_m: 0,
    heightNote: null,
    apply(points, start, count, stride) {
      if (!same) change(points, start, count, stride);
      return 0;
    },
    trace([x, y, z]) {
      const p = Float64Array.of(x!, y!, z ?? 0);
      change(p, 0, 1, 3);
      return same ? [] : [[...p]];
    },
    inverse: () => betweenPlanes(to, from),
  };
}

/** "EPSG:2193", or the name where there is no code. */
export function label(crs: AnyCrs): string {
  const name = crs.id ?? crs.name;
  return crs.epoch === undefined ? name : `${name}@${crs.epoch}`;
}

interface Parts {
  position: EarthCrs | GeocentricCrs;
  height: 'none' | 'ellipsoidal' | VerticalCrs;
}

/** @throws Problem `crs-local` for a plane of its own */
export function onEarth(crs: Crs): EarthCrs {
  if (isOnEarth(crs)) return positionsOf(crs);
  throw new Problem(
    'crs-local',
    `${crs.name} has no place on earth: nothing leads from it into another system, nor into it. Fit it to control points in Place, or deliver it in the local plane itself.`,
  );
}

function partsOf(crs: AnyCrs): Parts {
  switch (crs.kind) {
    case 'vertical':
      throw new Problem(
        'crs-kind',
        `${label(crs)} (${crs.name}) is a system for heights only and holds no positions. Name a compound system, or a system for positions.`,
      );
    case 'compound':
      return { position: onEarth(crs.horizontal), height: crs.vertical };
    case 'local':
      return { position: onEarth(crs), height: 'none' };
    case 'geocentric':
      return { position: crs, height: 'ellipsoidal' };
    case 'geographic':
      if (crs.compound) return partsOf(crs.compound);
      return { position: crs, height: crs.dimension === 3 ? 'ellipsoidal' : 'none' };
    case 'projected':
      if (crs.compound) return partsOf(crs.compound);
      return { position: crs, height: crs.base.dimension === 3 ? 'ellipsoidal' : 'none' };
  }
}

function compile(
  from: AnyCrs,
  to: AnyCrs,
  path: DatumPath,
  epoch: number | null,
): { runs: Run[]; note: string | null; accuracy_m: number | null } {
  const a = partsOf(from),
    b = partsOf(to);
  const runs: Run[] = [];
  let accuracy = path.accuracy_m;
  const heights = planHeights(a, b);
  // z is an ellipsoidal height while the datum changes
  const ellipsoidal = heights.ellipsoidal;
  const source = datumOf(a.position),
    target = datumOf(b.position);
  const add = (run: Shift, step: Partial<Step> & Pick<Step, 'name'>): void => {
    runs.push({ run, step: { id: null, method: '', accuracy_m: 0, grids: [], result: '', ...step } });
  };
  const addHeights = (steps: readonly HeightStep[]): void => {
    for (const s of steps) {
      accuracy = accuracy === null || s.operation.accuracy_m === null ? null : accuracy + s.operation.accuracy_m;
      add(s.run, {
        id: s.operation.id,
        name: s.inverse ? `${s.operation.name}, reversed` : s.operation.name,
        method: s.operation.methodName,
        accuracy_m: s.operation.accuracy_m,
        grids: gridNames(s.operation),
        result: 'heights',
      });
    }
  };

  if (a.position.kind === 'projected') {
    const { unit } = a.position;
    const projector = projectorOf(a.position);
    const toMetres = unit.metres === 1 ? null : scaleBy(unit.metres);
    add(
      (p, s, n, stride) => {
        toMetres?.(p, s, n, stride);
        projector.inverse(p, s, n, stride);
      },
      { name: `${a.position.name} to degrees`, method: methodName(a.position), result: `degrees on ${source.name}` },
    );
  } else if (a.position.kind === 'geocentric') {
    add(fromGeocentric(source.ellipsoid), {
      name: 'From the centre of the earth to degrees',
      method: 'Geographic/geocentric conversions',
      result: `degrees on ${source.name}`,
    });
  } else if (a.position.degreesPerUnit !== 1) {
    add(scaleBy(a.position.degreesPerUnit), {
      name: `${a.position.name} to degrees`,
      method: 'Change of unit',
      result: `degrees on ${source.name}`,
    });
  }
  if (heights.unitIn) add(heights.unitIn, { name: 'Heights to metres upwards', method: 'Change of unit', result: 'heights' });
  addHeights(heights.before);

  let meridian = source.primeMeridian;
  const turnTo = (wanted: number): void => {
    if (Math.abs(meridian - wanted) > 1e-12)
      add(turnBy(meridian - wanted), { name: `Longitudes from ${meridianName(wanted)}`, method: 'Longitude rotation', result: 'degrees' });
    meridian = wanted;
  };
  for (const step of path.steps.flatMap(expanded)) {
    const reversed = step.inverse !== step.undo;
    const { operation } = step;
    const [start, end] = operation.ends ?? [datumAt(operation.source), datumAt(operation.target)];
    const [first, last] = reversed ? [end, start] : [start, end];
    const onGreenwich = operation.content.kind === 'helmert';
    turnTo(onGreenwich ? 0 : first.primeMeridian);
    add(shiftOf(step, start, end, ellipsoidal, epoch), {
      id: operation.id || null,
      name: `${operation.name}${reversed ? ', reversed' : ''}${dateOf(operation, epoch)}`,
      method: operation.methodName,
      accuracy_m: operation.accuracy_m,
      grids: gridNames(operation),
      result: `degrees on ${last.name}`,
    });
    meridian = onGreenwich ? 0 : last.primeMeridian;
  }
  if (path.ballpark)
    add(() => {}, {
      name: 'Numbers taken over: no change of datum is known',
      method: 'None',
      accuracy_m: null,
      result: `degrees, as if on ${target.name}`,
    });
  turnTo(target.primeMeridian);

  addHeights(heights.after);
  if (heights.unitOut) add(heights.unitOut, { name: 'Heights to their unit', method: 'Change of unit', result: 'heights' });
  if (b.position.kind === 'projected') {
    const { unit } = b.position;
    const projector = projectorOf(b.position);
    const fromMetres = unit.metres === 1 ? null : scaleBy(1 / unit.metres);
    add(
      (p, s, n, stride) => {
        projector.forward(p, s, n, stride);
        fromMetres?.(p, s, n, stride);
      },
      { name: `Degrees to ${b.position.name}`, method: methodName(b.position), result: b.position.name },
    );
  } else if (b.position.kind === 'geocentric') {
    add(toGeocentric(target.ellipsoid), {
      name: 'Degrees to the centre of the earth',
      method: 'Geographic/geocentric conversions',
      result: b.position.name,
    });
  } else {
    const last = runs[runs.length - 1];
    if (last && path.steps.length > 0) {
      const { run } = last;
      last.run = (p, s, n, stride) => {
        run(p, s, n, stride);
        wrapLongitudes(p, s, n, stride);
      };
    }
    if (b.position.degreesPerUnit !== 1)
      add(scaleBy(1 / b.position.degreesPerUnit), {
        name: `Degrees to ${b.position.name}`,
        method: 'Change of unit',
        result: b.position.name,
      });
  }
  return { runs, note: heights.note, accuracy_m: accuracy };
}

interface HeightPlan {
  ellipsoidal: boolean;
  before: HeightStep[];
  after: HeightStep[];
  unitIn: Shift | null;
  unitOut: Shift | null;
  note: string | null;
}

function planHeights(a: Parts, b: Parts): HeightPlan {
  const plan: HeightPlan = { ellipsoidal: false, before: [], after: [], unitIn: null, unitOut: null, note: null };
  const [from, to] = [a.height, b.height];
  if (from === 'none' || to === 'none') return plan;
  if (from === 'ellipsoidal' && to === 'ellipsoidal') return { ...plan, ellipsoidal: true };
  plan.unitIn = from === 'ellipsoidal' ? null : heightUnit(from, false);
  plan.unitOut = to === 'ellipsoidal' ? null : heightUnit(to, true);
  if (from !== 'ellipsoidal' && to !== 'ellipsoidal') {
    if (from.datum.id === to.datum.id) return plan;
    const offset = offsetBetween(from, to, datumOf(a.position));
    if (offset) return { ...plan, before: [offset] };
  }
  const down = from === 'ellipsoidal' ? null : geoidStep(from, datumOf(a.position), false);
  const up = to === 'ellipsoidal' ? null : geoidStep(to, datumOf(b.position), true);
  const missing = down?.missing ?? up?.missing;
  if (missing) return { ...plan, note: `Heights are passed on as they are: ${missing}.` };
  return { ...plan, ellipsoidal: true, before: down?.steps ?? [], after: up?.steps ?? [] };
}

/** A chain as its parts, in the order and the direction in which they are used. */
export function expanded(step: DatumStep): DatumStep[] {
  const { content } = step.operation;
  if (content.kind !== 'chain') return [step];
  let parts = content.steps.map(({ operation, inverse }): DatumStep => ({ operation, inverse, undo: false }));
  if (step.inverse) parts = parts.map((s) => ({ ...s, inverse: !s.inverse })).reverse();
  if (step.undo) parts = parts.map((s) => ({ ...s, undo: true })).reverse();
  return parts;
}

/** The date at which an operation is taken whose parameters move with time, for people. */
function dateOf({ content }: DatumStep['operation'], epoch: number | null): string {
  if (content.kind !== 'helmert' || !content.rates) return '';
  return epoch === null ? `, at ${content.epoch}, since no date is said` : `, at ${epoch}`;
}

function shiftOf(
  { operation, inverse, undo: back }: DatumStep,
  source: Datum,
  target: Datum,
  heights: boolean,
  epoch: number | null,
): Shift {
  const { content } = operation;
  const reversed = inverse !== back;
  switch (content.kind) {
    case 'helmert': {
      const helmert = content.rates && epoch !== null ? atEpoch(content.helmert, content.rates, epoch - content.epoch!) : content.helmert;
      const [from, to] = inverse ? [target, source] : [source, target];
      const shift = helmertShift({ helmert, pivot: content.pivot, from: from.ellipsoid, to: to.ellipsoid, inverse, heights });
      return back ? invert(shift, heights) : shift;
    }
    case 'offset': {
      const sign = reversed ? -1 : 1;
      return (p, start, count, stride) => {
        for (let i = start, end = start + count * stride; i < end; i += stride) {
          p[i]! += sign * content.lon;
          p[i + 1]! += sign * content.lat;
          if (heights) p[i + 2]! += sign * content.height;
        }
      };
    }
    case 'grid': {
      const file = content.carries === 'horizontal' ? gridAtHand(content) : null;
      if (!file)
        throw new Problem(
          'grid-missing',
          `${operation.name} (${operation.id}) needs the grid file ${missingGrids(operation).join(', ')}, which is not at hand. Put it into the grids folder, or choose another way.`,
        );
      return gridShift(shiftGrid(file.name), reversed !== file.reversed);
    }
    default:
      throw new Problem('crs-operation-kind', `${operation.name} (${operation.id}) does not change positions.`);
  }
}

function gridNames(operation: DatumStep['operation']): string[] {
  if (operation.content.kind !== 'grid') return [];
  return [(gridAtHand(operation.content) ?? operation.content.files[0]!).name];
}

function datumAt(id: string): Datum {
  return datumOf(lookup(id) as EarthCrs | GeocentricCrs);
}

const meridianName = (degrees: number): string => (degrees === 0 ? 'Greenwich' : `the meridian ${degrees}° of Greenwich`);

function methodName(crs: ProjectedCrs): string {
  return METHODS.get(crs.method)?.name ?? `method ${crs.method}`;
}

function scaleBy(k: number): Shift {
  return (p, from, count, stride) => {
    for (let i = from, end = from + count * stride; i < end; i += stride) {
      p[i]! *= k;
      p[i + 1]! *= k;
    }
  };
}

function turnBy(degrees: number): Shift {
  return (p, from, count, stride) => {
    for (let i = from, end = from + count * stride; i < end; i += stride) p[i]! += degrees;
  };
}

/** There are no latitudes beyond the poles; later steps would fold them back. */
function beyondPoles(p: Float64Array, from: number, count: number, stride: number, degrees: number): void {
  const most = 90 / degrees + 1e-12;
  for (let i = from, end = from + count * stride; i < end; i += stride)
    if (!(p[i + 1]! <= most && p[i + 1]! >= -most)) p[i] = p[i + 1] = NaN;
}

const wrapLongitudes: Shift = (p, from, count, stride) => {
  for (let i = from, end = from + count * stride; i < end; i += stride) p[i] = wrapDegrees(p[i]!);
};
