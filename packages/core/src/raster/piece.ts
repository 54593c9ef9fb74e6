import type { PixelWindow, Raster } from '../model/raster';

/** A piece of a source, and where in it it lies. */
export interface Piece {
  window: PixelWindow;
  raster: Raster;
}
