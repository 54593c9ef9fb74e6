import { type Bounds, emptyBounds, growAlong } from '../../geometry/bounds';
import { canvasMaker, type Lettering } from '../../io/canvas';
import type { Shape } from './shapes';

/** The four corners of what a lettering covers, without its rim, by twos. Letters that go below the line count as well. */
export function letterCorners({ text, x, y, at, size, angle }: Lettering): number[] {
  const length = canvasMaker().lengthOf(text) * size;
  const turn = (angle * Math.PI) / 180;
  const [along, up] = [
    [Math.cos(turn), -Math.sin(turn)],
    [-Math.sin(turn), -Math.cos(turn)],
  ] as const;
  const from = at === 'start' ? 0 : -length / 2,
    low = at === 'start' ? -BELOW * size : -(0.5 + BELOW) * size,
    high = at === 'start' ? ABOVE * size : (ABOVE - 0.5) * size;
  const corner = (s: number, t: number): [number, number] => [x + s * along[0] + t * up[0], y + s * along[1] + t * up[1]];
  return [...corner(from, low), ...corner(from + length, low), ...corner(from + length, high), ...corner(from, high)];
}

/** What letters reach below their line and above it, in heights of capitals. */
const BELOW = 0.32,
  ABOVE = 1.35;

/** What of the picture a shape can cover, with the width of its line. */
export function shapeBox(shape: Shape): Bounds {
  const box = emptyBounds();
  if (shape.kind === 'area') for (const ring of shape.rings) growAlong(box, ring);
  else growAlong(box, shape.kind === 'line' ? shape.points : letterCorners(shape.lettering));
  const rim = (shape.kind === 'line' ? shape.pen.width / 2 : shape.kind === 'letters' ? shape.lettering.rim : 0) + 1;
  return [box[0] - rim, box[1] - rim, box[2] + rim, box[3] + rim];
}
