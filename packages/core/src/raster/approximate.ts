import { roomForPositions } from './room-for-positions';

/** Carries positions, by twos, in place; NaN where there is no image. */
export type MapPoints = (points: Float64Array) => void;

/** Pixels by which an approximated position may be off. */
export const MOST_OFF_PX = 0.1;

/** Part of that which is allowed between the places where it is measured. */
const SAFETY = 0.5;

/** Cells finer than this are not worth approximating. */
const FINEST = 4;

/**
 * Where the pixel centres of a window of the target lie in a source, worked out exactly at the nodes of a mesh and linearly between them.
 * The mesh is halved where that would be off by more than {@link MOST_OFF_PX}, measured at the middle of each cell and of its sides; cells
 * that reach where there is no image are worked out exactly.
 *
 * @param exact carries pixel positions of the target to pixel positions of the source
 * @param x first column of the window
 * @param y first row of the window
 * @returns source positions by twos, row after row; to be given back when they were used
 */
export function sourcePositions(exact: MapPoints, x: number, y: number, width: number, height: number): Float64Array {
  const out = roomForPositions(2 * width * height);
  fill(exact, x, y, { c0: 0, r0: 0, c1: width - 1, r1: height - 1 }, width, out);
  return out;
}

/** The same, every position worked out by itself. */
export function exactPositions(exact: MapPoints, x: number, y: number, width: number, height: number): Float64Array {
  const out = new Float64Array(2 * width * height);
  fillExactly(exact, x, y, { c0: 0, r0: 0, c1: width - 1, r1: height - 1 }, width, out);
  return out;
}

interface Cell {
  c0: number;
  r0: number;
  c1: number;
  r1: number;
}

function fill(exact: MapPoints, x: number, y: number, cell: Cell, width: number, out: Float64Array): void {
  const { c0, r0, c1, r1 } = cell;
  if (c1 - c0 < FINEST || r1 - r0 < FINEST) return fillExactly(exact, x, y, cell, width, out);
  const cm = (c0 + c1) / 2,
    rm = (r0 + r1) / 2;
  // corners, then the middles of sides and cell
  const p = Float64Array.of(c0, r0, c1, r0, c0, r1, c1, r1, cm, r0, c0, rm, cm, rm, c1, rm, cm, r1);
  for (let k = 0; k < p.length; k += 2) {
    p[k] = x + p[k]! + 0.5;
    p[k + 1] = y + p[k + 1]! + 0.5;
  }
  exact(p);
  let off = 0;
  for (let k = 0; k < 2; k++) {
    const [a, b, c, d] = [p[k]!, p[2 + k]!, p[4 + k]!, p[6 + k]!];
    off = Math.max(
      off,
      Math.abs(p[8 + k]! - (a + b) / 2),
      Math.abs(p[10 + k]! - (a + c) / 2),
      Math.abs(p[12 + k]! - (a + b + c + d) / 4),
      Math.abs(p[14 + k]! - (b + d) / 2),
      Math.abs(p[16 + k]! - (c + d) / 2),
    );
    // a NaN anywhere is no bound
    if (Number.isNaN(a + b + c + d + p[8 + k]! + p[10 + k]! + p[12 + k]! + p[14 + k]! + p[16 + k]!)) off = Infinity;
  }
  if (off <= MOST_OFF_PX * SAFETY) {
    const w = c1 - c0,
      h = r1 - r0;
    for (let r = r0; r <= r1; r++) {
      const v = (r - r0) / h;
      const ax = p[0]! + (p[4]! - p[0]!) * v,
        ay = p[1]! + (p[5]! - p[1]!) * v;
      const bx = p[2]! + (p[6]! - p[2]!) * v,
        by = p[3]! + (p[7]! - p[3]!) * v;
      const sx = (bx - ax) / w,
        sy = (by - ay) / w;
      for (let c = c0, o = 2 * (r * width + c0); c <= c1; c++, o += 2) {
        out[o] = ax + sx * (c - c0);
        out[o + 1] = ay + sy * (c - c0);
      }
    }
    return;
  }
  const ch = Math.floor(cm),
    rh = Math.floor(rm);
  fill(exact, x, y, { c0, r0, c1: ch, r1: rh }, width, out);
  fill(exact, x, y, { c0: ch + 1, r0, c1, r1: rh }, width, out);
  fill(exact, x, y, { c0, r0: rh + 1, c1: ch, r1 }, width, out);
  fill(exact, x, y, { c0: ch + 1, r0: rh + 1, c1, r1 }, width, out);
}

function fillExactly(exact: MapPoints, x: number, y: number, { c0, r0, c1, r1 }: Cell, width: number, out: Float64Array): void {
  if (c1 < c0) return;
  const w = c1 - c0 + 1;
  for (let r = r0; r <= r1; r++) {
    const row = new Float64Array(2 * w);
    for (let c = 0; c < w; c++) {
      row[2 * c] = x + c0 + c + 0.5;
      row[2 * c + 1] = y + r + 0.5;
    }
    exact(row);
    out.set(row, 2 * (r * width + c0));
  }
}
