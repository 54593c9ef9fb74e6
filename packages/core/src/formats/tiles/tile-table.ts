import type { Database } from '../../io/database';
import type { Findings } from '../../model/finding';
import type { TileSet } from './reader';

/** Left, upper, right and lower edge, in pixels of the plane of all tiles; rows run down. */
export type PixelBox = readonly [left: number, top: number, right: number, bottom: number];

/** The tiles of one size, in a table of tiles of several sizes. */
export class TileTable {
  private readonly row: string;

  /**
   * @param from what the tiles are read from, as it stands in a statement
   * @param last the northernmost row of a table that counts its rows from the south; null for one that counts from the north
   */
  constructor(
    private readonly db: Database,
    private readonly from: string,
    private readonly zoom: number,
    private readonly last: number | null,
  ) {
    this.row = last === null ? 'tile_row' : `(${last} - tile_row)`;
  }

  /** The bytes of a tile, its row counted from the north; null where there is none. */
  private tile(column: number, row: number): Uint8Array | null {
    const [found] = [
      ...this.db.rows(
        `SELECT tile_data FROM ${this.from} WHERE zoom_level = ? AND tile_column = ? AND tile_row = ?`,
        this.zoom,
        column,
        this.last === null ? row : this.last - row,
      ),
    ];
    return found?.tile_data instanceof Uint8Array ? found.tile_data : null;
  }

  /**
   * The picture that the tiles make: what a container states of it, as it may end within a tile. A statement that leaves whole tiles out is
   * no statement of this picture; then it is as large as its tiles.
   * @param stated in pixels; null where nothing is stated
   * @returns null where columns or rows are no whole numbers
   */
  pictured(tileWidth: number, tileHeight: number, stated: PixelBox | null, findings: Findings): PixelBox | null {
    const [range] = [
      ...this.db.rows(
        `SELECT min(tile_column) AS c0, max(tile_column) AS c1, min(${this.row}) AS r0, max(${this.row}) AS r1,
          sum(typeof(tile_column) <> 'integer' OR typeof(tile_row) <> 'integer') AS odd FROM ${this.from} WHERE zoom_level = ?`,
        this.zoom,
      ),
    ];
    const [c0, c1, r0, r1] = [range?.c0, range?.c1, range?.r0, range?.r1].map(Number) as [number, number, number, number];
    if (Number(range?.odd) !== 0 || ![c0, c1, r0, r1].every(Number.isSafeInteger)) return null;
    const whole: PixelBox = [c0 * tileWidth, r0 * tileHeight, (c1 + 1) * tileWidth, (r1 + 1) * tileHeight];
    if (!stated?.every(Number.isFinite)) return whole;
    const own = stated.map(Math.round) as unknown as PixelBox;
    const outside = this.outside(tileWidth, tileHeight, own);
    if (outside === 0)
      return [Math.max(own[0], whole[0]), Math.max(own[1], whole[1]), Math.min(own[2], whole[2]), Math.min(own[3], whole[3])];
    findings.add({
      code: 'tiles-beyond',
      severity: 'info',
      message: 'Some of its tiles lie outside the bounds that it states; the picture is as large as its tiles.',
      count: outside,
    });
    return whole;
  }

  /** The tiles of a part of the plane. */
  within([left, top, right, bottom]: PixelBox, tileWidth: number, tileHeight: number): TileSet {
    const tile = (column: number, row: number): Uint8Array | null => this.tile(column, row);
    return { tileWidth, tileHeight, x: left, y: top, width: right - left, height: bottom - top, tile };
  }

  private outside(tileWidth: number, tileHeight: number, [left, top, right, bottom]: PixelBox): number {
    const [found] = [
      ...this.db.rows(
        `SELECT count(*) AS n FROM ${this.from} WHERE zoom_level = ? AND
          ((tile_column + 1) * ? <= ? OR tile_column * ? >= ? OR (${this.row} + 1) * ? <= ? OR ${this.row} * ? >= ?)`,
        ...[this.zoom, tileWidth, left, tileWidth, right, tileHeight, top, tileHeight, bottom],
      ),
    ];
    return Number(found!.n);
  }

  /**
   * Tells of the smaller sizes, which are not read: they show the same less finely, unless there is no finer tile where they have one.
   * @param smaller the next smaller size first; each with the tiles of the next larger one, across and down, that one of its tiles shows
   */
  tellOfSmaller(smaller: readonly { zoom: number; across: number; down: number }[], findings: Findings): void {
    let [alone, larger] = [0, this.zoom];
    for (const { zoom, across, down } of smaller) {
      const [found] = [
        ...this.db.rows(
          `SELECT count(*) AS n FROM (SELECT tile_column AS c, tile_row AS r FROM ${this.from} WHERE zoom_level = ?
            EXCEPT SELECT tile_column / ?, tile_row / ? FROM ${this.from} WHERE zoom_level = ?)`,
          ...[zoom, BigInt(across), BigInt(down), larger],
        ),
      ];
      alone += Number(found!.n);
      larger = zoom;
    }
    if (smaller.length > 0)
      findings.add({
        code: 'tiles-zoom',
        severity: 'info',
        message: `Its tiles of zoom ${this.zoom} are read, and none of its smaller zooms, which are ${smaller.length}.`,
        count: smaller.length,
      });
    if (alone > 0)
      findings.add({
        code: 'tiles-smaller-only',
        severity: 'caution',
        message: [
          `Where these tiles of smaller zooms lie, there is none of zoom ${this.zoom}: the picture is empty there.`,
          'Ask for it in one zoom throughout, if that place matters.',
        ].join(' '),
        count: alone,
      });
  }
}
