import type { PixelWindow } from '../model/raster';
import { inverseMap, type PixelGrid, through } from './pixel-grid';

/**
 * Tells which pixels of a window have their centre within rings, by the even-odd rule: one for each that has, row after row.
 * @param rings x and y of corners by twos, in the plane of the grid; the last corner need not be the first again
 */
export function maskOver(grid: PixelGrid, rings: readonly (readonly number[])[]): (window: PixelWindow) => Uint8Array {
  const back = inverseMap(grid.map);
  const own = rings.map((ring) => {
    const pixels = Float64Array.from(ring);
    through(back, pixels);
    return pixels;
  });
  return ({ x, y, width, height }) => {
    const crossings: number[][] = Array.from({ length: height }, () => []);
    for (const ring of own)
      for (let k = 0, last = ring.length - 2; k < ring.length; last = k, k += 2)
        crossed(crossings, y, ring[last]!, ring[last + 1]!, ring[k]!, ring[k + 1]!);
    const mask = new Uint8Array(width * height);
    crossings.forEach((row, r) => {
      row.sort((a, b) => a - b);
      for (let k = 0; k + 1 < row.length; k += 2) {
        // pixels whose centre lies between two crossings
        const from = Math.max(0, Math.ceil(row[k]! - 0.5 - x)),
          to = Math.min(width, Math.ceil(row[k + 1]! - 0.5 - x));
        if (to > from) mask.fill(1, r * width + from, r * width + to);
      }
    });
    return mask;
  };
}

/** Adds where an edge crosses the middles of rows; a middle at its lower end counts, at its upper end it does not. */
function crossed(rows: number[][], top: number, x0: number, y0: number, x1: number, y1: number): void {
  const [low, high] = y0 < y1 ? [y0, y1] : [y1, y0];
  const first = Math.max(0, Math.ceil(low - 0.5 - top)),
    end = Math.min(rows.length, Math.ceil(high - 0.5 - top));
  for (let r = first; r < end; r++) rows[r]!.push(x0 + ((top + r + 0.5 - y0) / (y1 - y0)) * (x1 - x0));
}
