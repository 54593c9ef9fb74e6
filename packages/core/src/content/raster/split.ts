import type { ImageFormat } from '../../formats/format';
import type { ImageWriter, OpenImage, TargetImage } from '../../formats/image-face';
import { type Bounds, overlapping } from '../../geometry/bounds';
import type { FolderSink, FolderSource } from '../../io/bytes';
import type { Findings } from '../../model/finding';
import { Problem } from '../../model/problem';
import { emptyRaster, type PixelWindow, type Raster } from '../../model/raster';
import { corners, extentOfGrid, type PixelGrid, pixelSize } from '../../raster/pixel-grid';
import { cut, put } from '../../raster/warp';
import { type Like, stateEmpty } from './like';

/** How a picture is split into tiles, each a file of its own. */
export type Split = (
  | { by: 'grid'; rows: number; columns: number }
  | { by: 'pixels'; width: number; height: number }
  /** In units of the target. */
  | { by: 'ground'; width: number; height: number }
) & {
  /** Pixels by which each tile reaches over into those to its right and below. */
  overlap: number;
  names: 'number' | 'row-column';
};

/** A tile of a picture that is split. */
export interface SplitTile {
  stem: string;
  window: PixelWindow;
}

/** Tiles of one picture: beyond that the size of a tile is a slip. */
const MOST_TILES = 10_000;

/**
 * The tiles of a picture; those in which nothing lies are left out.
 * @param covered what the pictures cover in the target
 * @throws Problem `split-many`, and `split-size` where a tile would have no pixel
 */
export function splitTiles(split: Split, grid: PixelGrid, stem: string, covered: readonly Bounds[]): SplitTile[] {
  const [w, h] = tileSize(split, grid);
  if (!(w >= 1 && h >= 1)) throw new Problem('split-size', 'A tile would have no pixel. Choose larger tiles, or fewer.');
  const [columns, rows] = [Math.ceil(grid.width / w), Math.ceil(grid.height / h)];
  if (columns * rows > MOST_TILES)
    throw new Problem('split-many', `It would be split into ${columns * rows} tiles; ${MOST_TILES} are the most. Choose larger tiles.`);
  const digits = String(columns * rows).length;
  const tiles: SplitTile[] = [];
  for (let r = 0; r < rows; r++)
    for (let c = 0; c < columns; c++) {
      const [x, y] = [c * w, r * h];
      const window = {
        x,
        y,
        width: Math.min(grid.width, x + w + split.overlap) - x,
        height: Math.min(grid.height, y + h + split.overlap) - y,
      };
      const name = split.names === 'number' ? String(r * columns + c + 1).padStart(digits, '0') : `r${r + 1}_c${c + 1}`;
      const box = extentOfGrid(tileGrid(grid, window));
      if (covered.some((b) => overlapping(b, box))) tiles.push({ stem: `${stem}_${name}`, window });
    }
  return tiles;
}

function tileSize(split: Split, grid: PixelGrid): [number, number] {
  const [dx, dy] = pixelSize(grid);
  switch (split.by) {
    case 'grid':
      return [Math.ceil(grid.width / split.columns), Math.ceil(grid.height / split.rows)];
    case 'pixels':
      return [split.width, split.height];
    case 'ground':
      return [Math.round(split.width / dx), Math.round(split.height / dy)];
  }
}

/** Where the pixels of a part of a grid lie. */
export function tileGrid({ map: a }: PixelGrid, { x, y, width, height }: PixelWindow): PixelGrid {
  return { map: [a[0] + a[1] * x + a[2] * y, a[1], a[2], a[3] + a[4] * x + a[5] * y, a[4], a[5]], width, height };
}

/**
 * A format that writes a picture as tiles of another one, and reads these back as the picture that they are together. Whoever writes and
 * proves a picture need not know that it is split.
 */
export function splitFormat(format: ImageFormat, tiles: readonly SplitTile[], whole: PixelGrid, like: Like): ImageFormat {
  const { write, ...face } = format.images;
  return {
    ...format,
    images: {
      ...face,
      write: {
        ...write!,
        files: (_stem, options) => tiles.flatMap((t) => write!.files(t.stem, options)),
        create: (folder, image) => Promise.resolve(new SplitWriter(format, tiles, folder, image)),
        readBack: (folder, image, findings) => readTiles(format, tiles, whole, like, folder, image, findings),
      },
    },
  };
}

/** Rows that are wanted at once. */
const ROWS = 512;

class SplitWriter implements ImageWriter {
  readonly rows = ROWS;
  private y = 0;
  private readonly open = new Map<SplitTile, { writer: ImageWriter; waiting: Raster; from: number }>();

  constructor(
    private readonly format: ImageFormat,
    private readonly tiles: readonly SplitTile[],
    private readonly folder: FolderSink,
    private readonly image: TargetImage,
  ) {}

  async append(rows: Raster): Promise<void> {
    const [top, end] = [this.y, this.y + rows.height];
    this.y = end;
    for (const tile of this.tiles) {
      const { window } = tile;
      const [first, last] = [Math.max(top, window.y), Math.min(end, window.y + window.height)];
      if (first >= last) continue;
      const own = this.open.get(tile) ?? (await this.begin(tile));
      // rows wait until as many are there as the format wants
      for (let y = first; y < last;) {
        const n = Math.min(last - y, own.waiting.height - (y - own.from));
        const part = { x: window.x, y, width: window.width, height: n };
        put(
          own.waiting,
          { x: window.x, y: own.from, width: window.width, height: own.waiting.height },
          cut({ ...rows, valid: null }, { x: 0, y: top, width: rows.width, height: rows.height }, part),
          part,
        );
        y += n;
        if (y - own.from < own.waiting.height) continue;
        await own.writer.append(own.waiting);
        own.from = y;
        own.waiting = this.waitingFor(own.writer, window, y);
      }
      if (last < window.y + window.height) continue;
      await own.writer.close();
      this.open.delete(tile);
    }
  }

  private async begin(tile: SplitTile): Promise<{ writer: ImageWriter; waiting: Raster; from: number }> {
    const { image } = this;
    const { window, stem } = tile;
    const info = { ...image.info, width: window.width, height: window.height };
    const writer = await this.format.images.write!.create(this.folder, { ...image, info, grid: tileGrid(image.grid, window), stem });
    const own = { writer, waiting: this.waitingFor(writer, window, window.y), from: window.y };
    this.open.set(tile, own);
    return own;
  }

  /** Room for the rows that a tile gets next. */
  private waitingFor(writer: ImageWriter, window: PixelWindow, from: number): Raster {
    const { sampleType, bands } = this.image.info;
    return {
      ...emptyRaster(sampleType, window.width, Math.max(0, Math.min(writer.rows, window.y + window.height - from)), bands),
      valid: null,
    };
  }

  async close(): Promise<void> {
    if (this.open.size > 0) throw new Error('Rows are missing.');
  }
}

/** The tiles as one picture, each where its own file says that it lies. */
async function readTiles(
  format: ImageFormat,
  tiles: readonly SplitTile[],
  whole: PixelGrid,
  like: Like,
  folder: FolderSource,
  image: Pick<TargetImage, 'stem' | 'options'>,
  findings: Findings,
): Promise<OpenImage> {
  const opened: { tile: SplitTile; image: OpenImage }[] = [];
  const closeAll = async (): Promise<void> => {
    for (const { image: own } of opened) await own.close();
  };
  try {
    for (const tile of tiles)
      opened.push({ tile, image: await format.images.write!.readBack(folder, { ...image, stem: tile.stem }, findings) });
    const first = opened[0]!.image;
    for (const { tile, image: own } of opened)
      if (own.info.width !== tile.window.width || own.info.height !== tile.window.height || own.info.bands !== first.info.bands)
        throw new Problem(
          'tile-differs',
          `${tile.stem} is ${own.info.width} by ${own.info.height} pixels where it should be ${tile.window.width} by ${tile.window.height}.`,
        );
    return {
      ...first,
      info: { ...first.info, width: whole.width, height: whole.height },
      where: {
        ...first.where,
        grid: worstGrid(opened, whole),
        crs: opened.every(({ image: own }) => sameCrs(own, first)) ? first.where.crs : null,
      },
      read: (window) => readOver(opened, window, like),
      close: closeAll,
    };
  } catch (error) {
    await closeAll();
    throw error;
  }
}

const sameCrs = (a: OpenImage, b: OpenImage): boolean => (a.where.crs?.id ?? a.where.crs?.name) === (b.where.crs?.id ?? b.where.crs?.name);

/** The grid of the whole as the tile says it that lies farthest off where it should; null where one does not say where it lies. */
function worstGrid(opened: readonly { tile: SplitTile; image: OpenImage }[], whole: PixelGrid): PixelGrid | null {
  let worst: PixelGrid = whole;
  let most = -1;
  for (const {
    tile: { window },
    image,
  } of opened) {
    if (!image.where.grid) return null;
    const { map: a } = image.where.grid;
    const own: PixelGrid = {
      ...whole,
      map: [a[0] - a[1] * window.x - a[2] * window.y, a[1], a[2], a[3] - a[4] * window.x - a[5] * window.y, a[4], a[5]],
    };
    const [stated, wanted] = [corners(own), corners(whole)];
    const off = Math.max(...stated.map((v, k) => Math.abs(v - wanted[k]!)));
    if (off > most) [worst, most] = [own, off];
  }
  return worst;
}

async function readOver(opened: readonly { tile: SplitTile; image: OpenImage }[], window: PixelWindow, like: Like): Promise<Raster> {
  const out = emptyRaster(like.sampleType, window.width, window.height, like.bands);
  // where no tile lies there is nothing, as a tile would say it
  stateEmpty(out, like);
  for (const { tile, image } of [...opened].reverse()) {
    const t = tile.window;
    const [x, y] = [Math.max(window.x, t.x), Math.max(window.y, t.y)];
    const [right, bottom] = [Math.min(window.x + window.width, t.x + t.width), Math.min(window.y + window.height, t.y + t.height)];
    if (x >= right || y >= bottom) continue;
    const own = await image.read({ x: x - t.x, y: y - t.y, width: right - x, height: bottom - y });
    put(out, window, own, { x, y, width: right - x, height: bottom - y });
  }
  return out;
}
