import { RAD } from './angles';
import type { Datum, VerticalCrs } from './crs';
import { gridAtHand, heightGrid } from './datum/grid-registry';
import type { Shift } from './datum/shift';
import { meridional, primeVertical } from './methods/auxiliary';
import { squaredEccentricity } from './datum/helmert';
import { type DatumOperation, operationsAt } from './registry/datum-operations';
import { lookup } from './registry/registry';

/** One change of heights, with the operation that it comes from. */
export interface HeightStep {
  operation: DatumOperation;
  inverse: boolean;
  run: Shift;
}

/** Why heights stay as they are, or how they change. */
export type HeightChange = { steps: HeightStep[]; missing: null } | { steps: null; missing: string };

/** A constant change of heights, or one with slopes, between two vertical systems; null when the registry has none. */
export function offsetBetween(from: VerticalCrs, to: VerticalCrs, datum: Datum): HeightStep | null {
  for (const operation of from.id ? operationsAt(from.id) : []) {
    const forward = operation.source === from.id && operation.target === to.id;
    if (!forward && !(operation.target === from.id && operation.source === to.id)) continue;
    const { content } = operation;
    if (content.kind !== 'vertical-offset') continue;
    // an offset is in the direction of its own source: added to depths it leads down. IOGP Guidance Note 7-2, section 4.4.1
    const sign = (forward ? 1 : -1) * ((forward ? from : to).direction === 'down' ? -1 : 1);
    const [lon0, lat0] = content.origin;
    const { a } = datum.ellipsoid;
    const e2 = squaredEccentricity(datum.ellipsoid);
    // IOGP Guidance Note 7-2, section 4.4.2 (vertical offset and slope): along the meridian and the parallel of the origin
    const rho = meridional(lat0 * RAD, a, e2),
      nu = primeVertical(lat0 * RAD, a, e2);
    return {
      operation,
      inverse: !forward,
      run: (p, start, count, stride) => {
        for (let i = start, end = start + count * stride; i < end; i += stride) {
          const slope =
            content.slopeLat * rho * (p[i + 1]! - lat0) * RAD + content.slopeLon * nu * (p[i]! - lon0) * RAD * Math.cos(p[i + 1]! * RAD);
          p[i + 2]! += sign * (content.height + slope);
        }
      },
    };
  }
  return null;
}

/**
 * Between ellipsoidal heights on a datum and heights of a vertical system, by a geoid grid.
 * @param up from the ellipsoid to the vertical system
 */
export function geoidStep(vertical: VerticalCrs, datum: Datum, up: boolean): HeightChange {
  let missing = `no geoid model between ${datum.name} and ${vertical.name} is registered`;
  for (const operation of vertical.id ? operationsAt(vertical.id) : []) {
    if (operation.content.kind !== 'grid' || operation.content.carries !== 'geoid' || operation.target !== vertical.id) continue;
    const source = lookup(operation.source);
    if (source?.kind !== 'geographic' || source.datum.id !== datum.id) continue;
    const file = gridAtHand(operation.content);
    if (!file) {
      missing = `the geoid grid ${operation.content.files.map((f) => f.name).find((n) => n.endsWith('.gtx')) ?? operation.content.files[0]!.name} is not at hand`;
      continue;
    }
    const grid = heightGrid(file.name);
    const sign = up ? -1 : 1;
    return {
      missing: null,
      steps: [
        {
          operation,
          inverse: !up,
          run: (p, start, count, stride) => {
            for (let i = start, end = start + count * stride; i < end; i += stride) p[i + 2]! += sign * grid.heightAt(p[i]!, p[i + 1]!);
          },
        },
      ],
    };
  }
  return { steps: null, missing };
}

/** Heights of a vertical system to metres upwards, and back; null when they are so. */
export function heightUnit({ unit, direction }: VerticalCrs, out: boolean): Shift | null {
  const k = unit.metres * (direction === 'down' ? -1 : 1);
  if (k === 1) return null;
  const factor = out ? 1 / k : k;
  return (p, start, count, stride) => {
    for (let i = start, end = start + count * stride; i < end; i += stride) p[i + 2]! *= factor;
  };
}
