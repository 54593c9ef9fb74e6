/**
 * The ground plan of Port Averil, an invented harbour town. Positions are told by `u`, metres inland from the shore, and
 * `v`, metres along it; the shore itself bends round a bay.
 */
export type Point = [number, number];

/** Metres, NZGD2000 / NZTM 2000, of the town's own corner. */
const CORNER: Point = [1_463_280, 5_101_020];

const ANGLE = 0.19;
const ALONG: Point = [Math.sin(ANGLE), Math.cos(ANGLE)];
const INLAND: Point = [-Math.cos(ANGLE), Math.sin(ANGLE)];
const ORIGIN: Point = [1060, 470];

const bay = (v: number): number =>
  120 * Math.exp(-((v / 250) ** 2)) - 48 * Math.exp(-(((v - 430) / 170) ** 2)) - 62 * Math.exp(-(((v + 450) / 190) ** 2));

/** Easting and northing, metres, of a place in the town. */
export function place(u: number, v: number): Point {
  const inland = u + bay(v) * Math.exp(-Math.max(u, 0) / 420);
  return [CORNER[0] + ORIGIN[0] + v * ALONG[0] + inland * INLAND[0], CORNER[1] + ORIGIN[1] + v * ALONG[1] + inland * INLAND[1]];
}

/** A line along the shore from v1 to v2 at distance u. */
export function alongShore(u: number, v1: number, v2: number, step = 14): Point[] {
  const n = Math.max(1, Math.round(Math.abs(v2 - v1) / step));
  return Array.from({ length: n + 1 }, (_, i) => place(u, v1 + ((v2 - v1) * i) / n));
}

/** A line inland from u1 to u2 at v. */
export function acrossShore(v: number, u1: number, u2: number, step = 24): Point[] {
  const n = Math.max(1, Math.round(Math.abs(u2 - u1) / step));
  return Array.from({ length: n + 1 }, (_, i) => place(u1 + ((u2 - u1) * i) / n, v));
}

/** Ground height in metres above mean sea level. */
export function ground(u: number, v: number): number {
  return (
    2.1 +
    Math.max(0, u) * 0.011 +
    9 * Math.exp(-(((u - 420) / 170) ** 2 + ((v - 470) / 180) ** 2)) +
    0.35 * Math.sin(v / 31) * Math.cos(u / 23)
  );
}

/** Streets that run along the shore (by u) and across it (by v). */
export const STREETS = {
  along: [
    { name: 'Harbour Street', u: 58 },
    { name: 'Tern Street', u: 166 },
    { name: 'Lighter Street', u: 272 },
    { name: 'Chandler Street', u: 378 },
  ],
  across: [
    { name: 'Cable Street', v: -425 },
    { name: 'Rope Walk', v: -150 },
    { name: 'Averil Street', v: 0 },
    { name: 'Signal Lane', v: 140 },
    { name: 'Capstan Street', v: 270 },
    { name: 'Whārangi Lane', v: 405 },
  ],
} as const;

/** Survey marks about the quay. */
export const MARKS = [
  { mark: 'AV01', u: 44, v: -196 },
  { mark: 'AV02', u: 61, v: -30 },
  { mark: 'AV03', u: 52, v: 96 },
  { mark: 'AV04', u: 12, v: 172 },
] as const;

/** The quay: where it runs along the shore, and its leases. */
export const QUAY = {
  from: -205,
  to: 178,
  leases: [
    [-205, -150],
    [-150, -92],
    [-92, -40],
    [-40, 18],
    [18, 66],
    [66, 120],
    [120, 178],
  ],
} as const;

/** Where in the town a position lies: metres inland from the shore, and along it. */
export function townAt([x, y]: Point): [number, number] {
  const [dx, dy] = [x - CORNER[0] - ORIGIN[0], y - CORNER[1] - ORIGIN[1]];
  const v = dx * ALONG[0] + dy * ALONG[1];
  const inland = dx * INLAND[0] + dy * INLAND[1];
  // the bay bends what is near the shore most; a few steps find where
  let u = inland;
  for (let k = 0; k < 24; k++) u = inland - bay(v) * Math.exp(-Math.max(u, 0) / 420);
  return [u, v];
}
