import sharp from 'sharp';
import type { ImageInfo, PixelWindow, Raster } from '@pontrel/core/model/raster';
import type { PixelGrid } from '@pontrel/core/raster/pixel-grid';
import { cut, type ImageReader } from '@pontrel/core/raster/warp';
import type { Mark } from './ground-plan';
import { seeded } from './random';

type Box = readonly [number, number, number, number];

/** A picture in memory, with where it lies. */
export interface Rendered extends ImageReader {
  grid: PixelGrid;
  raster: Raster;
}

/** Draws marks over a box, in pixels of so many metres, with the grain that a camera leaves. @param grain in values of a sample */
export async function rendered(marks: readonly Mark[], box: Box, pixel: number, seed: number, grain: number): Promise<Rendered> {
  const [width, height] = [Math.round((box[2] - box[0]) / pixel), Math.round((box[3] - box[1]) / pixel)];
  const data = new Uint8Array(width * height * 3);
  // drawn in bands, since a drawing of everything at once is large
  const BAND = 720;
  for (let y = 0; y < height; y += BAND) {
    const rows = Math.min(BAND, height - y);
    const svg = drawing(marks, box, pixel, y, width, rows);
    const { data: band } = await sharp(Buffer.from(svg), { limitInputPixels: false, unlimited: true })
      .flatten({ background: '#7c8455' })
      .removeAlpha()
      .raw()
      .toBuffer({ resolveWithObject: true });
    data.set(band, y * width * 3);
  }
  grained(data, width, height, seed, grain);
  const info = colourInfo(width, height);
  const raster: Raster = { width, height, bands: 3, data, valid: null };
  return inMemory(raster, info, { map: [box[0], pixel, 0, box[3], 0, -pixel], width, height });
}

/** A picture of red, green and blue. */
export const colourInfo = (width: number, height: number): ImageInfo => ({
  width,
  height,
  bands: 3,
  sampleType: 'uint8',
  colour: 'rgb',
  alpha: false,
  nodata: null,
  masked: false,
  palette: null,
});

/** A raster as a picture that is read by windows. */
export const inMemory = (raster: Raster, info: ImageInfo, grid: PixelGrid): Rendered => ({
  raster,
  info,
  grid,
  read: (window: PixelWindow) => Promise.resolve(cut(raster, { x: 0, y: 0, width: raster.width, height: raster.height }, window)),
});

function drawing(marks: readonly Mark[], box: Box, pixel: number, top: number, width: number, height: number): string {
  const round = (v: number): number => Math.round(v * 10) / 10;
  const parts = marks.flatMap(({ points, colour, width: w, dash, opacity = 1 }) => {
    let [low, high] = [Infinity, -Infinity];
    const path = points
      .map(([x, y], k) => {
        const py = (box[3] - y) / pixel - top;
        low = Math.min(low, py);
        high = Math.max(high, py);
        return `${k === 0 ? 'M' : 'L'}${round((x - box[0]) / pixel)} ${round(py)}`;
      })
      .join('');
    const reach = (w ?? 0) / pixel;
    if (high < -reach || low > height + reach) return [];
    const see = opacity < 1 ? ` opacity="${opacity}"` : '';
    if (w === undefined) return [`<path d="${path}Z" fill="${colour}"${see}/>`];
    const dashes = dash ? ` stroke-dasharray="${dash.map((d) => round(d / pixel)).join(' ')}"` : '';
    return [`<path d="${path}" fill="none" stroke="${colour}" stroke-width="${round(w / pixel)}" stroke-linejoin="round"${dashes}${see}/>`];
  });
  return `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}" viewBox="0 0 ${width} ${height}">${parts.join('')}</svg>`;
}

/** Smooth noise of some sizes, and the grain of single pixels. */
function grained(data: Uint8Array, width: number, height: number, seed: number, grain: number): void {
  const random = seeded(seed + 5);
  const octaves = [220, 61, 17, 5].map((size, k) => ({
    size,
    weight: [7, 6, 5, 5][k]!,
    at: lattice(width / size + 3, height / size + 3, random),
  }));
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      let light = (random() + random() - 1) * grain;
      for (const { size, weight, at } of octaves) light += weight * at(x / size, y / size);
      const i = 3 * (y * width + x);
      for (let b = 0; b < 3; b++) data[i + b] = Math.max(0, Math.min(255, data[i + b]! + light));
    }
}

/** Values of a lattice, from -1 to 1, and linearly between them. */
function lattice(w: number, h: number, random: () => number): (x: number, y: number) => number {
  const [columns, rows] = [Math.ceil(w), Math.ceil(h)];
  const values = Float32Array.from({ length: columns * rows }, () => 2 * random() - 1);
  return (x, y) => {
    const [c, r] = [Math.floor(x), Math.floor(y)];
    const [u, v] = [x - c, y - r];
    const at = (dc: number, dr: number): number => values[Math.min(rows - 1, r + dr) * columns + Math.min(columns - 1, c + dc)]!;
    return (at(0, 0) * (1 - u) + at(1, 0) * u) * (1 - v) + (at(0, 1) * (1 - u) + at(1, 1) * u) * v;
  };
}
