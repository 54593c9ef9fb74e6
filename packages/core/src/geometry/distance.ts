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
  let least = Infinity;
  if (kind === POINT || kind === TEXT) {
    const [start, end] = vertexRange(batch, i);
    for (let v = start; v < end; v++) least = Math.min(least, Math.hypot(coords[3 * v]! - x, coords[3 * v + 1]! - y));
    return least;
  }
  let inside = false;
  eachPart(batch, i, (start, end) => {
    if (kind === POLYGON && ringHolds(coords, start, end, x, y)) inside = !inside;
    for (let v = 3 * start; v + 3 < 3 * end; v += 3)
      least = Math.min(least, segmentDistance(coords[v]!, coords[v + 1]!, coords[v + 3]!, coords[v + 4]!, x, y));
  });
  return inside ? 0 : least;
}
