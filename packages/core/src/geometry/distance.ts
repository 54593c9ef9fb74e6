import { eachPart, type FeatureBatch, POINT, POLYGON, TEXT, vertexRange } from '../model/batch';
import { ringHolds } from './ring-holds';

/** How far a place is from the line between two others. */
export function segmentDistance(x1: number, y1: number, x2: number, y2: number, x: number, y: number): number {
  const [dx, dy] = [x2 - x1, y2 - y1];
  const square = dx * dx + dy * dy;
  const t = square === 0 ? 0 : Math.max(0, Math.min(1, ((x - x1) * dx + (y - y1) * dy) / square));
  return Math.hypot(x - x1 - t * dx, y - y1 - t * dy);
}

/**
 * How far a place is from a record without curves, in the unit of its coordinates; 0 within an area, by the even-odd rule. Infinity for
 * what lies nowhere.
 */
export function distanceTo(batch: FeatureBatch, i: number, x: number, y: number): number {
  const { coords } = batch;
  const kind = batch.kinds[i]!;
  if (kind === POINT || kind === TEXT) {
    let least = Infinity;
    const [start, end] = vertexRange(batch, i);
    for (let v = start; v < end; v++) least = Math.min(least, Math.hypot(coords[3 * v]! - x, coords[3 * v + 1]! - y));
    return least;
  }
  return kind === POLYGON && isInside(batch, i, x, y) ? 0 : outlineDistance(batch, i, x, y);
}

/** Whether a place lies inside the rings of a record together, by the even-odd rule. */
export function isInside(batch: FeatureBatch, i: number, x: number, y: number): boolean {
  let inside = false;
  eachPart(batch, i, (start, end) => {
    if (ringHolds(batch.coords, start, end, x, y)) inside = !inside;
  });
  return inside;
}

/** How far a place is from the lines of a record, or from the one vertex of a part, without curves; for an area, from its outline. */
export function outlineDistance(batch: FeatureBatch, i: number, x: number, y: number): number {
  const { coords } = batch;
  let least = Infinity;
  eachPart(batch, i, (start, end) => {
    for (let v = start; v < end; v++) {
      const a = 3 * v,
        b = v + 1 === end ? a : a + 3;
      least = Math.min(least, segmentDistance(coords[a]!, coords[a + 1]!, coords[b]!, coords[b + 1]!, x, y));
    }
  });
  return least;
}
