import { outsideArea } from '../crs/area';
import { BY_PART, transformByPart } from '../crs/by-part';
import { type Crs, metresPerUnit } from '../crs/crs';
import { readPositions } from '../crs/definitions/read-definition';
import { datumPaths, operationKey } from '../crs/operations';
import { compileTransform, onEarth, type Step, type Transform } from '../crs/transform';
import { type Bounds, gridOver } from '../geometry/bounds';
import { Problem } from '../model/problem';
import { areaOfExtent } from './extent-on-earth';
import { FITS } from './fit';
import { compilePlacement, type PlacementParameters, type PlacementTransform } from './placement-transform';
import type { Placement } from './placement';

/** Where a source lies: the system that its numbers are in, and how they get into its plane. */
export interface PlacedIn {
  crs: Crs;
  parameters: PlacementParameters;
  /** The chosen change of datum, as `operationKey` writes it, or {@link BY_PART}; the best one for the extent when absent. */
  operation?: string | undefined;
  ballpark?: boolean | undefined;
  /** Bounds of its records in its own numbers; null where they are not known. */
  extent: Bounds | null;
}

const read = new Map<string, Crs | null>();

/** The system of a code or a definition in a recipe; null when it cannot be understood. */
export function crsOf(text: string): Crs | null {
  let crs = read.get(text);
  if (crs === undefined) {
    try {
      crs = readPositions(text);
    } catch (error) {
      if (!(error instanceof Problem)) throw error;
      crs = null;
    }
    read.set(text, crs);
  }
  return crs;
}

/** @returns null when its system cannot be understood */
export function placedBy(placement: Placement, extent: Bounds | null): PlacedIn | null {
  const { crs: text, operation: way, ballpark, settled_m: _settled, ...numbers } = placement;
  const crs = crsOf(text);
  return crs && { crs, parameters: numbers, operation: way, ballpark, extent };
}

/** The way from where a source is placed into another system. */
export interface Route {
  placement: PlacementTransform;
  transform: Transform;
  /** All steps for people, those of the placement as well. */
  steps: Step[];
  /** Metres: the change of datum and the fit together; null when the registry does not say. */
  accuracy_m: number | null;
}

/** @throws Problem of the fit, or of the way */
export function routeTo(placed: PlacedIn, target: Crs): Route {
  const { crs, parameters: numbers } = placed;
  const plane = compilePlacement(crs, numbers);
  const transform = transformOf(placed, plane, target);
  const fitted = fitStep(placed, plane);
  const accuracy_m =
    transform.accuracy_m === null ? null : fitted ? Math.hypot(transform.accuracy_m, fitted.accuracy_m ?? 0) : transform.accuracy_m;
  return { placement: plane, transform, steps: [...(fitted ? [fitted] : numbersSteps(placed)), ...transform.steps], accuracy_m };
}

/** Ways between the numbers of a source and the plane of the target, for positions by twos, in place; NaN where there is no image. */
export function pointMaps({ placement, transform }: Route): Record<'toTarget' | 'toSource', (points: Float64Array) => void> {
  const back = transform.inverse();
  return {
    toTarget(points) {
      placement.forward(points, 0, points.length / 2, 2);
      transform.apply(points, 0, points.length / 2, 2);
    },
    toSource(points) {
      back.apply(points, 0, points.length / 2, 2);
      placement.inverse(points, 0, points.length / 2, 2);
    },
  };
}

/** Places over a box of a source, in its own numbers, as they lie in the target: x and y by twos, so many steps along each side; NaN where there is no image. */
export function placesInTarget({ placement, transform }: Route, extent: Bounds, cells: number): Float64Array {
  const p = gridOver(extent, cells);
  placement.forward(p, 0, p.length / 2, 2);
  transform.apply(p, 0, p.length / 2, 2);
  return p;
}

/** Whether part of a box of a source, in its own numbers, lies outside the area of use of the target. */
export function leavesArea({ placement: plane, transform }: Route, target: Crs, [minx, miny, maxx, maxy]: Bounds): boolean {
  const p = Float64Array.of(minx, miny, maxx, miny, maxx, maxy, minx, maxy, (minx + maxx) / 2, (miny + maxy) / 2);
  plane.forward(p, 0, 5, 2);
  transform.apply(p, 0, 5, 2);
  return outsideArea(target, p, 5, 2) > 0;
}

/** The chosen operation where it leads to this target; otherwise the best one for where the source lies. */
function transformOf({ crs, operation, ballpark, extent }: PlacedIn, placement: PlacementTransform, target: Crs): Transform {
  const acceptBallpark = ballpark === true;
  if (operation === BY_PART) return transformByPart(crs, target, { acceptBallpark });
  const path =
    operation === undefined
      ? undefined
      : datumPaths(onEarth(crs), onEarth(target)).find((p) => operationKey(p) === operation && p.missing.length === 0);
  return compileTransform(crs, target, path ? { path, acceptBallpark } : { area: areaOfExtent(crs, placement, extent), acceptBallpark });
}

function fitStep({ crs, parameters: numbers }: PlacedIn, plane: PlacementTransform): Step | null {
  if (!plane.fit || !numbers.fit) return null;
  const used = numbers.fit.pairs.filter((p) => !p.out).length;
  return {
    id: null,
    name: `Fitted to ${used} control points`,
    method: FITS[plane.fit.kind].name,
    accuracy_m: plane.fit.spare === 0 ? null : Number((plane.fit.rms * metresPerUnit(crs, null)).toPrecision(3)),
    grids: [],
    result: crs.name,
  };
}

/** What is done to the numbers of a file before they are those of the system. */
function numbersSteps({ crs, parameters: numbers }: PlacedIn): Step[] {
  const step = (name: string): Step => ({ id: null, name, method: 'Numbers of the file', accuracy_m: 0, grids: [], result: crs.name });
  return [
    ...(numbers.axesSwapped ? [step('Axes exchanged')] : []),
    ...(numbers.signReversed ? [step('Both signs turned')] : []),
    ...(numbers.offset ? [step(`${numbers.offset[0]} and ${numbers.offset[1]} added`)] : []),
  ];
}
