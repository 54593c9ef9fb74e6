import { lineMiddle } from '../../../geometry/line-middle';
import { eachPart, type FeatureBatch, LINE, POLYGON } from '../../../model/batch';

/** Where a label stands about its place: which way it is moved, and how it is set there by groups 72 and 73 of TEXT and group 71 of MTEXT. */
export interface LabelPlace {
  value: string;
  label: string;
  move: readonly [number, number];
  line: readonly [number, number];
  paragraph: number;
}

const place = (
  value: string,
  label: string,
  move: readonly [number, number],
  line: readonly [number, number],
  paragraph: number,
): LabelPlace => ({ value, label, move, line, paragraph });

/** The first one is taken for points, the middle for lines and areas, when nothing is said. */
export const LABEL_PLACES: readonly LabelPlace[] = [
  place('auto', 'Beside points, amid others', [1, 0], [0, 2], 4),
  place('middle', 'In the middle', [0, 0], [4, 0], 5),
  place('right', 'To the right', [1, 0], [0, 2], 4),
  place('left', 'To the left', [-1, 0], [2, 2], 6),
  place('above', 'Above', [0, 1], [1, 1], 8),
  place('below', 'Below', [0, -1], [1, 3], 2),
];

/** Where labels stand, by the value of the option; the first place where there is no such. @param point whether the record is a point */
export function labelPlace(value: string, point: boolean): LabelPlace {
  const chosen = LABEL_PLACES.find((p) => p.value === value) ?? LABEL_PLACES[0]!;
  return chosen.value === 'auto' && !point ? LABEL_PLACES[1]! : chosen;
}

/** What a label is set to: the middle of a line, the middle of an area's first ring by its area, the point itself. */
export function anchorOf(batch: FeatureBatch, i: number, x: readonly [number, number, number]): [number, number] {
  const kind = batch.kinds[i];
  if (kind !== LINE && kind !== POLYGON) return [x[0], x[1]];
  let range: [number, number] | null = null;
  eachPart(batch, i, (s, e) => (range ??= [s, e]));
  return kind === LINE ? alongLine(batch.coords, ...range!) : midArea(batch.coords, ...range!);
}

function alongLine(coords: Float64Array, start: number, end: number): [number, number] {
  const middle = lineMiddle(coords, start, end);
  return middle ? [middle.x, middle.y] : [coords[3 * start]!, coords[3 * start + 1]!];
}

/** Centroid of a ring, about its first vertex so that large coordinates do not eat the digits. */
function midArea(coords: Float64Array, start: number, end: number): [number, number] {
  const [x0, y0] = [coords[3 * start]!, coords[3 * start + 1]!];
  let area = 0,
    cx = 0,
    cy = 0;
  for (let v = start; v + 1 < end; v++) {
    const ax = coords[3 * v]! - x0,
      ay = coords[3 * v + 1]! - y0,
      bx = coords[3 * v + 3]! - x0,
      by = coords[3 * v + 4]! - y0;
    const w = ax * by - bx * ay;
    area += w;
    cx += (ax + bx) * w;
    cy += (ay + by) * w;
  }
  return area === 0 ? [x0, y0] : [x0 + cx / (3 * area), y0 + cy / (3 * area)];
}
