import { emptyRaster, type ImageInfo, type PixelWindow, type Raster } from '../model/raster';
import { type MapPoints, sourcePositions } from './approximate';
import { inverseMap, type PixelGrid, through, toGround } from './pixel-grid';
import { giveBack } from './room-for-positions';
import { footprintOf, reach, resampleInto, type Resampling } from './resample';

/** A picture whose pixels can be had by windows. */
export interface ImageReader {
  info: ImageInfo;
  /** The pixels of a window, which lies within the picture. */
  read(window: PixelWindow): Promise<Raster>;
}

/** A picture on its way into a target. */
export interface WarpSource {
  image: ImageReader;
  /** Where its pixels lie, in its own numbers. */
  grid: PixelGrid;
  /** Carries positions of the target's plane, by twos, to its own numbers, in place; NaN where there is no image. */
  toSource: MapPoints;
}

/** Pixels of a source that are worked on at once; more than that is done in pieces. */
const MOST_PIXELS = 1 << 22;

/** Target pixels to source pixels, exactly. */
export function pixelsToSource(target: PixelGrid, { grid, toSource }: Pick<WarpSource, 'grid' | 'toSource'>): MapPoints {
  const back = inverseMap(grid.map);
  return (points) => {
    toGround(target, points);
    toSource(points);
    through(back, points);
  };
}

/**
 * A window of the target, from several sources: of those that have a value at a place, the first one gives it.
 *
 * @param like bands and samples of the target, which are those of all sources
 * @param positionsIn how positions in a source are worked out
 * @returns its pixels; `valid` says where there are any
 */
export async function warpWindow(
  target: PixelGrid,
  sources: readonly WarpSource[],
  like: Pick<ImageInfo, 'bands' | 'sampleType'>,
  resampling: Resampling,
  window: PixelWindow,
  positionsIn: typeof sourcePositions = sourcePositions,
): Promise<Raster> {
  const out = emptyRaster(like.sampleType, window.width, window.height, like.bands);
  for (const source of sources) {
    if (out.valid!.every((v) => v === 1)) break;
    await fillFrom(out, window, target, source, resampling, positionsIn);
  }
  return out;
}

async function fillFrom(
  out: Raster,
  window: PixelWindow,
  target: PixelGrid,
  source: WarpSource,
  resampling: Resampling,
  positionsIn: typeof sourcePositions,
): Promise<void> {
  const { image } = source;
  const positions = positionsIn(pixelsToSource(target, source), window.x, window.y, window.width, window.height);
  try {
    const footprint = footprintOf(positions, window.width, window.height);
    const needed = neededOf(positions, image.info, reach(resampling, footprint));
    if (!needed) return;
    if (needed.width * needed.height <= MOST_PIXELS || window.width * window.height === 1) {
      const raster = await image.read(needed);
      return resampleInto(out, positions, { window: needed, raster }, resampling, footprint, image.info);
    }
  } finally {
    giveBack(positions);
  }
  for (const part of halves(window)) {
    const own = cut(out, window, part);
    await fillFrom(own, part, target, source, resampling, positionsIn);
    put(out, window, own, part);
  }
}

/** The window of a source that holds positions in it and what is looked at around them; null where none lies in it. */
function neededOf(positions: Float64Array, { width, height }: ImageInfo, [rx, ry]: readonly [number, number]): PixelWindow | null {
  let [x0, y0, x1, y1] = [Infinity, Infinity, -Infinity, -Infinity];
  for (let k = 0; k < positions.length; k += 2) {
    const u = positions[k]!,
      v = positions[k + 1]!;
    if (!(u >= 0 && v >= 0 && u < width && v < height)) continue;
    if (u < x0) x0 = u;
    if (u > x1) x1 = u;
    if (v < y0) y0 = v;
    if (v > y1) y1 = v;
  }
  if (x1 < x0) return null;
  const x = Math.max(0, Math.floor(x0) - rx),
    y = Math.max(0, Math.floor(y0) - ry);
  return { x, y, width: Math.min(width, Math.floor(x1) + rx + 1) - x, height: Math.min(height, Math.floor(y1) + ry + 1) - y };
}

function halves({ x, y, width, height }: PixelWindow): PixelWindow[] {
  if (width >= height) {
    const left = width >> 1;
    return [
      { x, y, width: left, height },
      { x: x + left, y, width: width - left, height },
    ];
  }
  const top = height >> 1;
  return [
    { x, y, width, height: top },
    { x, y: y + top, width, height: height - top },
  ];
}

/** A part of a raster by itself. */
export function cut(raster: Raster, window: PixelWindow, part: PixelWindow): Raster {
  const { bands } = raster;
  const data = raster.data.slice(0, part.width * part.height * bands);
  const valid = raster.valid && new Uint8Array(part.width * part.height);
  for (let r = 0; r < part.height; r++) {
    const from = (part.y - window.y + r) * window.width + part.x - window.x;
    data.set(raster.data.subarray(from * bands, (from + part.width) * bands), r * part.width * bands);
    valid?.set(raster.valid!.subarray(from, from + part.width), r * part.width);
  }
  return { width: part.width, height: part.height, bands, data, valid };
}

/** Puts a part back into a raster. */
export function put(raster: Raster, window: PixelWindow, own: Raster, part: PixelWindow): void {
  const { bands } = raster;
  for (let r = 0; r < part.height; r++) {
    const to = (part.y - window.y + r) * window.width + part.x - window.x;
    raster.data.set(own.data.subarray(r * part.width * bands, (r + 1) * part.width * bands), to * bands);
    if (raster.valid) {
      if (own.valid) raster.valid.set(own.valid.subarray(r * part.width, (r + 1) * part.width), to);
      else raster.valid.fill(1, to, to + part.width);
    }
  }
}
