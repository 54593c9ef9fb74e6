import { Drawing } from './drawing';
import { MARKS, place, type Point } from './town';

const UNITLESS = 0; // $INSUNITS
const FOOT = 0.3048;
/** The builder's own grid: its origin, and how far its north is turned from that of the map. */
const TURN = 0.412;
const OFFSET: Point = [1000, 2000];

/** Feet on the builder's grid, about the middle of the site. */
function local([x, y]: Point): Point {
  const [cx, cy] = place(40, 60);
  const [dx, dy] = [(x - cx) / FOOT, (y - cy) / FOOT];
  return [OFFSET[0] + dx * Math.cos(TURN) - dy * Math.sin(TURN), OFFSET[1] + dx * Math.sin(TURN) + dy * Math.cos(TURN)];
}

/**
 * The builder's plan of a warehouse behind the quay: in feet on a grid of his own, with no unit and no system stated. The four survey
 * marks of the quay's design stand in it too, so it can be fitted to them; one object was left at the origin by mistake.
 */
export function sitePlan(): string {
  const d = new Drawing(
    UNITLESS,
    1,
    [
      { name: 'BUILDING', color: 1, weight: 50 },
      { name: 'FENCE', color: 32, linetype: 'DASHED' },
      { name: 'GRID-LINE', color: 8, linetype: 'CENTRE' },
      { name: 'COLUMN', color: 7 },
      { name: 'MARK', color: 2 },
      { name: 'NOTE', color: 7 },
    ],
    [
      {
        name: 'MARK-CROSS',
        circles: [1],
        lines: [
          [-2, 0, 2, 0],
          [0, -2, 0, 2],
        ],
        attributes: [['MARK', 'Name']],
      },
    ],
  );
  const ring = (layer: string, corners: [number, number][]): void =>
    d.polyline(
      layer,
      corners.map(([u, v]) => local(place(u, v))),
      true,
    );
  ring('BUILDING', [
    [22, 30],
    [48, 30],
    [48, 92],
    [22, 92],
  ]);
  ring('BUILDING', [
    [48, 70],
    [54, 70],
    [54, 84],
    [48, 84],
  ]);
  ring('FENCE', [
    [14, 20],
    [56, 20],
    [56, 102],
    [14, 102],
  ]);
  for (let v = 30; v <= 92; v += 15.5) d.line('GRID-LINE', local(place(19, v)), local(place(51, v)));
  for (let v = 30; v <= 92; v += 15.5) for (const u of [22, 35, 48]) d.circle('COLUMN', local(place(u, v)), 0.8);
  for (const { mark, u, v } of MARKS) d.insert('MARK', 'MARK-CROSS', local(place(u, v)), 0, 0, { MARK: mark });
  d.text('NOTE', local(place(35, 61)), 4, 'Warehouse 2, 203 ft 5 in', 0);
  d.point('NOTE', [0, 0], 0);
  return d.toString();
}
