import type { MapPoints } from './approximate';

/** A picture that has a value at every one of its pixels, with the way from pixels of the target into it. */
export interface Covering {
  width: number;
  height: number;
  /** Carries pixel positions of the target to its own, by twos, in place. */
  toPixels: MapPoints;
}

/** Pixels along a side below which each is looked at. */
const SMALL = 8;

/** Pixels by which a cell has to lie within a picture, so that nothing between its corners lies outside. */
const MARGIN = 0.25;

/**
 * Whether every pixel centre of a rectangle of the target lies in one of some pictures: cells of it that lie in one as a whole are not looked
 * at further, all others are quartered.
 */
export function coversAll(pictures: readonly Covering[], x: number, y: number, width: number, height: number): boolean {
  if (pictures.length === 0) return false;
  if (pictures.some((p) => holds(p, x, y, width, height))) return true;
  if (width <= SMALL && height <= SMALL) return eachHeld(pictures, x, y, width, height);
  const w = width > SMALL ? width >> 1 : width,
    h = height > SMALL ? height >> 1 : height;
  return (
    coversAll(pictures, x, y, w, h) &&
    (w === width || coversAll(pictures, x + w, y, width - w, h)) &&
    (h === height || coversAll(pictures, x, y + h, w, height - h)) &&
    (w === width || h === height || coversAll(pictures, x + w, y + h, width - w, height - h))
  );
}

/** Whether corners, middles of sides and the middle lie well within a picture, and the middles about where straight lines would have them. */
function holds({ width, height, toPixels }: Covering, x: number, y: number, w: number, h: number): boolean {
  const p = new Float64Array(18);
  for (let k = 0; k < 9; k++) {
    p[2 * k] = x + 0.5 + ((k % 3) / 2) * (w - 1);
    p[2 * k + 1] = y + 0.5 + (Math.floor(k / 3) / 2) * (h - 1);
  }
  toPixels(p);
  let bent = 0;
  for (const [a, m, b] of [
    [0, 1, 2],
    [0, 3, 6],
    [2, 5, 8],
    [6, 7, 8],
    [0, 4, 8],
  ] as const)
    for (let k = 0; k < 2; k++) bent = Math.max(bent, Math.abs(p[2 * m + k]! - (p[2 * a + k]! + p[2 * b + k]!) / 2));
  const margin = MARGIN + 2 * bent;
  for (let k = 0; k < 18; k += 2) {
    const u = p[k]!,
      v = p[k + 1]!;
    if (!(u >= margin && v >= margin && u <= width - margin && v <= height - margin)) return false;
  }
  return true;
}

function eachHeld(pictures: readonly Covering[], x: number, y: number, w: number, h: number): boolean {
  const held = new Uint8Array(w * h);
  for (const { width, height, toPixels } of pictures) {
    const p = new Float64Array(2 * w * h);
    for (let i = 0; i < w * h; i++) {
      p[2 * i] = x + (i % w) + 0.5;
      p[2 * i + 1] = y + Math.floor(i / w) + 0.5;
    }
    toPixels(p);
    for (let i = 0; i < w * h; i++) if (p[2 * i]! >= 0 && p[2 * i + 1]! >= 0 && p[2 * i]! < width && p[2 * i + 1]! < height) held[i] = 1;
  }
  return held.every((v) => v === 1);
}
