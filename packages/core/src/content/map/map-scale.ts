import { type Crs, metresPerUnit } from '../../crs/crs';

/** How a map is drawn: at a scale of 1 to so much, with so many dots an inch. */
export interface MapScale {
  scale: number;
  dpi: number;
}

const MM_PER_INCH = 25.4;

/** Ground size of a dot, metres. */
export const dotOnGround = ({ scale, dpi }: MapScale): number => (scale * MM_PER_INCH) / dpi / 1000;

/** Pixels in a millimetre of the sheet. */
export const pixelsPerMm = ({ dpi }: MapScale): number => dpi / MM_PER_INCH;

/** Size of the pixels of a map in units of its system. */
export const pixelOfMap = (map: MapScale, crs: Crs): number => dotOnGround(map) / metresPerUnit(crs, null);
