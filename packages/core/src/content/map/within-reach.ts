import type { Bounds } from '../../geometry/bounds';
import { clipLine, clipRing } from '../../geometry/clip';
import type { Shape } from './shapes';

/** Pixels beyond a picture up to which a canvas draws finely: painters count in single precision. */
const FINE = 100_000;
/** Pixels beyond a picture that are kept of what reaches further. */
const KEPT = 10_000;

/**
 * A shape as pieces that a canvas draws finely: what reaches far beyond the picture is cut there. It is cut to the same box for every window, so
 * that dashes go on from one to the next.
 * @param box what it covers
 */
export function withinReach(shape: Shape, box: Bounds, { width, height }: { width: number; height: number }): Shape[] {
  if (box[0] > -FINE && box[1] > -FINE && box[2] < width + FINE && box[3] < height + FINE) return [shape];
  const kept: Bounds = [-KEPT, -KEPT, width + KEPT, height + KEPT];
  if (shape.kind === 'line') {
    const { points, closed } = shape;
    const line = closed ? [...points, points[0]!, points[1]!] : points;
    return clipLine(line, kept).map((piece) => ({ ...shape, points: piece, closed: false }));
  }
  if (shape.kind === 'area')
    return [{ ...shape, rings: shape.rings.map((ring) => clipRing(ring, kept)).filter((ring) => ring.length > 0) }];
  return [shape];
}
