import { toGreenwich } from './area';
import type { AnyCrs, Crs, EarthCrs } from './crs';
import { OperationSet } from './operation-set';
import type { DatumPath } from './operations';
import { compileTransform, onEarth, type Step, type Transform, type TransformOptions } from './transform';

/** What a placement names in place of an operation where each part of the data is to have its own. */
export const BY_PART = 'by part';

/**
 * A transform that takes for each position the operation that is best where it lies, as PROJ does at run time. What crosses the edge of an
 * operation's area is bent there by the difference of two operations.
 * @param options without `path` and `area`, which it chooses
 * @throws Problem as `compileTransform` does, where no operation can be used
 */
export function transformByPart(from: Crs, to: Crs, options: Pick<TransformOptions, 'epoch' | 'acceptBallpark'> = {}): Transform {
  const [start, end] = [onEarth(from), onEarth(to)];
  const operations = new OperationSet(start, end);
  const compiled = new Map<DatumPath, { there: Transform; back: Transform }>();
  const transformsOf = (path: DatumPath): { there: Transform; back: Transform } => {
    let made = compiled.get(path);
    if (!made) {
      const there = compileTransform(from, to, { ...options, path });
      compiled.set(path, (made = { there, back: there.inverse() }));
    }
    return made;
  };
  const first = transformsOf(operations.paths[0]!).there;
  if (!operations.isChoice) return first;

  const forward: OnePoint = (p) => transformsOf(operationAt(operations, start, p)).there.apply(p, 0, 1, 3) === 0;
  const inverse: OnePoint = (p) => {
    const given = p.slice();
    const here = operationAt(operations, end, given);
    const leadsBack = (path: DatumPath): boolean => {
      p.set(given);
      return transformsOf(path).back.apply(p, 0, 1, 3) === 0 && operationAt(operations, start, p) === path;
    };
    // near the edge of an area a position may have come by another operation than the one for where it is now
    if (leadsBack(here) || operations.paths.some((path) => path !== here && path.missing.length === 0 && leadsBack(path))) return true;
    p.set(given);
    return transformsOf(here).back.apply(p, 0, 1, 3) === 0;
  };
  const step: Step = {
    id: null,
    name: 'For each position the best operation of its area',
    method: 'Several operations',
    accuracy_m: null,
    grids: [],
    result: to.name,
  };
  const path: DatumPath = { steps: [], accuracy_m: null, area: null, areaOf: null, missing: [], ballpark: false };
  const made = (a: AnyCrs, b: AnyCrs, one: OnePoint, other: OnePoint): Transform => ({
    from: a,
    to: b,
    path,
    steps: [step],
    accuracy_m: null,
    heightNote: first.heightNote,
    apply(points, at, count, stride) {
      const p = new Float64Array(3);
      let lost = 0;
      for (let i = at, last = at + count * stride; i < last; i += stride) {
        for (let k = 0; k < 3; k++) p[k] = k < stride ? points[i + k]! : 0;
        if (!one(p)) {
          p[0] = p[1] = NaN;
          lost++;
        }
        for (let k = 0; k < Math.min(3, stride); k++) points[i + k] = p[k]!;
      }
      return lost;
    },
    trace([x, y, z]) {
      const p = Float64Array.of(x!, y!, z ?? 0);
      if (!one(p)) p[0] = p[1] = NaN;
      return [[...p]];
    },
    inverse: () => made(b, a, other, one),
  });
  return made(from, to, forward, inverse);
}

/** Carries x, y and z in place; false where there is no image. */
type OnePoint = (point: Float64Array) => boolean;

/** The operation of a set for a point in the own numbers of a system. */
export function operationAt(operations: OperationSet, crs: EarthCrs, point: Float64Array): DatumPath {
  const p = Float64Array.of(point[0]!, point[1]!);
  toGreenwich(crs, p, 1, 2);
  return p.every(Number.isFinite) ? operations.at([p[0]!, p[1]!]) : operations.paths[0]!;
}
