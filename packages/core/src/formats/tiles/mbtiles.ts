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
import { straight, TILE_OPTIONS, tileCarries } from './carries';
import { TileReader, tileInfo, type TileSet } from './reader';
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
    carries: tileCarries,
    locate: async (source, findings) => {
      const image = openTiles(source, findings);
      await image.close();
      return image.where;
    },
    open: (source, findings) => Promise.resolve(openTiles(source, findings)),
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
    const [top] = [...db.rows(`SELECT max(zoom_level) AS zoom, count(DISTINCT zoom_level) AS zooms FROM ${tables.tiles}`)];
    if (top?.zoom === null || top === undefined) throw unread('holds no tile. Ask for it again.');
    const zoom = Number(top.zoom);
    if (!(zoom >= 0 && zoom <= 30)) throw unread(`says that its tiles are of zoom ${zoom}. Ask for it again.`);
    const set = tilesAt(db, tables.tiles, zoom, told.get('bounds'));
    if (Number(top.zooms) > 1)
      findings.add({
        code: 'tiles-zoom',
        severity: 'info',
        message: `Its tiles of zoom ${zoom} are read; those of the ${Number(top.zooms) - 1} smaller zooms show the same.`,
        count: 1,
      });
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
    throw error;
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

/** The tiles of a zoom: what their bounds say the picture is, within the tiles that there are. */
function tilesAt(db: Database, tiles: string, zoom: number, bounds: string | undefined): TileSet {
  const [range] = [
    ...db.rows(
      `SELECT min(tile_column) AS c0, max(tile_column) AS c1, min(tile_row) AS r0, max(tile_row) AS r1 FROM ${tiles} WHERE zoom_level = ?`,
      zoom,
    ),
  ];
  const last = 2 ** zoom - 1;
  let [x0, x1] = [Number(range!.c0) * TILE, (Number(range!.c1) + 1) * TILE];
  let [y0, y1] = [(last - Number(range!.r1)) * TILE, (last - Number(range!.r0) + 1) * TILE];
  const degrees = bounds?.split(',').map(Number) ?? [];
  if (degrees.length === 4 && degrees.every(Number.isFinite)) {
    const p = Float64Array.from(degrees);
    compileTransform(lookupCrs('EPSG:4326')!, lookupCrs(MERCATOR)!).apply(p, 0, 2, 2);
    const size = pixelAt(zoom);
    const inside = [(p[0]! + HALF) / size, (HALF - p[3]!) / size, (p[2]! + HALF) / size, (HALF - p[1]!) / size].map(Math.round);
    // bounds that do not fit the tiles are passed over
    if (inside[0]! < x1 && inside[2]! > x0 && inside[1]! < y1 && inside[3]! > y0) {
      [x0, x1] = [Math.max(x0, inside[0]!), Math.min(x1, inside[2]!)];
      [y0, y1] = [Math.max(y0, inside[1]!), Math.min(y1, inside[3]!)];
    }
  }
  return {
    tileWidth: TILE,
    tileHeight: TILE,
    x: x0,
    y: y0,
    width: x1 - x0,
    height: y1 - y0,
    tile(column, row) {
      const [found] = [
        ...db.rows(`SELECT tile_data FROM ${tiles} WHERE zoom_level = ? AND tile_column = ? AND tile_row = ?`, zoom, column, last - row),
      ];
      return found?.tile_data instanceof Uint8Array ? found.tile_data : null;
    },
  };
}
