import { imageEngine } from '../../io/image-engine';
import { emptyRaster, type ImageInfo, type PixelWindow, type Raster } from '../../model/raster';
import { Problem } from '../../model/problem';
import { KeptTiles } from './kept-tiles';

/** The tiles of one size of a picture, as a container has them. */
export interface TileSet {
  /** Pixels of a tile. */
  tileWidth: number;
  tileHeight: number;
  /** Where in the plane of all tiles the picture begins, and its size, in pixels. */
  x: number;
  y: number;
  width: number;
  height: number;
  /** The bytes of a tile; null where there is none. */
  tile(column: number, row: number): Uint8Array | null;
}

/** Pixels of a picture of tiles, with what lies empty between them: it is read from end to end. */
const MOST_PIXELS = 2 ** 36;

/** Why tiles are no picture that can be read; null where they are. */
export const tooFarApart = ({ width, height }: { width: number; height: number }): string | null =>
  width * height <= MOST_PIXELS
    ? null
    : `has tiles that lie so far apart that the picture would be ` +
      `${Math.round(width)} by ${Math.round(height)} pixels, nearly all of them empty. Ask for a part of it.`;

/** Tiles are read as red, green, blue and alpha: where there is none, there is nothing. */
export const tileInfo = ({ width, height }: Pick<TileSet, 'width' | 'height'>): ImageInfo => ({
  width,
  height,
  bands: 4,
  sampleType: 'uint8',
  colour: 'rgb',
  alpha: true,
  nodata: null,
  masked: false,
  palette: null,
});

/** Red, green, blue and alpha with a value wherever something is to be seen. */
export function seenIn(raster: Raster): Raster {
  const { data, valid } = raster;
  let all = true;
  for (let i = 0; i < valid!.length; i++) {
    valid![i] = data[4 * i + 3]! > 0 ? 1 : 0;
    if (!valid![i]) all = false;
  }
  return all ? { ...raster, valid: null } : raster;
}

/** Reads pixels of tiles by windows. */
export class TileReader {
  private readonly kept = new KeptTiles<string, Uint8Array | null>();

  /** @param name of the file, for messages */
  constructor(
    private readonly set: TileSet,
    private readonly name: string,
  ) {}

  /** @throws Problem `tile-damaged` for a tile that is no picture, or one of another size */
  async read(window: PixelWindow): Promise<Raster> {
    const { tileWidth: tw, tileHeight: th } = this.set;
    const out = emptyRaster('uint8', window.width, window.height, 4);
    const [x, y] = [this.set.x + window.x, this.set.y + window.y];
    for (let row = Math.floor(y / th); row * th < y + window.height; row++)
      for (let column = Math.floor(x / tw); column * tw < x + window.width; column++) {
        const tile = await this.kept.get(`${column} ${row}`, () => this.unpacked(column, row));
        if (!tile) continue;
        const [from, to] = [Math.max(x, column * tw), Math.min(x + window.width, (column + 1) * tw)];
        for (let r = Math.max(y, row * th); r < Math.min(y + window.height, (row + 1) * th); r++) {
          const at = 4 * ((r - row * th) * tw + from - column * tw);
          out.data.set(tile.subarray(at, at + 4 * (to - from)), 4 * ((r - y) * window.width + from - x));
        }
      }
    return seenIn(out);
  }

  private async unpacked(column: number, row: number): Promise<Uint8Array | null> {
    const { tileWidth, tileHeight } = this.set;
    const damaged = (what: string): Problem =>
      new Problem('tile-damaged', `${this.name}: the tile in column ${column}, row ${row} ${what}.`, { file: this.name });
    let bytes: Uint8Array | null;
    try {
      bytes = this.set.tile(column, row);
    } catch {
      throw damaged('cannot be read; the database is damaged there');
    }
    if (!bytes) return null;
    const found = await imageEngine().unpackedSmall(bytes, tileWidth, tileHeight);
    if (found) return found;
    throw damaged(`is no picture of ${tileWidth} by ${tileHeight} pixels`);
  }
}
