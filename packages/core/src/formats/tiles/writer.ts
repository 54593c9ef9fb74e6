import { imageEngine } from '../../io/image-engine';
import type { ImageInfo, Raster } from '../../model/raster';
import { halve } from '../../raster/halve';
import { cut } from '../../raster/warp';
import type { ImageWriter } from '../image-face';

/** Pixels along a side of a tile. */
export const TILE = 256;

/** How tiles are packed. */
export type TilePacking = 'png' | 'jpeg';

/** Takes a tile of one size; sizes are counted from the whole picture (0) to the smallest. */
export type PutTile = (size: number, column: number, row: number, bytes: Uint8Array) => void | Promise<void>;

/** Sizes of a picture, each half as large as the one before, until it lies in a tile or so. */
export function sizesOf(width: number, height: number): number {
  let n = 1;
  for (let side = Math.max(width, height); side > TILE; side /= 2) n++;
  return n;
}

/** One size of the picture on its way into tiles. Columns and rows are those of its whole plane of pixels. */
interface Size {
  x: number;
  width: number;
  /** The row that comes next, and the one after the last. */
  y: number;
  end: number;
  waiting: Raster[];
  /** The first row that waits. */
  from: number;
}

const INFO: Pick<ImageInfo, 'bands' | 'alpha' | 'nodata' | 'palette' | 'sampleType'> = {
  bands: 4,
  alpha: true,
  nodata: null,
  palette: null,
  sampleType: 'uint8',
};

/**
 * Cuts a picture of red, green, blue and alpha into tiles at all of its sizes, from the top to the bottom. Tiles in which nothing is to be
 * seen are left out.
 * @param origin column and row of the plane of pixels at which the picture begins
 * @param whole whether all tiles are of one size; else they end where the picture does
 */
export class TileWriter implements ImageWriter {
  readonly rows = TILE;
  private readonly sizes: Size[];
  private readonly left: number;
  private readonly top: number;

  constructor(
    private readonly picture: { width: number; height: number },
    origin: readonly [number, number],
    private readonly packing: TilePacking,
    private readonly quality: number,
    private readonly put: PutTile,
    private readonly done: () => void | Promise<void>,
    private readonly whole = true,
  ) {
    const count = sizesOf(picture.width, picture.height);
    // pixels of the smallest size are whole ones of all others
    const step = 2 ** (count - 1);
    this.left = ((origin[0] % step) + step) % step;
    this.top = ((origin[1] % step) + step) % step;
    const [x, y] = [origin[0] - this.left, origin[1] - this.top];
    const [w, h] = [this.left + picture.width, this.top + picture.height];
    this.sizes = Array.from({ length: count }, (_, k) => {
      const by = 2 ** k;
      const from = y / by;
      return { x: x / by, width: Math.ceil(w / by), y: from, end: from + Math.ceil(h / by), waiting: [], from };
    });
  }

  async append(rows: Raster): Promise<void> {
    const [first] = this.sizes as [Size];
    if (first.y === first.from && first.waiting.length === 0 && this.top > 0) await this.take(0, this.blank(this.top));
    await this.take(0, this.left === 0 ? rows : this.widened(rows));
  }

  async close(): Promise<void> {
    await this.done();
  }

  private blank(height: number): Raster {
    const width = this.left + this.picture.width;
    return { width, height, bands: 4, data: new Uint8Array(4 * width * height), valid: null };
  }

  /** Rows with the columns before the picture, in which nothing is to be seen. */
  private widened(rows: Raster): Raster {
    const out = this.blank(rows.height);
    for (let r = 0; r < rows.height; r++)
      out.data.set(rows.data.subarray(4 * r * rows.width, 4 * (r + 1) * rows.width), 4 * (r * out.width + this.left));
    return out;
  }

  private async take(number: number, rows: Raster): Promise<void> {
    const size = this.sizes[number]!;
    size.waiting.push(rows);
    size.y += rows.height;
    // a row of tiles ends at a multiple of their side, the last one where the picture does
    for (let end = this.nextEnd(size); size.y >= end && size.from < size.end; end = this.nextEnd(size)) {
      const strip = this.first(size, end - size.from);
      await this.writeTiles(number, size, strip);
      size.from = end;
      if (number + 1 < this.sizes.length) await this.take(number + 1, halve(strip, INFO));
    }
  }

  private nextEnd(size: Size): number {
    return Math.min(size.end, (Math.floor(size.from / TILE) + 1) * TILE);
  }

  /** Takes the first rows of those that wait. */
  private first(size: Size, height: number): Raster {
    const { width } = size;
    const data = new Uint8Array(4 * width * height);
    for (let filled = 0; filled < height;) {
      const next = size.waiting[0]!;
      const n = Math.min(next.height, height - filled);
      data.set(next.data.subarray(0, 4 * width * n) as Uint8Array, 4 * width * filled);
      filled += n;
      if (n === next.height) size.waiting.shift();
      else {
        const rest = { x: 0, y: n, width, height: next.height - n };
        size.waiting[0] = cut(next, { x: 0, y: 0, width, height: next.height }, rest);
      }
    }
    return { width, height, bands: 4, data, valid: null };
  }

  private async writeTiles(number: number, size: Size, strip: Raster): Promise<void> {
    const row = Math.floor(size.from / TILE);
    const top = size.from - row * TILE;
    const [first, last] = [Math.floor(size.x / TILE), Math.floor((size.x + size.width - 1) / TILE)];
    const packed = await Promise.all(
      Array.from({ length: last - first + 1 }, (_, k) => {
        const width = this.whole ? TILE : Math.min(TILE, size.x + size.width - (first + k) * TILE),
          height = this.whole ? TILE : Math.min(TILE, size.end - row * TILE);
        return this.packed(tileOf(strip, size.x - (first + k) * TILE, top, width, height), width, height);
      }),
    );
    for (const [k, bytes] of packed.entries()) if (bytes) await this.put(number, first + k, row, bytes);
  }

  private async packed(tile: Uint8Array, width: number, height: number): Promise<Uint8Array | null> {
    let [some, all] = [false, true];
    for (let k = 3; k < tile.length; k += 4) {
      if (tile[k]! > 0) some = true;
      if (tile[k]! < 255) all = false;
    }
    if (!some) return null;
    // a tile that is clear somewhere needs a way to say so
    if (this.packing === 'png' || !all) return imageEngine().png(tile, width, height);
    const colours = new Uint8Array(3 * width * height);
    for (let i = 0; i < width * height; i++) for (let b = 0; b < 3; b++) colours[3 * i + b] = tile[4 * i + b]!;
    return imageEngine().jpeg(colours, width, height, 3, this.quality);
  }
}

/** What of a strip lies in a tile. @param left column of the tile at which the strip begins, which may lie before it */
function tileOf(strip: Raster, left: number, top: number, width: number, height: number): Uint8Array {
  const tile = new Uint8Array(4 * width * height);
  const [from, to] = [Math.max(0, left), Math.min(width, left + strip.width)];
  for (let r = 0; r < strip.height; r++) {
    const at = r * strip.width - left;
    tile.set(strip.data.subarray(4 * (at + from), 4 * (at + to)) as Uint8Array, 4 * ((top + r) * width + from));
  }
  return tile;
}
