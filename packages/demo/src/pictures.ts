import { createTiff, type TiffOptions } from '@pontrel/core/formats/geotiff/write';
import { putWorldFile } from '@pontrel/core/formats/picture/world-file';
import { lookupCrs } from '@pontrel/core/crs/registry/registry';
import type { FolderSink } from '@pontrel/core/io/bytes';
import type { ImageInfo, Raster } from '@pontrel/core/model/raster';
import type { Crs } from '@pontrel/core/crs/crs';
import { imageEngine } from '@pontrel/core/io/image-engine';
import { gridOver, type PixelGrid } from '@pontrel/core/raster/pixel-grid';
import { cut, warpWindow } from '@pontrel/core/raster/warp';
import { pointMaps, routeTo } from '@pontrel/core/placement/route';
import { extentOfGrid } from '@pontrel/core/raster/pixel-grid';
import { rendered, type Rendered } from './aerial';
import { parcels } from './atlas';
import { townFromAbove } from './ground-plan';
import { scannedPlan } from './plan-scan';
import { seeded } from './random';
import { ground, townAt } from './town';

/** What the pictures show, NZGD2000 / NZTM 2000, metres. */
const BOX = [1_463_840, 5_101_140, 1_464_640, 5_101_860] as const;

const NZTM = lookupCrs('EPSG:2193')!;
const OLD_GRID = lookupCrs('EPSG:27200')!;

/** Metres of a pixel of the orthophoto. */
const PIXEL = 0.25;

/** Tiles of the orthophoto, in pixels of the whole, and by how much each is lighter or darker than it should be. */
const TILES = [
  { x: 0, y: 0, width: 1720, height: 1520, plus: 0 },
  { x: 1480, y: 0, width: 1720, height: 1520, plus: -15 },
  { x: 0, y: 1360, width: 1720, height: 1520, plus: 3 },
  { x: 1480, y: 1360, width: 1720, height: 1520, plus: -2 },
] as const;

/** Writes the pictures of the town into a folder. */
export async function writePictures(folder: FolderSink, seed: number): Promise<void> {
  const lots = parcels(seed);
  const now = await rendered(townFromAbove(seed, lots), BOX, PIXEL, seed, 9);
  await writeOrthophoto(folder, now);
  await writeOldPhotograph(folder, await rendered(townFromAbove(seed, lots, 0.55), BOX, 0.5, seed + 1, 16));
  await writeScan(folder, seed);
  await writeElevation(folder);
}

async function writeOrthophoto(folder: FolderSink, { raster, info, grid }: Rendered): Promise<void> {
  const whole = { x: 0, y: 0, width: info.width, height: info.height };
  for (const [k, { plus, ...window }] of TILES.entries()) {
    const tile = cut(raster, whole, window);
    for (let i = 0; i < tile.data.length; i++) tile.data[i] = Math.max(1, Math.min(255, tile.data[i]! + plus));
    const map = [grid.map[0] + window.x * PIXEL, PIXEL, 0, grid.map[3] - window.y * PIXEL, 0, -PIXEL] as const;
    await writeTiff(
      folder,
      `ortho_2025_${k + 1}.tif`,
      tile,
      { ...info, ...sizeOf(window) },
      { grid: { map, ...sizeOf(window) }, crs: NZTM },
      'deflate',
    );
  }
}

const sizeOf = ({ width, height }: { width: number; height: number }): { width: number; height: number } => ({ width, height });

async function writeTiff(
  folder: FolderSink,
  name: string,
  raster: Raster,
  info: ImageInfo,
  place: { grid: PixelGrid; crs: Crs } | null,
  packing: TiffOptions['packing'],
): Promise<void> {
  const writer = await createTiff(await folder.create(name), info, { packing, quality: 88, overviews: false, place });
  const row = raster.width * raster.bands;
  for (let y = 0; y < raster.height; y += writer.rows) {
    const height = Math.min(writer.rows, raster.height - y);
    await writer.append({ ...raster, height, data: raster.data.slice(y * row, (y + height) * row) });
  }
  await writer.close();
}

/** The photograph of 1962: grey, on the old grid, with the dark edge of its film, and nothing that says which grid that is. */
async function writeOldPhotograph(folder: FolderSink, now: Rendered): Promise<void> {
  const ways = pointMaps(routeTo({ crs: NZTM, parameters: { unit_m: null }, extent: extentOfGrid(now.grid) }, OLD_GRID));
  const middle = Float64Array.of((BOX[0] + BOX[2]) / 2, (BOX[1] + BOX[3]) / 2);
  ways.toTarget(middle);
  const pixel = 0.42;
  const [width, height] = [1600, 1500];
  const grid = gridOver(
    [
      middle[0]! - (width / 2) * pixel,
      middle[1]! - (height / 2) * pixel,
      middle[0]! + (width / 2) * pixel,
      middle[1]! + (height / 2) * pixel,
    ],
    [pixel, pixel],
  );
  const window = { x: 0, y: 0, width, height };
  const warped = await warpWindow(grid, [{ image: now, grid: now.grid, toSource: ways.toSource }], now.info, 'bilinear', window);
  const grey = new Uint8Array(width * height);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const i = y * width + x;
      const [r, g, b] = [warped.data[3 * i]!, warped.data[3 * i + 1]!, warped.data[3 * i + 2]!];
      const away = Math.hypot(x / width - 0.5, y / height - 0.5);
      const light = 0.5 * r + 0.4 * g + 0.1 * b;
      const edge = Math.min(x, y, width - 1 - x, height - 1 - y);
      // film darkens towards its corners, and ends in a frame
      grey[i] = edge < 26 ? 22 : Math.max(0, Math.min(255, (light - 118) * 1.25 * (1 - 0.5 * away ** 2) + 128 - 70 * away ** 2));
    }
  const name = 'aerial_1962';
  await putWorldFile(folder, `${name}.jgw`, grid.map);
  const sink = await folder.create(`${name}.jpg`);
  await sink.write(await imageEngine().jpeg(grey, width, height, 1, 88));
  await sink.close();
}

async function writeScan(folder: FolderSink, seed: number): Promise<void> {
  const { raster, info } = await scannedPlan(seed);
  await writeTiff(folder, 'quay_plan_1938.tif', raster, info, null, 'jpeg');
}

/** Heights of the ground as an elevation model; none in the sea. */
async function writeElevation(folder: FolderSink): Promise<void> {
  const pixel = 2;
  const grid = gridOver([...BOX], [pixel, pixel]);
  const { width, height } = grid;
  const random = seeded(7);
  const data = new Float32Array(width * height);
  for (let r = 0; r < height; r++)
    for (let c = 0; c < width; c++) {
      const [u, v] = townAt([BOX[0] + (c + 0.5) * pixel, BOX[3] - (r + 0.5) * pixel]);
      data[r * width + c] = u < -1 ? -9999 : Math.round(1000 * (ground(u, v) + 0.04 * (random() - 0.5))) / 1000;
    }
  const info: ImageInfo = {
    width,
    height,
    bands: 1,
    sampleType: 'float32',
    colour: 'grey',
    alpha: false,
    nodata: -9999,
    masked: false,
    palette: null,
  };
  await writeTiff(folder, 'elevation_2m.tif', { width, height, bands: 1, data, valid: null }, info, { grid, crs: NZTM }, 'deflate');
}
