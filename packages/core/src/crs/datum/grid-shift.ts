import type { ShiftGrid } from './ntv2';
import type { Shift } from './shift';

/** Rounds of the way back; each leaves about a thousandth of the error, since shifts hardly change from node to node. */
const ROUNDS = 10;
/** Degrees; below the last bits that matter. */
const CLOSE = 1e-14;

/** Adds a grid's shifts, or takes them away by iteration, so that both ways lead to the same point. NaN outside of the grid. */
export function gridShift(grid: ShiftGrid, inverse: boolean): Shift {
  const d = new Float64Array(2);
  return (p, start, count, stride) => {
    for (let i = start, end = start + count * stride; i < end; i += stride) {
      const lon = p[i]!,
        lat = p[i + 1]!;
      if (!grid.shiftAt(lon, lat, d)) {
        p[i] = p[i + 1] = NaN;
        continue;
      }
      if (!inverse) {
        p[i] = lon + d[0]!;
        p[i + 1] = lat + d[1]!;
        continue;
      }
      let x = lon - d[0]!,
        y = lat - d[1]!;
      for (let round = 0; round < ROUNDS; round++) {
        if (!grid.shiftAt(x, y, d)) break;
        const dx = lon - (x + d[0]!),
          dy = lat - (y + d[1]!);
        x += dx;
        y += dy;
        if (Math.abs(dx) + Math.abs(dy) < CLOSE) break;
      }
      p[i] = x;
      p[i + 1] = y;
    }
  };
}
