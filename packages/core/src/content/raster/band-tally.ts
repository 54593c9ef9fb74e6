import type { Raster } from '../../model/raster';
import { type BandProfile, BINS } from './profile';

/** Values of a band that are kept for its histogram; of more, every so-manieth. */
const MOST_KEPT = 1 << 18;

/** Sums up the bands of a picture, piece by piece. */
export class BandTally {
  private readonly bands: { lowest: number; highest: number; sum: number; count: number; kept: Float64Array; seen: number }[];
  private readonly step: number;
  empty = 0;

  /** @param bands of them that have values, an alpha band apart */
  constructor(bands: number, pixels: number) {
    // an odd step does not run along the columns of a picture
    this.step = Math.max(1, Math.ceil(pixels / MOST_KEPT)) | 1;
    const room = Math.ceil(pixels / this.step) + 1;
    this.bands = Array.from({ length: bands }, () => ({
      lowest: Infinity,
      highest: -Infinity,
      sum: 0,
      count: 0,
      kept: new Float64Array(room),
      seen: 0,
    }));
  }

  add({ data, valid, bands, width, height }: Raster): void {
    const n = width * height;
    for (let i = 0; i < n; i++) {
      if (valid && !valid[i]) {
        this.empty++;
        continue;
      }
      for (const [b, band] of this.bands.entries()) {
        const value = data[i * bands + b]!;
        if (value < band.lowest) band.lowest = value;
        if (value > band.highest) band.highest = value;
        band.sum += value;
        if (band.count++ % this.step === 0) band.kept[band.seen++] = value;
      }
    }
  }

  profiles(): BandProfile[] {
    return this.bands.map(({ lowest, highest, sum, count, kept, seen }) => {
      if (count === 0) return { lowest: 0, highest: 0, mean: 0, histogram: [] };
      const histogram = new Array<number>(BINS).fill(0);
      const scale = highest > lowest ? BINS / (highest - lowest) : 0;
      for (let k = 0; k < seen; k++) histogram[Math.min(BINS - 1, Math.floor((kept[k]! - lowest) * scale))]!++;
      return { lowest, highest, mean: sum / count, histogram };
    });
  }
}
