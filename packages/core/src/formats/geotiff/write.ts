import type { Crs } from '../../crs/crs';
import type { ByteSink } from '../../io/bytes';
import { imageEngine } from '../../io/image-engine';
import { type ImageInfo, type Raster, SAMPLE_KINDS, type Samples } from '../../model/raster';
import { halve } from '../../raster/halve';
import { isNorthUp, type PixelGrid } from '../../raster/pixel-grid';
import type { ImageWriter, TargetImage } from '../image-face';
import { directoryBytes, type TagValue } from './directory-writer';
import { writeGeoKeys } from './geo-keys';
import { lzw } from './lzw';
import { TAG } from './structure';

/** Pixels along a side of a tile; sides are multiples of 16 (TIFF 6.0, section 15), and no longer than the picture needs. */
const TILE = 512;

const sideOf = (pixels: number): number => Math.min(TILE, 16 * Math.ceil(pixels / 16));

interface Tile {
  width: number;
  height: number;
}

/** Bytes beyond which a file may not be one that counts them in 32 bits. */
const MOST_IN_32_BITS = 3.9e9;

/** How pixels are packed. */
export const WRITTEN_PACKINGS = { deflate: 8, lzw: 5, none: 1, jpeg: 7 } as const;
export type WrittenPacking = keyof typeof WRITTEN_PACKINGS;

/** How a TIFF is packed, and what goes into it beside the picture. */
export interface TiffOptions {
  packing: WrittenPacking;
  /** 1 to 100, where it is packed as JPEG. */
  quality: number;
  /** Whether smaller pictures of it stand in the file as well. */
  overviews: boolean;
  /** Where it lies, for the file to say; null where that stands beside it, or nowhere. */
  place: Pick<TargetImage, 'grid' | 'crs'> | null;
}

/** One picture of the file: the whole, or a smaller one of it. */
interface Level {
  width: number;
  height: number;
  across: number;
  down: number;
  offsets: Float64Array;
  byteCounts: Float64Array;
  /** Rows that wait until a row of tiles is full. */
  waiting: Raster[];
  rows: number;
  tileRow: number;
}

/**
 * Writes a tiled TIFF from the top to the bottom. The directories stand at the beginning of the file, the whole picture's first. Source:
 * TIFF 6.0; OGC 19-008r4; OGC 21-026 (cloud-optimised layout: tiles and reduced pictures).
 */
export async function createTiff(sink: ByteSink, info: ImageInfo, options: TiffOptions): Promise<ImageWriter> {
  const writer = new TiffWriter(sink, info, options);
  await writer.begin();
  return writer;
}

class TiffWriter implements ImageWriter {
  readonly rows: number;
  private readonly tile: Tile;
  private readonly levels: Level[];
  private readonly big: boolean;
  private at = 0;

  constructor(
    private readonly sink: ByteSink,
    private readonly info: ImageInfo,
    private readonly options: TiffOptions,
  ) {
    const { width, height, bands, sampleType } = info;
    this.big = 1.34 * width * height * bands * SAMPLE_KINDS[sampleType].bytes > MOST_IN_32_BITS;
    this.tile = { width: sideOf(width), height: sideOf(height) };
    this.rows = this.tile.height;
    this.levels = [levelOf(width, height, this.tile)];
    if (options.overviews)
      for (let last = this.levels[0]!; Math.max(last.width, last.height) > TILE; last = this.levels.at(-1)!)
        this.levels.push(levelOf((last.width + 1) >> 1, (last.height + 1) >> 1, this.tile));
  }

  /** Room for the header and the directories, whose sizes do not depend on the pixels. */
  async begin(): Promise<void> {
    const head = this.head();
    this.at = head.length + (head.length % 2);
    await this.sink.write(new Uint8Array(this.at));
  }

  async append(rows: Raster): Promise<void> {
    await this.take(0, rows);
  }

  async close(): Promise<void> {
    await this.sink.patch(0, this.head());
    await this.sink.close();
  }

  private async take(number: number, rows: Raster): Promise<void> {
    const level = this.levels[number]!;
    level.waiting.push(rows);
    level.rows += rows.height;
    const last = Math.min(this.tile.height, level.height - level.tileRow * this.tile.height);
    if (level.rows < last) return;
    const strip = level.waiting.length === 1 ? level.waiting[0]! : stacked(level.waiting);
    level.waiting = [];
    level.rows = 0;
    await this.writeTiles(level, strip);
    level.tileRow++;
    if (number + 1 < this.levels.length) await this.take(number + 1, halve(strip, this.info));
  }

  private async writeTiles(level: Level, strip: Raster): Promise<void> {
    const packed = await Promise.all(Array.from({ length: level.across }, (_, c) => this.packed(tileOf(strip, c, this.info, this.tile))));
    for (const [c, bytes] of packed.entries()) {
      const index = level.tileRow * level.across + c;
      level.offsets[index] = this.at;
      level.byteCounts[index] = bytes.length;
      await this.sink.write(bytes);
      this.at += bytes.length;
    }
  }

  private async packed(tile: Samples): Promise<Uint8Array> {
    const { bands, sampleType } = this.info;
    const { packing, quality } = this.options;
    const { width, height } = this.tile;
    if (packing === 'jpeg') return imageEngine().jpeg(tile as Uint8Array, width, height, bands as 1 | 3, quality);
    if (packing !== 'none') predict(tile, bands, width, SAMPLE_KINDS[sampleType].real);
    const bytes = new Uint8Array(tile.buffer, tile.byteOffset, tile.byteLength);
    if (packing === 'none') return bytes;
    const own = SAMPLE_KINDS[sampleType].real ? bySignificance(bytes, bands, width, SAMPLE_KINDS[sampleType].bytes) : bytes;
    return packing === 'lzw' ? lzw(own) : imageEngine().deflate(own);
  }

  private head(): Uint8Array {
    const start = this.big ? 16 : 8;
    const directories = directoryBytes(
      this.levels.map((level, k) => this.tags(level, k)),
      start,
      this.big,
    );
    const bytes = new Uint8Array(start + directories.length);
    const view = new DataView(bytes.buffer);
    view.setUint16(0, 0x4949);
    view.setUint16(2, this.big ? 43 : 42, true);
    if (this.big) {
      view.setUint16(4, 8, true);
      view.setBigUint64(8, BigInt(start), true);
    } else view.setUint32(4, start, true);
    bytes.set(directories, start);
    return bytes;
  }

  private tags(level: Level, number: number): TagValue[] {
    const { bands, sampleType, alpha, nodata, palette, colour } = this.info;
    const { packing, place } = this.options;
    const kind = SAMPLE_KINDS[sampleType];
    const long = this.big ? 16 : 4;
    const each = (value: number): number[] => Array.from({ length: bands }, () => value);
    const colours = colour === 'rgb' ? 3 : 1;
    const photometric = colour === 'palette' ? 3 : colour === 'rgb' ? (packing === 'jpeg' ? 6 : 2) : 1;
    const extra = Array.from({ length: bands - colours }, (_, k) => (alpha && k === bands - colours - 1 ? 2 : 0));
    const format = kind.real ? 3 : sampleType.startsWith('int') ? 2 : 1;
    return [
      { tag: TAG.subfileType, type: 4, values: [number === 0 ? 0 : 1] },
      { tag: TAG.width, type: 4, values: [level.width] },
      { tag: TAG.height, type: 4, values: [level.height] },
      { tag: TAG.bitsPerSample, type: 3, values: each(8 * kind.bytes) },
      { tag: TAG.compression, type: 3, values: [WRITTEN_PACKINGS[packing]] },
      { tag: TAG.photometric, type: 3, values: [photometric] },
      { tag: TAG.samplesPerPixel, type: 3, values: [bands] },
      { tag: TAG.planar, type: 3, values: [1] },
      ...(packing === 'lzw' || packing === 'deflate' ? [{ tag: TAG.predictor, type: 3 as const, values: [kind.real ? 3 : 2] }] : []),
      ...(packing === 'jpeg' && bands === 3 ? [{ tag: TAG.ycbcrSubsampling, type: 3 as const, values: [2, 2] }] : []),
      ...(palette ? [{ tag: TAG.colorMap, type: 3 as const, values: colorMap(palette, 1 << (8 * kind.bytes)) }] : []),
      { tag: TAG.tileWidth, type: 4, values: [this.tile.width] },
      { tag: TAG.tileHeight, type: 4, values: [this.tile.height] },
      { tag: TAG.tileOffsets, type: long, values: level.offsets },
      { tag: TAG.tileByteCounts, type: long, values: level.byteCounts },
      ...(extra.length > 0 ? [{ tag: TAG.extraSamples, type: 3 as const, values: extra }] : []),
      { tag: TAG.sampleFormat, type: 3, values: each(format) },
      ...(nodata !== null ? [{ tag: TAG.nodata, type: 2 as const, values: Number.isNaN(nodata) ? 'nan' : String(nodata) }] : []),
      ...(number === 0 && place ? placeTags(place.grid, place.crs) : []),
    ];
  }
}

/** The tags that say where a picture lies. Source: OGC 19-008r4, section 7 and annex B. */
export function placeTags(grid: PixelGrid, crs: Crs): TagValue[] {
  const { map: a } = grid;
  const keys = writeGeoKeys(crs, false);
  return [
    ...(isNorthUp(grid)
      ? [
          { tag: TAG.pixelScale, type: 12 as const, values: [a[1], -a[5], 0] },
          { tag: TAG.tiePoints, type: 12 as const, values: [0, 0, 0, a[0], a[3], 0] },
        ]
      : [{ tag: TAG.transformation, type: 12 as const, values: [a[1], a[2], 0, a[0], a[4], a[5], 0, a[3], 0, 0, 0, 0, 0, 0, 0, 1] }]),
    { tag: TAG.geoKeys, type: 3, values: keys.directory },
    ...(keys.doubles.length > 0 ? [{ tag: TAG.geoDoubles, type: 12 as const, values: keys.doubles }] : []),
    { tag: TAG.geoAscii, type: 2, values: keys.ascii },
  ];
}

function levelOf(width: number, height: number, tile: Tile): Level {
  const across = Math.ceil(width / tile.width),
    down = Math.ceil(height / tile.height);
  return {
    width,
    height,
    across,
    down,
    offsets: new Float64Array(across * down),
    byteCounts: new Float64Array(across * down),
    waiting: [],
    rows: 0,
    tileRow: 0,
  };
}

function stacked(parts: readonly Raster[]): Raster {
  const [first] = parts as [Raster];
  const height = parts.reduce((n, p) => n + p.height, 0);
  const data = new (first.data.constructor as new (n: number) => Samples)(first.width * height * first.bands);
  let at = 0;
  for (const part of parts) {
    data.set(part.data, at);
    at += part.data.length;
  }
  return { ...first, height, data, valid: null };
}

/** A tile of a row of tiles; beyond the picture its last row and column are repeated, which packs well and shows nothing strange. */
function tileOf(strip: Raster, c: number, { bands, sampleType }: ImageInfo, size: Tile): Samples {
  const tile = SAMPLE_KINDS[sampleType].make(size.width * size.height * bands);
  const x = c * size.width,
    width = Math.min(size.width, strip.width - x);
  for (let r = 0; r < size.height; r++) {
    const row = Math.min(r, strip.height - 1);
    const to = r * size.width * bands;
    tile.set(strip.data.subarray((row * strip.width + x) * bands, (row * strip.width + x + width) * bands), to);
    for (let k = width * bands; k < size.width * bands; k++) tile[to + k] = tile[to + k - bands]!;
  }
  return tile;
}

/** Whole numbers become differences from the pixel to the left. Source: TIFF 6.0, section 14. */
function predict(tile: Samples, bands: number, width: number, real: boolean): void {
  if (real) return;
  const perRow = width * bands;
  for (let end = tile.length; end > 0; end -= perRow)
    for (let k = end - 1; k >= end - perRow + bands; k--) tile[k] = tile[k]! - tile[k - bands]!;
}

/** Numbers with a fraction become their bytes by significance, each less the one before. Source: Adobe Photoshop TIFF Technical Note 3. */
function bySignificance(bytes: Uint8Array, bands: number, width: number, size: number): Uint8Array {
  const perRow = width * bands,
    rowBytes = perRow * size;
  const out = new Uint8Array(bytes.length);
  for (let from = 0; from < bytes.length; from += rowBytes) {
    for (let k = 0; k < perRow; k++) for (let b = 0; b < size; b++) out[from + b * perRow + k] = bytes[from + k * size + (size - 1 - b)]!;
    for (let k = rowBytes - 1; k >= bands; k--) out[from + k] = out[from + k]! - out[from + k - bands]!;
  }
  return out;
}

/** All reds, all greens, all blues, of 16 bits. */
function colorMap(palette: Uint8Array, colours: number): Uint16Array {
  const map = new Uint16Array(3 * colours);
  for (let k = 0; 3 * k < palette.length; k++) for (let c = 0; c < 3; c++) map[c * colours + k] = 257 * palette[3 * k + c]!;
  return map;
}
