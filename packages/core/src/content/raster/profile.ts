import { type Bounds, emptyBounds, isEmpty, join } from '../../geometry/bounds';
import type { ImageInfo } from '../../model/raster';
import { extentOfGrid, type GridMap, type PixelGrid } from '../../raster/pixel-grid';

/** What a picture is, as JSON holds it: a value for none that is no number is "nan", and a palette a list. */
export type StoredInfo = Omit<ImageInfo, 'nodata' | 'palette'> & { nodata: number | 'nan' | null; palette: number[] | null };

/** What is known of a picture in a form that JSON can hold. */
export const storedInfo = ({ nodata, palette, ...info }: ImageInfo): StoredInfo => ({
  ...info,
  nodata: nodata !== null && Number.isNaN(nodata) ? 'nan' : nodata,
  palette: palette && [...palette],
});

/** The same as the core works with it. */
export const infoOf = ({ nodata, palette, ...info }: StoredInfo): ImageInfo => ({
  ...info,
  nodata: nodata === 'nan' ? NaN : nodata,
  palette: palette && Uint8Array.from(palette),
});

/** The values of one band over the whole picture, those pixels apart that have none. */
export interface BandProfile {
  lowest: number;
  highest: number;
  mean: number;
  /** How many pixels have a value in each of {@link BINS} steps from `lowest` to `highest`; of large pictures, of evenly picked ones. */
  histogram: number[];
}

/** Bins of the histogram of a band. */
export const BINS = 128;

/** One picture of a source, as plans, forecasts and the page know it without its pixels. */
export interface ImageMember {
  /** As the person knows it. */
  name: string;
  format: string;
  bytes: number;
  version: string;
  /** When it was made, as its file says it. */
  date?: string | undefined;
  info: StoredInfo;
  /** Where its pixels lie in its own numbers; null where it does not say. */
  map: GridMap | null;
  pairs: { from: [number, number]; to: [number, number] }[] | null;
  bands: BandProfile[];
  /** Pixels without a value. */
  empty: number;
  /** Why it cannot be one with the others of its source; null where it can. */
  unfit: string | null;
  /** Whether the pixels of its file have to be unpacked before one of them can be had. */
  unpacked: boolean;
}

/** Where two pictures of a source lie over each other. */
export interface Overlap {
  a: string;
  b: string;
  /** In the numbers of the source. */
  box: Bounds;
  /** By how much `b` is brighter than `a` there, band by band; null where neither has a value for the other. */
  brighter: number[] | null;
}

/** The pictures of a source: one, or the tiles of a mosaic. */
export interface ImageProfile {
  members: ImageMember[];
  overlaps: Overlap[];
  /** Boxes between its pictures where there is none, in the numbers of the source. */
  gaps: Bounds[];
}

/** Pictures without a place lie in the plane of their own pixels, rows downwards. */
const OWN_PIXELS: GridMap = [0, 1, 0, 0, 0, -1];

/** Where the pixels of a picture lie: where its file says, or in the plane of its own pixels, which control points place. */
export const gridOf = ({ map, info }: { map: GridMap | null; info: Pick<ImageInfo, 'width' | 'height'> }): PixelGrid => ({
  map: map ?? OWN_PIXELS,
  width: info.width,
  height: info.height,
});

/** The bounds of those pictures that can be one, in the numbers of their source. */
export function imagesExtent(members: readonly ImageMember[]): Bounds | null {
  const extent = emptyBounds();
  for (const member of members) if (member.unfit === null) join(extent, extentOfGrid(gridOf(member)));
  return isEmpty(extent) ? null : extent;
}

/**
 * The value below which a share of the pixels of a band lies, by its histogram. @param share 0 to 1
 */
export function percentile({ lowest, highest, histogram }: BandProfile, share: number): number {
  const total = histogram.reduce((n, c) => n + c, 0);
  let seen = 0;
  for (const [k, count] of histogram.entries()) {
    if (seen + count >= share * total && count > 0)
      return lowest + ((k + (share * total - seen) / count) / histogram.length) * (highest - lowest);
    seen += count;
  }
  return highest;
}
