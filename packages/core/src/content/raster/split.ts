import type { ImageFormat } from '../../formats/format';
import type { ImageWriter, OpenImage, TargetImage } from '../../formats/image-face';
import { type Bounds, emptyBounds, grow, overlapping } from '../../geometry/bounds';
import type { FolderSink, FolderSource } from '../../io/bytes';
import type { Findings } from '../../model/finding';
import { FreeNames } from '../../model/free-names';
import { Problem } from '../../model/problem';
import { emptyRaster, type PixelWindow, type Raster, sharedWindow } from '../../model/raster';
import { corners, extentOfGrid, inverseMap, type PixelGrid, pixelSize, through } from '../../raster/pixel-grid';
import { cut, put } from '../../raster/warp';
import { maskOver } from '../../raster/mask';
import { type Like, stateEmpty } from './like';

/** How a picture is split into tiles, each a file of its own. */
export type Split = (
  | { by: 'grid'; rows: number; columns: number }
  | { by: 'pixels'; width: number; height: number }
  /** In units of the target. */
  | { by: 'ground'; width: number; height: number }
  /** In the target: a tile for each area, cut to its rings or as large as its box. */
  | { by: 'areas'; areas: readonly { name: string | null; rings: number[][] }[]; cut: boolean }
) & {
  /** Pixels by which each tile reaches over into those to its right and below; around an area on all sides. */
  overlap: number;
  names: 'number' | 'row-column';
};

/** A tile of a picture that is split. */
export interface SplitTile {
  stem: string;
  window: PixelWindow;
  /** Which pixels of a window of the whole belong to it; all of its own when absent. */
  within?: (window: PixelWindow) => Uint8Array;
}

/** Tiles of one picture: beyond that the size of a tile is a slip. */
const MOST_TILES = 10_000;

/**
 * The tiles of a picture; those in which nothing lies are left out.
 * @param covered what the pictures cover in the target
 * @throws Problem `split-many`, and `split-size` where a tile would have no pixel
 */
export function splitTiles(split: Split, grid: PixelGrid, stem: string, covered: readonly Bounds[]): SplitTile[] {
  if (split.by === 'areas') return areaTiles(split, grid, stem, covered);
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

/** A tile for each area that has pixels; those in which nothing lies are left out. */
function areaTiles(
  { areas, cut: cutting, overlap }: Split & { by: 'areas' },
  grid: PixelGrid,
  stem: string,
  covered: readonly Bounds[],
): SplitTile[] {
  if (areas.length > MOST_TILES)
    throw new Problem(
      'split-many',
      `It would be split into ${areas.length} tiles; ${MOST_TILES} are the most. Choose a layer with fewer areas.`,
    );
  const back = inverseMap(grid.map);
  const free = new FreeNames();
  const digits = String(areas.length).length;
  return areas.flatMap(({ name, rings }, k): SplitTile[] => {
    const box = emptyBounds();
    for (const ring of rings) {
      const p = Float64Array.from(ring);
      through(back, p);
      for (let i = 0; i < p.length; i += 2) grow(box, p[i]!, p[i + 1]!);
    }
    const x = Math.max(0, Math.floor(box[0] + ROUNDED) - overlap),
      y = Math.max(0, Math.floor(box[1] + ROUNDED) - overlap);
    const right = Math.min(grid.width, Math.ceil(box[2] - ROUNDED) + overlap),
      bottom = Math.min(grid.height, Math.ceil(box[3] - ROUNDED) + overlap);
    if (!(right > x && bottom > y)) return [];
    const window = { x, y, width: right - x, height: bottom - y };
    const own = extentOfGrid(tileGrid(grid, window));
    if (!covered.some((b) => overlapping(b, own))) return [];
    const file = `${stem}_${freeName(free, name === null ? String(k + 1).padStart(digits, '0') : cleaned(name))}`;
    return [{ stem: file, window, ...(cutting ? { within: maskOver(grid, rings) } : {}) }];
  });
}

/** Share of a pixel by which the edge of an area may reach into the next one by what numbers round. */
const ROUNDED = 1e-6;

/** A name as it may stand in a file's. */
const cleaned = (name: string): string =>
  name
    .normalize('NFC')
    .replace(/[^\p{L}\p{N}._-]+/gu, '_')
    .slice(0, 60);

/** A name that no other file has, whether or not its system tells capitals from small letters. */
function freeName(free: FreeNames, name: string): string {
  const lower = name.toLowerCase();
  return name + free.take(lower).slice(lower.length);
}

/** Which pixels of a window belong to some tile. */
export function withinTiles(tiles: readonly SplitTile[]): (window: PixelWindow) => Uint8Array {
  return (window) => {
    const out = new Uint8Array(window.width * window.height);
    for (const tile of tiles) {
      const own = sharedWindow(window, tile.window);
      if (!own) continue;
      const mask = tile.within?.(own);
      for (let r = 0; r < own.height; r++)
        for (let c = 0; c < own.width; c++)
          if (!mask || mask[r * own.width + c]) out[(own.y - window.y + r) * window.width + own.x - window.x + c] = 1;
    }
    return out;
  };
}

function tileSize(split: Exclude<Split, { by: 'areas' }>, grid: PixelGrid): [number, number] {
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
        create: (folder, image) => Promise.resolve(new SplitWriter(format, tiles, folder, image, like)),
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
    private readonly like: Like,
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
        const pixels = cut({ ...rows, valid: null }, { x: 0, y: top, width: rows.width, height: rows.height }, part);
        if (tile.within) stateEmpty({ ...pixels, valid: tile.within(part) }, this.like);
        put(own.waiting, { x: window.x, y: own.from, width: window.width, height: own.waiting.height }, pixels, part);
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
      parts: opened.map(({ tile: { window, within }, image: own }) => ({ window, within: within ?? null, image: own })),
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
    const part = sharedWindow(window, t);
    if (!part) continue;
    const own = await image.read({ ...part, x: part.x - t.x, y: part.y - t.y });
    const mask = tile.within?.(part);
    // what lies beyond its area is for others to give
    if (mask) putWhere(out, window, own, part, mask);
    else put(out, window, own, part);
  }
  return out;
}

/** Puts those pixels of a part into a raster that a mask has. */
function putWhere(out: Raster, window: PixelWindow, own: Raster, part: PixelWindow, mask: Uint8Array): void {
  const { bands } = out;
  for (let i = 0; i < mask.length; i++) {
    if (!mask[i]) continue;
    const to = (part.y - window.y + Math.floor(i / part.width)) * window.width + part.x - window.x + (i % part.width);
    for (let b = 0; b < bands; b++) out.data[to * bands + b] = own.data[i * bands + b]!;
    out.valid![to] = own.valid?.[i] ?? 1;
  }
}
