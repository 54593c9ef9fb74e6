import { emptyRaster, type ImageInfo, type PixelWindow, type Raster, SAMPLE_KINDS } from '../model/raster';
import { sourcePositions } from './approximate';
import { edgeDistance } from './edge-distance';
import { isNoValue } from './none';
import type { PixelGrid } from './pixel-grid';
import type { Resampling } from './resample';
import { cut, warpWindow, type WarpSource } from './warp';

/** Which of several pictures gives a pixel that more than one of them has a value for, and how they pass into each other. */
export interface Seams {
  /** The upper one, or the one whose middle is nearest. */
  first: 'order' | 'centre';
  /** Pixels of the target over which they pass into each other; 0 for a hard edge. */
  feather: number;
  /** The middles of the pictures in pixels of the target, by twos; NaN where one has none there. */
  centres: Float64Array;
}

/** A window made of several pictures. */
export interface Seamed {
  raster: Raster;
  /** How far those that pass into each other lie apart at each sample; null where none do. */
  spread: Float64Array | null;
}

/** Pixels within which two middles are equally near: the upper picture is taken, whatever numbers round to. */
const EQUALLY_NEAR = 1e-6;

/** How far the middle of a picture lies from a place of the target; Infinity where it has none there. */
export function awayFrom({ centres }: Seams, k: number, x: number, y: number): number {
  const d = Math.hypot(centres[2 * k]! - x, centres[2 * k + 1]! - y);
  return Number.isNaN(d) ? Infinity : d;
}

/** Whether a middle at one distance is nearer than that at another. */
export const isNearer = (a: number, b: number): boolean => a < b - EQUALLY_NEAR;

interface Layer {
  number: number;
  raster: Raster;
  /** How much it counts by its distance from its own edge, for each pixel of the window; null where it counts in full. */
  weights: Float64Array | null;
}

/** A window of the target, from several sources, with seams as they are wanted. Bands, samples and values for none are those of `like`. */
export async function seamedWindow(
  target: PixelGrid,
  sources: readonly WarpSource[],
  like: Pick<ImageInfo, 'bands' | 'sampleType' | 'alpha' | 'nodata'>,
  resampling: Resampling,
  window: PixelWindow,
  seams: Seams,
  positionsIn: typeof sourcePositions = sourcePositions,
): Promise<Seamed> {
  // as far as a distance from an edge counts
  const pad = seams.feather > 0 ? Math.ceil(seams.feather) + 1 : 0;
  const wide = { x: window.x - pad, y: window.y - pad, width: window.width + 2 * pad, height: window.height + 2 * pad };
  const layers: Layer[] = [];
  for (const [number, source] of sources.entries()) {
    const raster = await warpWindow(target, [source], like, resampling, wide, positionsIn);
    const own = pad === 0 ? raster : cut(raster, wide, window);
    if (own.valid!.some((v) => v === 1))
      layers.push({ number, raster: own, weights: pad === 0 ? null : weightsIn(raster.valid!, wide, window, seams.feather) });
  }
  const [only] = layers;
  if (!only) return { raster: emptyRaster(like.sampleType, window.width, window.height, like.bands), spread: null };
  if (layers.length === 1) return { raster: only.raster, spread: null };
  return together(layers, window, like, seams);
}

/** How much a picture counts at each pixel of a window: in full where it goes on for the width of the seam, next to nothing at its edge. */
function weightsIn(valid: Uint8Array, wide: PixelWindow, window: PixelWindow, feather: number): Float64Array | null {
  if (valid.every((v) => v === 1)) return null;
  const distance = edgeDistance(valid, wide.width, wide.height);
  const out = new Float64Array(window.width * window.height);
  for (let r = 0; r < window.height; r++) {
    const from = (r + window.y - wide.y) * wide.width + window.x - wide.x;
    for (let c = 0; c < window.width; c++) out[r * window.width + c] = Math.min(1, distance[from + c]! / (feather + 1));
  }
  return out;
}

function together(
  layers: readonly Layer[],
  window: PixelWindow,
  like: Pick<ImageInfo, 'bands' | 'sampleType' | 'alpha' | 'nodata'>,
  seams: Seams,
): Seamed {
  const { bands, alpha, nodata } = like;
  const { lowest, highest, real } = SAMPLE_KINDS[like.sampleType];
  const raster = emptyRaster(like.sampleType, window.width, window.height, bands);
  // at a hard edge a sample is that of one picture
  const spread = seams.feather > 0 ? new Float64Array(raster.data.length) : null;
  const colours = alpha ? bands - 1 : bands;
  const shares = new Float64Array(layers.length);
  const put = (at: number, value: number): void => {
    raster.data[at] = real ? value : Math.min(highest, Math.max(lowest, Math.round(value)));
  };
  const n = window.width * window.height;
  for (let i = 0; i < n; i++) {
    const total = sharesAt(layers, i, window, seams, shares);
    if (total === 0) continue;
    raster.valid![i] = 1;
    let seen = 0;
    if (alpha) {
      layers.forEach((layer, k) => (seen += shares[k]! * layer.raster.data[(i + 1) * bands - 1]!));
      put((i + 1) * bands - 1, seen / total);
    }
    for (let b = 0; b < colours; b++) {
      const at = i * bands + b;
      let sum = 0,
        weight = 0,
        low = Infinity,
        high = -Infinity;
      for (const [k, layer] of layers.entries()) {
        if (!layer.raster.valid![i]) continue;
        const value = layer.raster.data[at]!;
        if (isNoValue(value, nodata)) continue;
        low = Math.min(low, value);
        high = Math.max(high, value);
        const share = shares[k]! * (alpha && seen > 0 ? layer.raster.data[(i + 1) * bands - 1]! : 1);
        sum += share * value;
        weight += share;
      }
      put(at, weight > 0 ? sum / weight : (nodata ?? NaN));
      if (spread && high > low) spread[at] = high - low;
    }
  }
  return { raster, spread };
}

/** How much each picture counts at a pixel. @returns the sum; 0 where none has a value */
function sharesAt(layers: readonly Layer[], i: number, window: PixelWindow, seams: Seams, shares: Float64Array): number {
  shares.fill(0);
  const { first, feather } = seams;
  const x = window.x + (i % window.width) + 0.5,
    y = window.y + Math.floor(i / window.width) + 0.5;
  const away = (k: number): number => awayFrom(seams, layers[k]!.number, x, y);
  let nearest = -1,
    least = Infinity;
  if (first === 'centre')
    for (let k = 0; k < layers.length; k++) {
      if (!layers[k]!.raster.valid![i]) continue;
      const d = away(k);
      if (nearest >= 0 && !isNearer(d, least)) continue;
      nearest = k;
      least = d;
    }
  let rest = 1,
    total = 0;
  for (let k = 0; k < layers.length && rest > 0; k++) {
    const { raster, weights } = layers[k]!;
    if (!raster.valid![i]) continue;
    const edge = weights?.[i] ?? 1;
    if (first === 'order') {
      shares[k] = rest * edge;
      rest -= shares[k]!;
    } else if (feather === 0) shares[k] = k === nearest ? 1 : 0;
    else shares[k] = edge * Math.max(0, 1 - (k === nearest ? 0 : away(k) - least) / feather);
    total += shares[k]!;
  }
  return total;
}
