import { METRES_PER_DEGREE } from '@pontrel/core/crs/crs';

/** Pixels along a tile's edge. */
export const TILE_PIXELS = 256;
export const MAX_ZOOM = 26;

/**
 * Units of the frame in one pixel at zoom `z`: 8192 m at zoom 0, halved with each step. Tiles are counted from the frame's
 * own origin, x to the east and y to the south, so either may be negative.
 * @param unit_m metres in one unit of the frame; null when it is in degrees
 */
export function resolutionAt(z: number, unit_m: number | null): number {
  return 8192 / 2 ** z / (unit_m ?? METRES_PER_DEGREE);
}

/** minx, miny, maxx, maxy of a tile in the frame. */
export function tileBounds(z: number, x: number, y: number, unit_m: number | null): [number, number, number, number] {
  const size = TILE_PIXELS * resolutionAt(z, unit_m);
  return [x * size, -(y + 1) * size, (x + 1) * size, -y * size];
}

/** Metres a pixel from which on points are dots: nobody could tell symbols apart there. */
export const FAR_M = 0.35;

/** Width of a letter in heights of it, where a stroke stands for a text. */
export const LETTER_WIDTH = 0.6;
