import type { Crs } from '../../crs/crs';
import type { OpenImage } from '../../formats/image-face';
import { niceStep } from '../../geometry/nice-step';
import type { PixelWindow, Raster } from '../../model/raster';
import { emptyRaster } from '../../model/raster';
import { Problem } from '../../model/problem';
import type { PixelGrid } from '../../raster/pixel-grid';
import { Ground, type Tin } from './tin';

/** What stands where there is no ground: below every height of land and sea; common practice, no source. */
const NO_GROUND = -9999;

/** Pixels of a grid that is not worked out: more are no elevation model of anything that somebody drew. */
const MOST_PIXELS = 4e9;

/** Share of a triangle by which the middle of a pixel may lie outside: on a side that two share, rounding must not put it outside both. */
const ON_SIDE = -1e-9;

/** A size of pixels that shows what a surface holds: about half of how far its points lie apart. */
export function usualPixel({ xyz, triangles }: Tin): number {
  let area = 0;
  for (let t = 0; t < triangles.length; t += 3) area += twiceArea(xyz, triangles, t) / 2;
  return niceStep(Math.sqrt(area / (xyz.length / 3)) / 2);
}

/** Twice the area of a triangle in plan. */
function twiceArea(xyz: Float64Array, triangles: Uint32Array, t: number): number {
  const [a, b, c] = [3 * triangles[t]!, 3 * triangles[t + 1]!, 3 * triangles[t + 2]!];
  return (xyz[b]! - xyz[a]!) * (xyz[c + 1]! - xyz[a + 1]!) - (xyz[c]! - xyz[a]!) * (xyz[b + 1]! - xyz[a + 1]!);
}

/**
 * A surface as an image of one band: the height at the middle of every pixel, worked out by windows as they are asked for.
 * @param pixel along both axes, in units of the coordinates; pixels lie at multiples of it
 * @throws Problem `grid-large`
 */
export function surfaceImage(tin: Tin, crs: Crs, pixel: number): OpenImage {
  const grid = gridOver(tin, pixel);
  const ground = new Ground(tin);
  return {
    info: {
      width: grid.width,
      height: grid.height,
      bands: 1,
      sampleType: 'float32',
      colour: 'data',
      alpha: false,
      nodata: NO_GROUND,
      masked: false,
      palette: null,
    },
    where: { grid, pairs: null, crs, crsText: null },
    version: 'surface',
    unpacked: false,
    read: (window) => Promise.resolve(heightsIn(ground, grid, window)),
    close: () => Promise.resolve(),
  };
}

function gridOver({ xyz }: Tin, pixel: number): PixelGrid {
  let [minx, miny, maxx, maxy] = [Infinity, Infinity, -Infinity, -Infinity];
  for (let k = 0; k < xyz.length; k += 3) {
    minx = Math.min(minx, xyz[k]!);
    maxx = Math.max(maxx, xyz[k]!);
    miny = Math.min(miny, xyz[k + 1]!);
    maxy = Math.max(maxy, xyz[k + 1]!);
  }
  const [left, top] = [Math.floor(minx / pixel) * pixel, Math.ceil(maxy / pixel) * pixel];
  const [width, height] = [Math.max(1, Math.ceil((maxx - left) / pixel)), Math.max(1, Math.ceil((top - miny) / pixel))];
  if (!(width * height <= MOST_PIXELS))
    throw new Problem('grid-large', `Pixels of ${pixel} would be ${width} by ${height}: too many to be worked out. Choose larger ones.`);
  return { map: [left, pixel, 0, top, 0, -pixel], width, height };
}

/** The heights of a window, triangle by triangle: those of two that share a side are the same on it. */
function heightsIn(ground: Ground, { map }: PixelGrid, { x, y, width, height }: PixelWindow): Raster {
  const { xyz, triangles } = ground.tin;
  const raster = emptyRaster('float32', width, height, 1);
  raster.data.fill(NO_GROUND);
  const [left, size, top] = [map[0] + x * map[1], map[1], map[3] + y * map[5]];
  const column = (e: number): number => (e - left) / size - 0.5,
    row = (n: number): number => (top - n) / size - 0.5;
  for (const t of ground.within(left, top - height * size, left + width * size, top)) {
    const [a, b, c] = [3 * triangles[3 * t]!, 3 * triangles[3 * t + 1]!, 3 * triangles[3 * t + 2]!];
    const twice = twiceArea(xyz, triangles, 3 * t);
    if (twice === 0) continue;
    const columns = [column(xyz[a]!), column(xyz[b]!), column(xyz[c]!)],
      rows = [row(xyz[a + 1]!), row(xyz[b + 1]!), row(xyz[c + 1]!)];
    const [from, to] = [Math.max(0, Math.ceil(Math.min(...columns))), Math.min(width - 1, Math.floor(Math.max(...columns)))];
    for (let r = Math.max(0, Math.ceil(Math.min(...rows))); r <= Math.min(height - 1, Math.floor(Math.max(...rows))); r++) {
      const n = top - (r + 0.5) * size;
      for (let k = from; k <= to; k++) {
        const e = left + (k + 0.5) * size;
        const share = (p: number, q: number): number => ((xyz[p]! - e) * (xyz[q + 1]! - n) - (xyz[q]! - e) * (xyz[p + 1]! - n)) / twice;
        const [wa, wb, wc] = [share(b, c), share(c, a), share(a, b)];
        if (wa < ON_SIDE || wb < ON_SIDE || wc < ON_SIDE) continue;
        raster.data[r * width + k] = wa * xyz[a + 2]! + wb * xyz[b + 2]! + wc * xyz[c + 2]!;
        raster.valid![r * width + k] = 1;
      }
    }
  }
  return raster;
}
