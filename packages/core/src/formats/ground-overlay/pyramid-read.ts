import { lookupCrs } from '../../crs/registry/registry';
import type { ByteSource } from '../../io/bytes';
import { imageEngine } from '../../io/image-engine';
import { emptyBounds, join } from '../../geometry/bounds';
import { childOf, childText, everyNode, readXml, type XmlNode } from '../../io/xml';
import type { Findings } from '../../model/finding';
import { Problem } from '../../model/problem';
import { emptyRaster, type PixelWindow, type Raster, sharedWindow } from '../../model/raster';
import { WGS84 } from '../globe';
import type { OpenImage } from '../image-face';
import { type LatLonBox, latLonBox } from '../kml/lat-lon-box';
import { packedSize } from '../picture/packed-size';
import { KeptTiles } from '../tiles/kept-tiles';
import { seenIn, tileInfo, tooFarApart } from '../tiles/reader';
import { entrySource, type ZipEntry } from '../zip/read';

/** Bytes of one document of a pyramid, and how many there may be. */
const MOST_BYTES = 1 << 22,
  MOST_DOCUMENTS = 100_000;

/** Share by which pixels of one size may differ, and share of a pixel by which a tile may lie off the grid of all. */
const SAME_SIZE = 0.01,
  OFF_GRID = 0.05;

/** Pixels along a side of a tile, and of a cell by which tiles are found. */
const MOST_SIDE = 8192,
  CELL = 256;

/** A picture on the ground as a document places it. */
interface Overlay {
  entry: ZipEntry;
  box: LatLonBox;
  width: number;
  height: number;
}

/** The same by its first pixel in the grid of all. */
interface Tile extends Overlay {
  x: number;
  y: number;
}

/** Whether a document leads on to others of its archive. */
export const leadsOn = (root: XmlNode): boolean => everyNode(root, 'NetworkLink').length > 0;

/** A reference of a document as the archive calls what it leads to; null for one that leads out of it. Source: OGC 07-147r2, annex C. */
function within(href: string, document: string): string | null {
  if (href === '' || /^[a-z][a-z0-9+.-]*:/i.test(href) || href.startsWith('/')) return null;
  const path = document.split('/').slice(0, -1);
  for (const part of href.split('/')) {
    if (part === '..') {
      if (path.pop() === undefined) return null;
    } else if (part !== '.' && part !== '') path.push(part);
  }
  return path.join('/').toLowerCase();
}

/** What is wrong with an archive, as a problem. */
export const unreadOf =
  ({ name }: ByteSource) =>
  (what: string): Problem =>
    new Problem('overlay-unread', `${name} ${what}. Open it in the program that made it, and save the picture as a GeoTIFF.`, {
      file: name,
    });

/** Documents that are looked into to find whether they lead to pictures or to records. */
const MOST_LOOKED = 50;

/** Whether the documents that others lead on to show pictures on the ground, and no record stands in those that are looked into. */
export async function leadsToPictures(source: ByteSource, entries: readonly ZipEntry[], document: ZipEntry): Promise<boolean> {
  let pictures = 0,
    looked = 0;
  for await (const { root } of documentsFrom(source, entries, document, () => {})) {
    if (everyNode(root, 'Placemark').length > 0) return false;
    pictures += everyNode(root, 'GroundOverlay').length;
    if (++looked >= MOST_LOOKED) break;
  }
  return pictures > 0;
}

/**
 * The documents of an archive that the first one leads on to, itself among them.
 * @param missing is called for each that is not there
 */
async function* documentsFrom(
  source: ByteSource,
  entries: readonly ZipEntry[],
  first: ZipEntry,
  missing: () => void,
): AsyncGenerator<{ root: XmlNode; entryOf(href: string | null): ZipEntry | undefined }> {
  const byName = new Map(entries.map((e) => [e.name.toLowerCase(), e]));
  const known = new Set([first.name.toLowerCase()]);
  const open = [first];
  for (let document = open.pop(); document; document = open.pop()) {
    const { name, bytes } = document;
    const unread = unreadOf(source);
    if (bytes > MOST_BYTES) throw unread(`has a document of ${bytes} bytes (${name.slice(0, 100)})`);
    const root = readXml(name, await entrySource(source, document).read(0, bytes));
    const entryOf = (href: string | null): ZipEntry | undefined => {
      const path = within(href?.trim() ?? '', name);
      const entry = path === null ? undefined : byName.get(path);
      if (!entry) missing();
      return entry;
    };
    yield { root, entryOf };
    for (const link of everyNode(root, 'NetworkLink')) {
      const next = entryOf(childText(childOf(link, 'Link') ?? childOf(link, 'Url'), 'href'));
      if (!next || known.has(next.name.toLowerCase())) continue;
      if (known.size >= MOST_DOCUMENTS) throw unread(`leads on to more than ${MOST_DOCUMENTS} documents`);
      known.add(next.name.toLowerCase());
      open.push(next);
    }
  }
}

/**
 * Opens a picture that an archive holds as a pyramid: tiles in documents that lead on to finer ones. The finest tiles are read.
 * @param document the first document of the archive
 * @throws Problem `overlay-unread`
 */
export async function openPyramid(
  source: ByteSource,
  entries: readonly ZipEntry[],
  document: ZipEntry,
  findings: Findings,
): Promise<OpenImage> {
  const unread = unreadOf(source);
  const overlays = await overlaysOf(source, entries, document, findings);
  if (overlays.length === 0) throw unread('leads on to no picture on the ground');
  if (overlays.some((o) => o.box.rotation !== 0)) throw unread('has tiles that are turned');
  const sizes = bySize(overlays);
  const [finest] = sizes as [Overlay[], ...Overlay[][]];
  const [first] = finest as [Overlay];
  const extent = emptyBounds();
  for (const { box } of finest) join(extent, [box.west, box.south, box.east, box.north]);
  const [west, , , north] = extent;
  const [dx, dy] = [stepX(first), stepY(first)];
  let [width, height] = [0, 0];
  const tiles = finest.map((o): Tile => {
    const [x, y] = [(o.box.west - west) / dx, (north - o.box.north) / dy];
    const tile = { ...o, x: Math.round(x), y: Math.round(y) };
    if (Math.max(Math.abs(x - tile.x), Math.abs(y - tile.y)) > OFF_GRID) throw unread('has tiles whose pixels do not lie on one grid');
    [width, height] = [Math.max(width, tile.x + tile.width), Math.max(height, tile.y + tile.height)];
    return tile;
  });
  const apart = tooFarApart({ width, height });
  if (apart !== null) throw new Problem('overlay-unread', `${source.name} ${apart}`, { file: source.name });
  const cells = tilesByCell(tiles);
  if (overlapping(cells)) throw unread('has pictures of one size that lie over each other');
  tellOfCoarser(sizes, findings);
  const reader = new PyramidReader(source, cells);
  return {
    info: tileInfo({ width, height }),
    where: { grid: { map: [west, dx, 0, north, 0, -dy], width, height }, pairs: null, crs: lookupCrs(WGS84)!, crsText: WGS84 },
    version: `pyramid of ${tiles.length} tiles`,
    unpacked: false,
    read: (window) => reader.read(window),
    close: () => Promise.resolve(),
  };
}

const stepX = ({ box, width }: Overlay): number => (box.east - box.west) / width;
const stepY = ({ box, height }: Overlay): number => (box.north - box.south) / height;

/** Every picture that the documents of an archive place, from the first one on. */
async function overlaysOf(source: ByteSource, entries: readonly ZipEntry[], first: ZipEntry, findings: Findings): Promise<Overlay[]> {
  const found: Overlay[] = [];
  let missing = 0;
  for await (const { root, entryOf } of documentsFrom(source, entries, first, () => missing++))
    for (const overlay of everyNode(root, 'GroundOverlay')) {
      const entry = entryOf(childText(childOf(overlay, 'Icon'), 'href'));
      const box = latLonBox(overlay);
      if (!entry || !(box.east > box.west && box.north > box.south)) continue;
      const size = await packedSize(entrySource(source, entry));
      if (!size || Math.max(size.width, size.height) > MOST_SIDE)
        throw unreadOf(source)(`has a tile that is no picture of up to ${MOST_SIDE} pixels along a side (${entry.name.slice(0, 100)})`);
      found.push({ entry, box, ...size });
    }
  if (missing > 0)
    findings.add({
      code: 'overlay-missing',
      severity: 'wrong',
      message: 'Documents lead to pictures or documents that are not in the archive: what they show is missing.',
      count: missing,
    });
  return found;
}

/** Overlays by the size of their pixels, the finest first. */
function bySize(overlays: readonly Overlay[]): Overlay[][] {
  const sizes: Overlay[][] = [];
  for (const own of [...overlays].sort((a, b) => stepX(a) - stepX(b))) {
    const last = sizes.at(-1)?.[0];
    if (last && Math.abs(stepX(own) / stepX(last) - 1) < SAME_SIZE && Math.abs(stepY(own) / stepY(last) - 1) < SAME_SIZE)
      sizes.at(-1)!.push(own);
    else sizes.push([own]);
  }
  return sizes;
}

/** Tells of coarser tiles, which are not read: they show the same less finely, unless there is no finer one in them. */
function tellOfCoarser(sizes: readonly Overlay[][], findings: Findings): void {
  let alone = 0;
  for (let k = 1; k < sizes.length; k++) {
    const [own, finer] = [sizes[k]!, sizes[k - 1]!];
    const [w, h] = [own[0]!.box.east - own[0]!.box.west, own[0]!.box.north - own[0]!.box.south];
    const cellOf = (x: number, y: number): string => `${Math.floor(x / w)} ${Math.floor(y / h)}`;
    const centres = new Map<string, [number, number][]>();
    for (const { box } of finer) {
      const [x, y] = [(box.west + box.east) / 2, (box.south + box.north) / 2];
      const cell = centres.get(cellOf(x, y));
      if (cell) cell.push([x, y]);
      else centres.set(cellOf(x, y), [[x, y]]);
    }
    for (const { box } of own) {
      let some = false;
      for (let x = box.west; x <= box.east + w && !some; x += w)
        for (let y = box.south; y <= box.north + h && !some; y += h)
          some = (centres.get(cellOf(x, y)) ?? []).some(([u, v]) => u > box.west && u < box.east && v > box.south && v < box.north);
      if (!some) alone++;
    }
  }
  if (sizes.length > 1)
    findings.add({
      code: 'tiles-zoom',
      severity: 'info',
      message: `Its finest tiles are read, and none of its coarser ones, which come in ${sizes.length - 1} sizes.`,
      count: sizes.length - 1,
    });
  if (alone > 0)
    findings.add({
      code: 'tiles-smaller-only',
      severity: 'caution',
      message:
        'Where these coarser tiles lie, there is no finer one: the picture is empty there. Ask for it in one size throughout, if that place matters.',
      count: alone,
    });
}

/** Whether some tiles share pixels: which of them is to be seen cannot be told. */
const overlapping = (cells: ReadonlyMap<string, Tile[]>): boolean =>
  [...cells.values()].some((cell) => cell.some((a, k) => cell.slice(k + 1).some((b) => sharedWindow(a, b) !== null)));

/** Tiles by the cells of the plane of pixels that they reach into. */
function tilesByCell(tiles: readonly Tile[]): Map<string, Tile[]> {
  const cells = new Map<string, Tile[]>();
  for (const tile of tiles)
    for (const key of cellsOf(tile)) {
      const cell = cells.get(key);
      if (cell) cell.push(tile);
      else cells.set(key, [tile]);
    }
  return cells;
}

/** Reads pixels of tiles that lie anywhere on one grid. */
class PyramidReader {
  private readonly kept = new KeptTiles<Tile, Uint8Array>();

  constructor(
    private readonly source: ByteSource,
    private readonly cells: ReadonlyMap<string, Tile[]>,
  ) {}

  async read(window: PixelWindow): Promise<Raster> {
    const out = emptyRaster('uint8', window.width, window.height, 4);
    const tiles = new Set([...cellsOf(window)].flatMap((key) => this.cells.get(key) ?? []));
    for (const tile of tiles) {
      const own = sharedWindow(window, tile);
      if (!own) continue;
      const pixels = await this.kept.get(tile, () => this.unpacked(tile));
      for (let r = own.y; r < own.y + own.height; r++) {
        const at = 4 * ((r - tile.y) * tile.width + own.x - tile.x);
        out.data.set(pixels.subarray(at, at + 4 * own.width), 4 * ((r - window.y) * window.width + own.x - window.x));
      }
    }
    return seenIn(out);
  }

  private async unpacked({ entry, width, height }: Tile): Promise<Uint8Array> {
    const bytes = await entrySource(this.source, entry).read(0, entry.bytes);
    const found = await imageEngine().unpackedSmall(bytes, width, height);
    if (found) return found;
    throw new Problem('tile-damaged', `${this.source.name}: ${entry.name.slice(0, 100)} is no picture of ${width} by ${height} pixels.`, {
      file: this.source.name,
    });
  }
}

function* cellsOf({ x, y, width, height }: PixelWindow): Generator<string> {
  for (let r = Math.floor(y / CELL); r * CELL < y + height; r++)
    for (let c = Math.floor(x / CELL); c * CELL < x + width; c++) yield `${c} ${r}`;
}
