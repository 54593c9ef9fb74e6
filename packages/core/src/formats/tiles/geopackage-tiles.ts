import { lookupCrs } from '../../crs/registry/registry';
import type { ByteSource, FolderSink } from '../../io/bytes';
import { type Database, quotedName } from '../../io/database';
import type { Findings } from '../../model/finding';
import { Problem } from '../../model/problem';
import { extentOfGrid, type PixelGrid } from '../../raster/pixel-grid';
import { geopackage } from '../geopackage/index';
import { plainTables, systemOf } from '../geopackage/container';
import { createContainer, srsIdOf } from '../geopackage/schema';
import type { ImageFormat } from '../format';
import type { ImageWriter, OpenImage, TargetImage } from '../image-face';
import { straight, TILE_OPTIONS, tileFace } from './face';
import { TileReader, tileInfo, type TileSet, tooFarApart } from './reader';
import { type PixelBox, TileTable } from './tile-table';
import { sizesOf, TILE, type TilePacking, TileWriter } from './writer';

/** Source: OGC 12-128r18, annex C, tables gpkg_tile_matrix_set and gpkg_tile_matrix. */
const TABLES = `
CREATE TABLE gpkg_tile_matrix_set (table_name TEXT NOT NULL PRIMARY KEY, srs_id INTEGER NOT NULL,
  min_x DOUBLE NOT NULL, min_y DOUBLE NOT NULL, max_x DOUBLE NOT NULL, max_y DOUBLE NOT NULL,
  CONSTRAINT fk_gtms_table_name FOREIGN KEY (table_name) REFERENCES gpkg_contents(table_name),
  CONSTRAINT fk_gtms_srs FOREIGN KEY (srs_id) REFERENCES gpkg_spatial_ref_sys (srs_id));
CREATE TABLE gpkg_tile_matrix (table_name TEXT NOT NULL, zoom_level INTEGER NOT NULL,
  matrix_width INTEGER NOT NULL, matrix_height INTEGER NOT NULL, tile_width INTEGER NOT NULL, tile_height INTEGER NOT NULL,
  pixel_x_size DOUBLE NOT NULL, pixel_y_size DOUBLE NOT NULL, CONSTRAINT pk_ttm PRIMARY KEY (table_name, zoom_level),
  CONSTRAINT fk_tmm_table_name FOREIGN KEY (table_name) REFERENCES gpkg_contents(table_name));`;

/** Tiles of an image in a GeoPackage, in any system and with the very pixels of the image. Source: OGC 12-128r18, section 2.2. */
export const geopackageTiles: ImageFormat = {
  id: 'geopackage-tiles',
  name: 'GeoPackage tiles',
  brief: 'GPKG tiles',
  extensions: ['.gpkg'],
  companions: [],
  sniff: (head, name) => geopackage.sniff(head, name),
  images: {
    // one that holds records as well is read as records
    holds: (source) => Promise.resolve(holdsTiles(source)),
    ...tileFace(openTiles),
    write: {
      gridFor: straight,
      options: TILE_OPTIONS,
      files: (stem) => [`${stem}.gpkg`],
      create: writeTiles,
      readBack: async (folder, { stem }, findings) => openTiles(await folder.open(`${stem}.gpkg`), findings),
    },
  },
};

async function writeTiles(folder: FolderSink, { stem, info, grid, crs, options }: TargetImage): Promise<ImageWriter> {
  const db = await folder.database(`${stem}.gpkg`);
  createContainer(db, crs, lookupCrs('EPSG:4326')!);
  const table = `tiles_${stem}`;
  const [name, srs] = [quotedName(table), srsIdOf(crs)];
  const count = sizesOf(info.width, info.height);
  // the matrices of all sizes cover one box: as many tiles as the smallest has, doubled
  const times = 2 ** (count - 1);
  const side = TILE * times;
  const [dx, dy] = [grid.map[1], -grid.map[5]];
  const [across, down] = [Math.ceil(info.width / side), Math.ceil(info.height / side)];
  const [minx, maxy] = [grid.map[0], grid.map[3]];
  const [maxx, miny] = [minx + across * side * dx, maxy - down * side * dy];
  const own = extentOfGrid(grid);
  db.execute(`${TABLES}
CREATE TABLE ${name} (id INTEGER PRIMARY KEY AUTOINCREMENT, zoom_level INTEGER NOT NULL,
  tile_column INTEGER NOT NULL, tile_row INTEGER NOT NULL, tile_data BLOB NOT NULL,
  UNIQUE (zoom_level, tile_column, tile_row));
BEGIN;`);
  db.statement(
    'INSERT INTO gpkg_contents (table_name, data_type, identifier, min_x, min_y, max_x, max_y, srs_id) VALUES (?, ?, ?, ?, ?, ?, ?, ?)',
  ).run(table, 'tiles', table, ...own, srs);
  db.statement('INSERT INTO gpkg_tile_matrix_set VALUES (?, ?, ?, ?, ?, ?)').run(table, srs, minx, miny, maxx, maxy);
  const matrix = db.statement('INSERT INTO gpkg_tile_matrix VALUES (?, ?, ?, ?, ?, ?, ?, ?)');
  for (let zoom = 0; zoom < count; zoom++) {
    const by = 2 ** (count - 1 - zoom);
    matrix.run(table, zoom, (across * times) / by, (down * times) / by, TILE, TILE, dx * by, dy * by);
  }
  const insert = db.statement(`INSERT INTO ${name} (zoom_level, tile_column, tile_row, tile_data) VALUES (?, ?, ?, ?)`);
  return new TileWriter(
    info,
    [0, 0],
    options.picture as TilePacking,
    Number(options.quality),
    (k, column, row, bytes) => insert.run(count - 1 - k, column, row, bytes),
    () => {
      db.execute('COMMIT');
      db.close();
    },
  );
}

const CONTENTS = 'SELECT table_name, data_type, min_x, min_y, max_x, max_y, srs_id FROM gpkg_contents';

function holdsTiles(source: ByteSource): boolean {
  const db = source.database?.();
  if (!db) return false;
  try {
    if (!plainTables(db).has('gpkg_contents')) return false;
    const kinds = [...db.rows(`${CONTENTS} LIMIT 10000`)].map((r) => String(r.data_type));
    return kinds.includes('tiles') && !kinds.some((k) => k === 'features' || k === 'attributes');
  } catch {
    return false; // what is wrong with it is told by who reads it as records
  } finally {
    db.close();
  }
}

/** @throws Problem `gpkg-tiles-unread` */
function openTiles(source: ByteSource, findings: Findings): OpenImage {
  const unread = (what: string): Problem =>
    new Problem('gpkg-tiles-unread', `${source.name} ${what} Ask for it again.`, { file: source.name });
  const db = source.database!();
  try {
    const plain = plainTables(db);
    for (const needed of ['gpkg_contents', 'gpkg_tile_matrix_set', 'gpkg_tile_matrix'])
      if (!plain.has(needed)) throw unread(`has no table ${needed}.`);
    const [contents, ...others] = [...db.rows(`${CONTENTS} WHERE data_type = 'tiles' ORDER BY rowid LIMIT 100`)];
    if (!contents) throw unread('holds no tiles.');
    if (others.length > 0)
      findings.add({
        code: 'image-pages',
        severity: 'caution',
        message: `Only the tiles of ${String(contents.table_name)} are read; save the other sets as containers of their own.`,
        count: others.length,
      });
    const table = String(contents.table_name);
    if (!plain.has(table)) throw unread(`says that its tiles stand in ${table}, which is no table.`);
    const [set] = [...db.rows('SELECT min_x, max_y FROM gpkg_tile_matrix_set WHERE table_name = ?', table)];
    const sizes = [
      ...db.rows(
        `SELECT m.zoom_level, m.tile_width, m.tile_height, m.pixel_x_size, m.pixel_y_size FROM gpkg_tile_matrix m
          WHERE m.table_name = ? AND EXISTS (SELECT 1 FROM ${quotedName(table)} t WHERE t.zoom_level = m.zoom_level)
          ORDER BY m.zoom_level DESC LIMIT 50`,
        table,
      ),
    ].map(sizeOf);
    const finest = sizes[0];
    if (!set || !finest) throw unread(`does not say how its tiles lie (${table}).`);
    const { dx, dy } = finest;
    const tiles = tilesOf(db, table, sizes, contents, set, findings);
    if (!(dx > 0 && dy > 0 && tiles && tiles.width > 0 && tiles.height > 0)) throw unread(`gives its tiles no size (${table}).`);
    const apart = tooFarApart(tiles);
    if (apart !== null) throw new Problem('gpkg-tiles-unread', `${source.name} ${apart}`, { file: source.name });
    const { crs, text } = systemOf(db, plain, Number(contents.srs_id), findings);
    const reader = new TileReader(tiles, source.name);
    const grid: PixelGrid = {
      map: [Number(set.min_x) + tiles.x * dx, dx, 0, Number(set.max_y) - tiles.y * dy, 0, -dy],
      width: tiles.width,
      height: tiles.height,
    };
    return {
      info: tileInfo(tiles),
      where: { grid, pairs: null, crs, crsText: text },
      version: `tiles of ${tiles.tileWidth} by ${tiles.tileHeight}`,
      unpacked: false,
      read: (window) => reader.read(window),
      close: () => Promise.resolve(db.close()),
    };
  } catch (error) {
    db.close();
    if (error instanceof Problem) throw error;
    throw unread('has tables of tiles that cannot be read.');
  }
}

type Row = ReturnType<Database['rows']> extends IterableIterator<infer R> ? R : never;

interface TileSize {
  zoom: number;
  tileWidth: number;
  tileHeight: number;
  /** Ground of a pixel. */
  dx: number;
  dy: number;
}

function sizeOf(row: Row): TileSize {
  const [zoom, tileWidth, tileHeight, dx, dy] = [row.zoom_level, row.tile_width, row.tile_height, row.pixel_x_size, row.pixel_y_size].map(
    Number,
  ) as [number, number, number, number, number];
  return { zoom, tileWidth, tileHeight, dx, dy };
}

/** The tiles of the finest size, and what of them the container says is the image. */
function tilesOf(db: Database, name: string, sizes: readonly TileSize[], contents: Row, set: Row, findings: Findings): TileSet | null {
  const { zoom, tileWidth, tileHeight, dx, dy } = sizes[0]!;
  if (!(tileWidth > 0 && tileHeight > 0 && tileWidth <= 8192 && tileHeight <= 8192)) return null;
  const table = new TileTable(db, quotedName(name), zoom, null);
  const [west, south, east, north] = [contents.min_x, contents.min_y, contents.max_x, contents.max_y].map((v) =>
    typeof v === 'number' ? v : NaN,
  ) as [number, number, number, number];
  const [left, top] = [Number(set.min_x), Number(set.max_y)];
  const stated: PixelBox = [(west - left) / dx, (top - north) / dy, (east - left) / dx, (top - south) / dy];
  const box = table.pictured(tileWidth, tileHeight, stated, findings);
  if (!box) return null;
  table.tellOfSmaller(smallerOf(sizes), findings);
  return table.within(box, tileWidth, tileHeight);
}

/** The smaller sizes, with how many tiles of the next larger one each of their tiles shows. */
const smallerOf = (sizes: readonly TileSize[]): { zoom: number; across: number; down: number }[] =>
  sizes.slice(1).map((size, k) => {
    const larger = sizes[k]!;
    return {
      zoom: size.zoom,
      across: Math.max(1, Math.round((size.dx * size.tileWidth) / (larger.dx * larger.tileWidth)) || 1),
      down: Math.max(1, Math.round((size.dy * size.tileHeight) / (larger.dy * larger.tileHeight)) || 1),
    };
  });
