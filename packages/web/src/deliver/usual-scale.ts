import type { CrossingState } from '@pontrel/contract/crossing';
import type { ImageSettings } from '@pontrel/core/crossing/recipe';

/** Scales that plans are drawn at. Common practice, no source. */
const SCALES = [100, 200, 250, 500, 1000, 2000, 2500, 5000, 10_000, 20_000, 25_000, 50_000, 100_000, 250_000, 500_000, 1_000_000];

/** The longer side of a sheet of A3, metres. Source: ISO 216. */
const SHEET_M = 0.42;

/** The scale at which all that lies in the frame has room on a sheet, and as many dots as a screen and a printer are content with. */
export function usualScale({ frameExtent }: CrossingState): NonNullable<ImageSettings['drawn']> {
  const longer = frameExtent ? Math.max(frameExtent[2] - frameExtent[0], frameExtent[3] - frameExtent[1]) : 0;
  return { scale: SCALES.find((s) => s * SHEET_M >= longer) ?? SCALES.at(-1)!, dpi: 200 };
}
