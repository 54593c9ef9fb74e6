import type { FolderSink } from '../../io/bytes';
import { plainDecimal } from '../../io/plain-decimal';
import { escaped } from '../../io/xml';
import { Problem } from '../../model/problem';
import type { PixelGrid } from '../../raster/pixel-grid';
import type { ImageWriter, TargetImage } from '../image-face';
import { sizesOf, TILE, type TilePacking, TileWriter } from '../tiles/writer';
import { ZipWriter } from '../zip/write';

/** Pixels that a tile has to fill on the screen before it is shown: half of its own. */
const LEAST_LOD = TILE / 2;

const HEAD = '<?xml version="1.0" encoding="UTF-8"?>\n<kml xmlns="http://www.opengis.net/kml/2.2"><Document>';
const FOOT = '</Document></kml>\n';

/** A tile of the pyramid by its size, counted from the whole picture (0) to the smallest. */
interface Place {
  size: number;
  column: number;
  row: number;
}

/**
 * Writes a picture as tiles of all of its sizes, each in a document of its own that is shown from near enough and leads on to the four finer
 * ones in it. Source: OGC 07-147r2 (KML 2.2), sections 9.14 (Region), 9.16 (Lod), 12.1 (NetworkLink).
 */
export async function writePyramid(folder: FolderSink, { stem, info, grid, options }: TargetImage): Promise<ImageWriter> {
  const count = sizesOf(info.width, info.height);
  const whole = boxOf(grid, { size: count - 1, column: 0, row: 0 });
  if (whole.east > 180 + 1e-9 || whole.south < -90 - 1e-9)
    throw new Problem(
      'pyramid-beyond',
      `The tiles of ${stem} would reach beyond the edge of the map, which no globe shows. Choose one picture instead of a pyramid.`,
    );
  const zip = new ZipWriter(await folder.create(`${stem}.kmz`));
  // the document that comes first is the one that is shown (annex C)
  await zip.add('doc.kml', [
    text(`${HEAD}<name>${escaped(stem)}</name>${linkTo(grid, { size: count - 1, column: 0, row: 0 }, '')}${FOOT}`),
  ]);
  const there = new Set<string>();
  return new TileWriter(
    info,
    [0, 0],
    options.picture as TilePacking,
    Number(options.quality),
    async (size, column, row, bytes) => {
      const place = { size, column, row };
      // a JPEG begins with these bytes, and no PNG does
      const name = `${row}.${bytes[0] === 0xff ? 'jpg' : 'png'}`;
      await zip.store(`${size}/${column}/${name}`, bytes);
      await zip.add(pathOf(place), [text(documentOf(grid, place, count, name, finerOf(place, there)))]);
      there.add(pathOf(place));
    },
    () => zip.close(),
    false,
  );
}

const text = (content: string): Uint8Array => new TextEncoder().encode(content);

const pathOf = ({ size, column, row }: Place): string => `${size}/${column}/${row}.kml`;

/** The tiles of the next finer size that lie in a tile and are there; they came before it, and are asked for once. */
function finerOf({ size, column, row }: Place, there: Set<string>): Place[] {
  if (size === 0) return [];
  const four = [0, 1, 2, 3].map((k): Place => ({ size: size - 1, column: 2 * column + (k & 1), row: 2 * row + (k >> 1) }));
  return four.filter((place) => there.delete(pathOf(place)));
}

function documentOf(grid: PixelGrid, place: Place, count: number, picture: string, finer: readonly Place[]): string {
  const { north, south, east, west } = decimals(boxOf(grid, place));
  const box = `<LatLonBox><north>${north}</north><south>${south}</south><east>${east}</east><west>${west}</west></LatLonBox>`;
  const order = `<drawOrder>${count - place.size}</drawOrder>`;
  const overlay = `<GroundOverlay>${order}<Icon><href>${picture}</href></Icon>${box}</GroundOverlay>`;
  return `${HEAD}${regionOf(grid, place, place.size === count - 1)}${overlay}${finer.map((f) => linkTo(grid, f, '../../')).join('')}${FOOT}`;
}

/** @param up from the folder of the document to that of the archive */
const linkTo = (grid: PixelGrid, place: Place, up: string): string =>
  `<NetworkLink>${regionOf(grid, place, up === '')}<Link><href>${up}${pathOf(place)}</href><viewRefreshMode>onRegion</viewRefreshMode></Link></NetworkLink>`;

/** @param always whether it is shown from any distance */
function regionOf(grid: PixelGrid, place: Place, always: boolean): string {
  const { north, south, east, west } = decimals(boxOf(grid, place));
  const box = `<LatLonAltBox><north>${north}</north><south>${south}</south><east>${east}</east><west>${west}</west></LatLonAltBox>`;
  return `<Region>${box}<Lod><minLodPixels>${always ? 0 : LEAST_LOD}</minLodPixels><maxLodPixels>-1</maxLodPixels></Lod></Region>`;
}

interface Box {
  north: number;
  south: number;
  east: number;
  west: number;
}

/** A tile ends where the picture does, at a whole pixel of its own size. */
function boxOf({ map: a, width, height }: PixelGrid, { size, column, row }: Place): Box {
  const pixel = 2 ** size;
  const end = (k: number, length: number): number => Math.min((k + 1) * TILE, Math.ceil(length / pixel)) * pixel;
  return {
    west: a[0] + column * TILE * pixel * a[1],
    north: a[3] + row * TILE * pixel * a[5],
    east: a[0] + end(column, width) * a[1],
    south: a[3] + end(row, height) * a[5],
  };
}

const decimals = ({ north, south, east, west }: Box): Record<keyof Box, string> => ({
  north: plainDecimal(north),
  south: plainDecimal(south),
  east: plainDecimal(east),
  west: plainDecimal(west),
});
