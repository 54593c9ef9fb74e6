/**
 * An arc between two vertices, told by its bulge: the tangent of a quarter of its included angle, positive when it runs
 * counter-clockwise from the first to the second. Source: DXF Reference, LWPOLYLINE, group code 42.
 */
export interface Arc {
  cx: number;
  cy: number;
  radius: number;
  /** Radians, of the first vertex as seen from the centre. */
  start: number;
  /** Radians, signed. */
  sweep: number;
}

/** The arc between two points. @param bulge tangent of a quarter of its included angle, positive counter-clockwise */
export function arcOf(x1: number, y1: number, x2: number, y2: number, bulge: number): Arc {
  const sweep = 4 * Math.atan(bulge);
  const dx = x2 - x1,
    dy = y2 - y1;
  // centre: half way along the chord, then to its left by (1 - b²) / 4b chords
  const k = (1 - bulge * bulge) / (4 * bulge);
  const cx = (x1 + x2) / 2 - k * dy;
  const cy = (y1 + y2) / 2 + k * dx;
  return { cx, cy, radius: Math.hypot(x1 - cx, y1 - cy), start: Math.atan2(y1 - cy, x1 - cx), sweep };
}

/** The bulge of the arc from the first of three positions to the last, by way of the second; 0 where they lie on a line. */
export function bulgeThrough(x1: number, y1: number, x2: number, y2: number, x3: number, y3: number): number {
  const ax = x2 - x1,
    ay = y2 - y1,
    bx = x3 - x2,
    by = y3 - y2;
  const cross = ax * by - ay * bx,
    dot = ax * bx + ay * by;
  // the direction turns by half of the included angle at the middle
  const turn = Math.atan2(Math.abs(cross), dot);
  return cross === 0 ? 0 : Math.sign(cross) * Math.tan(turn / 2);
}

/** Chords at most per curve, whatever the tolerance. */
export const MOST_CHORDS = 10_000;

/** How many equal chords keep an arc within `tolerance` (same unit as the radius) of its curve. */
export function chordCount(radius: number, sweep: number, tolerance: number): number {
  const ratio = tolerance / radius;
  // a chord of half angle a stands off by r (1 - cos a); never coarser than a right angle
  const half = ratio >= 1 ? Math.PI / 4 : Math.min(Math.PI / 4, Math.acos(1 - ratio));
  const n = Math.ceil(Math.abs(sweep) / (2 * half) - 1e-9);
  return Math.max(1, Math.min(MOST_CHORDS, n));
}
