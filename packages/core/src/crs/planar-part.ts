import { type Crs, metresPerUnit } from './crs';

/**
 * The vertices [start, end) with more of them between, so that none is farther from the next than `piece_m` metres, roughly; each
 * edge is in an even number of pieces.
 * @returns x, y, z of each
 */
export function planarPart(coords: Float64Array, start: number, end: number, crs: Crs, piece_m: number, most: number): Float64Array {
  const unit_m = metresPerUnit(crs, null);
  const out: number[] = [];
  for (let v = start; v < end; v++) {
    const x = coords[3 * v]!,
      y = coords[3 * v + 1]!;
    if (v > start) {
      const px = coords[3 * v - 3]!,
        py = coords[3 * v - 2]!;
      const pieces = 2 * Math.ceil(Math.min(most, Math.max(1, (Math.hypot(x - px, y - py) * unit_m) / piece_m)) / 2);
      for (let k = 1; k < pieces; k++) out.push(px + ((x - px) * k) / pieces, py + ((y - py) * k) / pieces, NaN);
    }
    out.push(x, y, NaN);
  }
  return Float64Array.from(out);
}
