import { lookupCrs } from '../../crs/registry/registry';
import { compileTransform } from '../../crs/transform';
import type { ByteSource, FolderSink } from '../../io/bytes';
import type { Database } from '../../io/database';
import { lettersOf } from '../../io/letters';
import type { Findings } from '../../model/finding';
import { Problem } from '../../model/problem';
import { extentOfGrid, type PixelGrid, pixelSize } from '../../raster/pixel-grid';
import type { ImageFormat } from '../format';
import { plainTables } from '../geopackage/container';
import type { ImageWriter, OpenImage, TargetImage } from '../image-face';
import { straight, TILE_OPTIONS, tileFace } from './face';
import { TileReader, tileInfo, type TileSet, tooFarApart } from './reader';
import { type PixelBox, TileTable } from './tile-table';
import { sizesOf, TILE, type TilePacking, TileWriter } from './writer';

const MERCATOR = 'EPSG:3857';

/** Half of the plane of all tiles, metres, and the zoom beyond which nobody goes. Source: OGC 17-083r4, annex D.1 (WebMercatorQuad). */
const HALF = 20_037_508.342789244,
  MOST_ZOOM = 24;

/** "MPBX". Source: MBTiles Specification 1.3, "Database specifications". */
const APPLICATION_ID = 0x4d504258;

const pixelAt = (zoom: number): number => (2 * HALF) / TILE / 2 ** zoom;

const zoomFor = (size: number): number => Math.max(0, Math.min(MOST_ZOOM, Math.round(Math.log2((2 * HALF) / TILE / size))));

/** The grid of a zoom that covers what a wanted grid does: pixels of the nearest size that a zoom has, on its own lines. */
function zoomGrid(wanted: PixelGrid): PixelGrid {
  const grid = straight(wanted);
  const size = pixelAt(zoomFor(Math.sqrt(pixelSize(grid)[0] * pixelSize(grid)[1])));
  const [minx, miny, maxx, maxy] = extentOfGrid(grid);
  const slack = 1e-6;
  const [left, top] = [Math.floor((minx + HALF) / size + slack), Math.floor((HALF - maxy) / size + slack)];
  const [right, bottom] = [Math.ceil((maxx + HALF) / size - slack), Math.ceil((HALF - miny) / size - slack)];
  return { map: [left * size - HALF, size, 0, HALF - top * size, 0, -size], width: right - left, height: bottom - top };
}

/** Tiles of images in one database. Source: MBTiles Specification 1.3. */
export const mbtiles: ImageFormat = {
  id: 'mbtiles',
  name: 'MBTiles',
  extensions: ['.mbtiles'],
  companions: [],
  sniff: (head, name) =>
    lettersOf(head.subarray(0, 16)).startsWith('SQLite format 3') &&
    (/\.mbtiles$/i.test(name) || lettersOf(head.subarray(68, 72)) === 'MPBX'),
  images: {
    ...tileFace(openTiles),
    write: {
      prescribedCrs: MERCATOR,
      gridFor: zoomGrid,
      options: TILE_OPTIONS,
      files: (stem) => [`${stem}.mbtiles`],
      create: writeTiles,
      readBack: async (folder, { stem }, findings) => openTiles(await folder.open(`${stem}.mbtiles`), findings),
    },
  },
};

async function writeTiles(folder: FolderSink, { stem, info, grid, options }: TargetImage): Promise<ImageWriter> {
  const db = await folder.database(`${stem}.mbtiles`);
  db.execute(`PRAGMA application_id = ${APPLICATION_ID};
CREATE TABLE metadata (name TEXT, value TEXT);
CREATE TABLE tiles (zoom_level INTEGER, tile_column INTEGER, tile_row INTEGER, tile_data BLOB);
CREATE UNIQUE INDEX tile_index ON tiles (zoom_level, tile_column, tile_row);
BEGIN;`);
  const size = grid.map[1];
  const zoom = zoomFor(size);
  const origin = [Math.round((grid.map[0] + HALF) / size), Math.round((HALF - grid.map[3]) / size)] as const;
  const [west, south, east, north] = inDegrees(extentOfGrid(grid));
  const sizes = sizesOf(info.width, info.height);
  const told = {
    name: stem,
    format: options.picture === 'jpeg' ? 'jpg' : 'png',
    type: 'overlay',
    bounds: [west, south, east, north].map((v) => v!.toFixed(10)).join(','),
    center: `${((west! + east!) / 2).toFixed(6)},${((south! + north!) / 2).toFixed(6)},${zoom}`,
    minzoom: String(Math.max(0, zoom - sizes + 1)),
    maxzoom: String(zoom),
  };
  const tell = db.statement('INSERT INTO metadata VALUES (?, ?)');
  for (const [name, value] of Object.entries(told)) tell.run(name, value);
  const insert = db.statement('INSERT INTO tiles VALUES (?, ?, ?, ?)');
  return new TileWriter(
    info,
    origin,
    options.picture as TilePacking,
    Number(options.quality),
    (k, column, row, bytes) => {
      const z = zoom - k;
      // rows are counted from the south
      if (z >= 0) insert.run(z, column, 2 ** z - 1 - row, bytes);
    },
    () => {
      db.execute('COMMIT');
      db.close();
    },
  );
}

function inDegrees([minx, miny, maxx, maxy]: readonly number[]): number[] {
  const p = Float64Array.of(minx!, miny!, maxx!, maxy!);
  compileTransform(lookupCrs(MERCATOR)!, lookupCrs('EPSG:4326')!).apply(p, 0, 2, 2);
  return [...p];
}

/** @throws Problem `mbtiles-unread` for one that holds no images */
function openTiles(source: ByteSource, findings: Findings): OpenImage {
  const unread = (what: string): Problem => new Problem('mbtiles-unread', `${source.name} ${what}`, { file: source.name });
  const db = source.database!();
  try {
    const tables = relations(db, unread);
    const told = new Map(
      [...db.rows(`SELECT name, value FROM ${tables.metadata} LIMIT 1000`)].map((r) => [String(r.name), String(r.value)]),
    );
    const format = told.get('format') ?? '';
    if (format === 'pbf') throw unread('holds vector tiles, which are not read here. Ask for its records as a GeoPackage or GeoJSON.');
    const [top] = [...db.rows(`SELECT max(zoom_level) AS zoom FROM ${tables.tiles}`)];
    if (top?.zoom === null || top === undefined) throw unread('holds no tile. Ask for it again.');
    const zoom = Number(top.zoom);
    if (!(Number.isInteger(zoom) && zoom >= 0 && zoom <= 30)) throw unread(`says that its tiles are of zoom ${zoom}. Ask for it again.`);
    const set = tilesAt(new TileTable(db, tables.tiles, zoom, 2 ** zoom - 1), zoom, told.get('bounds'), findings);
    if (!set) throw unread('has tiles in columns or rows that are no whole numbers of its zoom. Ask for it again.');
    const apart = tooFarApart(set);
    if (apart !== null) throw unread(apart);
    tellOfSmaller(db, tables.tiles, zoom, findings);
    const size = pixelAt(zoom);
    const reader = new TileReader(set, source.name);
    const crs = lookupCrs(MERCATOR)!;
    const grid: PixelGrid = { map: [set.x * size - HALF, size, 0, HALF - set.y * size, 0, -size], width: set.width, height: set.height };
    return {
      info: tileInfo(set),
      where: { grid, pairs: null, crs, crsText: MERCATOR },
      version: `zoom ${zoom}, ${format || 'images'}`,
      unpacked: false,
      read: (window) => reader.read(window),
      close: () => Promise.resolve(db.close()),
    };
  } catch (error) {
    db.close();
    if (error instanceof Problem) throw error;
    throw unread('is damaged: its tables of tiles cannot be read. Ask for it again.');
  }
}

/** What the two relations of the specification can be read from; either may be a view. */
function relations(db: Database, unread: (what: string) => Problem): { metadata: string; tiles: string } {
  const plain = plainTables(db);
  const from = (name: string): string => {
    if (plain.has(name)) return name;
    const [there] = [...db.rows("SELECT 1 FROM sqlite_master WHERE type = 'view' AND name = ?", name)];
    if (!there) throw unread(`is no MBTiles: it has no table ${name}. Ask for it again.`);
    const settled = db.settled?.(name) ?? null;
    if (settled === null) throw unread(`has its ${name} in a view that takes too long to reckon. Ask for it with plain tables.`);
    return settled;
  };
  return { metadata: from('metadata'), tiles: from('tiles') };
}

/** @returns null where its tiles lie outside the plane of its zoom */
function tilesAt(table: TileTable, zoom: number, bounds: string | undefined, findings: Findings): TileSet | null {
  const box = table.pictured(TILE, TILE, bounds === undefined ? null : pixelsOf(bounds, zoom), findings);
  if (!box || box[0] < 0 || box[1] < 0 || box[2] > TILE * 2 ** zoom || box[3] > TILE * 2 ** zoom) return null;
  return table.within(box, TILE, TILE);
}

/** Bounds in degrees, west, south, east and north, in pixels of a zoom. Source: MBTiles Specification 1.3, "Metadata", bounds. */
function pixelsOf(bounds: string, zoom: number): PixelBox | null {
  const p = Float64Array.from(bounds.split(',').map(Number));
  if (p.length !== 4) return null;
  compileTransform(lookupCrs('EPSG:4326')!, lookupCrs(MERCATOR)!).apply(p, 0, 2, 2);
  const size = pixelAt(zoom);
  return [(p[0]! + HALF) / size, (HALF - p[3]!) / size, (p[2]! + HALF) / size, (HALF - p[1]!) / size];
}

function tellOfSmaller(db: Database, tiles: string, zoom: number, findings: Findings): void {
  const zooms = [...db.rows(`SELECT DISTINCT zoom_level AS z FROM ${tiles} WHERE zoom_level < ? ORDER BY 1 DESC LIMIT 31`, zoom)];
  // a table may hold zooms that are none
  const below = zooms.map((r) => Number(r.z)).filter((z) => Number.isInteger(z) && z >= 0);
  const smaller = below.map((z, k) => ({ zoom: z, across: 2 ** ((below[k - 1] ?? zoom) - z), down: 2 ** ((below[k - 1] ?? zoom) - z) }));
  new TileTable(db, tiles, zoom, null).tellOfSmaller(smaller, findings);
}
