import type { Bounds } from '../../geometry/bounds';
import { clipLine } from '../../geometry/clip';
import { ringsHold } from '../../geometry/ring-holds';
import { letterCorners } from './shape-box';
import type { Shape } from './shapes';

/** Places that are looked at of a line, and of one that is dashed. */
const OF_LINE = 8,
  OF_DASHED = 64;
/** Places along and across the inside of lettering. */
const ALONG = 24,
  ACROSS = 4;

/**
 * Places of a window at which something of a shape should be seen, x and y by twos; none where nothing of it lies there.
 * @param many whether only some of the window counts, so that more of them are wanted
 */
export function probesOf(shape: Shape, window: Bounds, many: boolean): number[] {
  if (shape.kind === 'line')
    return alongLine(shape.closed ? closedRing(shape.points) : shape.points, window, shape.pen.dash || many ? OF_DASHED : OF_LINE);
  if (shape.kind === 'letters') return withinLetters(letterCorners(shape.lettering), window);
  // an outline is drawn as lines; an area that holds all of the window has none there
  const [x, y] = [(window[0] + window[2]) / 2, (window[1] + window[3]) / 2];
  return shape.fill.opacity > 0 && ringsHold(shape.rings, x, y) ? [x, y] : [];
}

const closedRing = (points: readonly number[]): number[] => [...points, points[0]!, points[1]!];

function alongLine(points: readonly number[], window: Bounds, most: number): number[] {
  const sides = clipLine(points, window).flatMap((piece) =>
    Array.from({ length: piece.length / 2 - 1 }, (_, k) => piece.slice(2 * k, 2 * k + 4) as [number, number, number, number]),
  );
  const step = Math.max(1, sides.length / most);
  const each = Math.max(1, Math.floor(most / Math.max(1, sides.length)));
  const out: number[] = [];
  for (let k = 0; k < sides.length; k += step) {
    const [x1, y1, x2, y2] = sides[Math.floor(k)]!;
    for (let n = 0; n < each; n++) {
      const t = (n + 0.5) / each;
      out.push(x1 + t * (x2 - x1), y1 + t * (y2 - y1));
    }
  }
  return out;
}

function withinLetters(corners: readonly number[], window: Bounds): number[] {
  const [x0, y0, x1, y1, , , x3, y3] = corners as [number, number, number, number, number, number, number, number];
  const out: number[] = [];
  for (let r = 0; r < ACROSS; r++)
    for (let c = 0; c < ALONG; c++) {
      const s = (c + 0.5) / ALONG,
        t = (r + 0.5) / ACROSS;
      const x = x0 + s * (x1 - x0) + t * (x3 - x0),
        y = y0 + s * (y1 - y0) + t * (y3 - y0);
      if (x >= window[0] && y >= window[1] && x < window[2] && y < window[3]) out.push(x, y);
    }
  return out;
}
