import type { Bounds } from '../geometry/bounds';
import { Problem } from '../model/problem';

/**
 * Where the pixels of a picture lie in the plane of a system: x = a[0] + a[1] column + a[2] row, y = a[3] + a[4] column + a[5] row, where
 * (0, 0) is the outer corner of the first pixel and (0.5, 0.5) its centre.
 */
export type GridMap = readonly [number, number, number, number, number, number];

/** The pixels of a picture, and where they lie. */
export interface PixelGrid {
  map: GridMap;
  width: number;
  height: number;
}

/** Carries pixel positions (columns and rows, by twos) to the ground, in place. */
export function toGround({ map: a }: PixelGrid, points: Float64Array): void {
  for (let k = 0; k < points.length; k += 2) {
    const c = points[k]!,
      r = points[k + 1]!;
    points[k] = a[0] + a[1] * c + a[2] * r;
    points[k + 1] = a[3] + a[4] * c + a[5] * r;
  }
}

/** The map from the ground to pixel positions. @throws Problem `grid-flat` where pixels have no area */
export function inverseMap(a: GridMap): GridMap {
  const det = a[1] * a[5] - a[2] * a[4];
  if (!Number.isFinite(det) || det === 0)
    throw new Problem(
      'grid-flat',
      'The georeferencing gives its pixels no area, or one beyond all numbers. Correct the world file or the tags.',
    );
  return [(a[2] * a[3] - a[5] * a[0]) / det, a[5] / det, -a[2] / det, (a[4] * a[0] - a[1] * a[3]) / det, -a[4] / det, a[1] / det];
}

/** Carries ground positions, by twos, through a map, in place. */
export function through(a: GridMap, points: Float64Array): void {
  toGround({ map: a, width: 0, height: 0 }, points);
}

/** The four outer corners on the ground, by twos, beginning at that of the first pixel and going along its row. */
export function corners(grid: PixelGrid): Float64Array {
  const { width: w, height: h } = grid;
  const points = Float64Array.of(0, 0, w, 0, w, h, 0, h);
  toGround(grid, points);
  return points;
}

/** The grid of a picture of so many pixels whose outer corners lie so, beginning at that of the first pixel. */
export function gridFromCorners(
  [x0, y0]: readonly [number, number],
  [rightX, rightY]: readonly [number, number],
  [downX, downY]: readonly [number, number],
  width: number,
  height: number,
): PixelGrid {
  return {
    map: [x0, (rightX - x0) / width, (downX - x0) / height, y0, (rightY - y0) / width, (downY - y0) / height],
    width,
    height,
  };
}

/** The bounds of the outer edges. */
export function extentOfGrid(grid: PixelGrid): Bounds {
  const p = corners(grid);
  const xs = [p[0]!, p[2]!, p[4]!, p[6]!],
    ys = [p[1]!, p[3]!, p[5]!, p[7]!];
  return [Math.min(...xs), Math.min(...ys), Math.max(...xs), Math.max(...ys)];
}

/** Ground length of a step along a row and along a column. */
export function pixelSize({ map: a }: PixelGrid): [number, number] {
  return [Math.hypot(a[1], a[4]), Math.hypot(a[2], a[5])];
}

/** Whether rows run to the east and columns to the south. */
export function isNorthUp({ map: a }: PixelGrid): boolean {
  return a[2] === 0 && a[4] === 0 && a[1] > 0 && a[5] < 0;
}

/** A north-up grid of whole pixels that covers a box, beginning at its north-western corner. */
export function gridOver([minx, miny, maxx, maxy]: Bounds, [dx, dy]: readonly [number, number]): PixelGrid {
  // a box that was worked out may exceed a whole number of pixels by what numbers round
  const count = (length: number, size: number): number => Math.max(1, Math.ceil(length / size - 1e-6));
  return { map: [minx, dx, 0, maxy, 0, -dy], width: count(maxx - minx, dx), height: count(maxy - miny, dy) };
}
