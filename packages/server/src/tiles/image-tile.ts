import path from 'node:path';
import sharp from 'sharp';
import type { PixelValues } from '@pontrel/contract/pictures';
import { resolutionAt, TILE_PIXELS, tileBounds } from '@pontrel/contract/tile-grid';
import { asLike, type Like } from '@pontrel/core/content/raster/like';
import { gridOf, type ImageMember, imagesExtent, infoOf } from '@pontrel/core/content/raster/profile';
import { firstLevel } from '@pontrel/core/content/raster/pyramid';
import { pickedBands, stretched, usualStretch } from '@pontrel/core/content/raster/shown';
import { chosenMembers } from '@pontrel/core/crossing/chosen-images';
import { type ImageRule } from '@pontrel/core/crossing/image-rule';
import { ruledImage } from '@pontrel/core/crossing/ruled-image';
import { type Crs, isPlane, northUp } from '@pontrel/core/crs/crs';
import { anyFormatById } from '@pontrel/core/formats/every-format';
import { openLevels } from '@pontrel/core/formats/geotiff/levels';
import { type Bounds, overlapping } from '@pontrel/core/geometry/bounds';
import { Findings } from '@pontrel/core/model/finding';
import { opaqueValue, type Raster } from '@pontrel/core/model/raster';
import type { Placement } from '@pontrel/core/placement/placement';
import { crsOf, placedBy, pointMaps, routeTo } from '@pontrel/core/placement/route';
import type { MapPoints } from '@pontrel/core/raster/approximate';
import { extentOfGrid, gridOver, inverseMap, type PixelGrid, through } from '@pontrel/core/raster/pixel-grid';
import { extentInTarget } from '@pontrel/core/raster/target-grid';
import { type ImageReader, pixelsToSource, warpWindow, type WarpSource } from '@pontrel/core/raster/warp';
import { fileSource } from '@pontrel/host-node/files';
import { openMember, pyramidFile, storedMember } from '../work/image-files';

/** The pictures of a source to draw, and how they lie in the frame. */
export interface ImageTileSource {
  folder: string;
  name: string;
  /** In the order of their files. */
  members: ImageMember[];
  /** Bounds of all of them in the source's own numbers. */
  extent: Bounds;
  /** Null where they are drawn in their own numbers. */
  placement: Placement | null;
  rule: ImageRule;
}

export interface ImageTileRequest {
  source: ImageTileSource;
  /** Null where the plane of the source itself is drawn. */
  frame: string | null;
  z: number;
  x: number;
  y: number;
}

/** A picture at one of its sizes. */
interface SizedReader extends ImageReader {
  grid: PixelGrid;
}

/** Sizes of pictures that are open, by their pyramid's file. */
const opened = new Map<string, Promise<SizedReader[]>>();
const MOST_OPEN = 48;

/** A picture at all of its sizes, the largest first; kept for the next tile. */
function sizesOf(folder: string, k: number, member: ImageMember): Promise<SizedReader[]> {
  const file = pyramidFile(folder, k);
  const known = opened.get(file);
  opened.delete(file);
  const sizes = known ?? openSizes(folder, k, member);
  opened.set(file, sizes);
  sizes.catch(() => opened.delete(file));
  if (opened.size > MOST_OPEN) opened.delete(opened.keys().next().value!);
  return sizes;
}

async function openSizes(folder: string, k: number, member: ImageMember): Promise<SizedReader[]> {
  const file = pyramidFile(folder, k);
  const levels = await openLevels(await fileSource(file, path.basename(file), () => Promise.resolve(null)));
  const whole = gridOf(member);
  const { map: a } = whole;
  const smaller = levels.map((level, n): SizedReader => {
    const f = 2 ** (n + firstLevel(member));
    const { width, height } = level.info;
    return { ...level, grid: { map: [a[0], a[1] * f, a[2] * f, a[3], a[4] * f, a[5] * f], width, height } };
  });
  if (firstLevel(member) === 0) return smaller;
  const image = await anyFormatById(member.format)!.images!.open(
    await openMember(folder, k, storedMember(folder, k, member)),
    new Findings(),
  );
  // what is not unpacked into a file of its own needs no closing
  return [{ info: image.info, read: (w) => image.read(w), grid: whole }, ...smaller];
}

/** The smallest size at which a picture has a pixel for each of the target. */
function sizeFor(sizes: readonly SizedReader[], target: PixelGrid, toSource: MapPoints): SizedReader {
  const [whole] = sizes as [SizedReader];
  const exact = pixelsToSource(target, { grid: whole.grid, toSource });
  const [u, v] = [target.width / 2, target.height / 2];
  const p = Float64Array.of(u, v, u + 1, v, u, v + 1);
  exact(p);
  const step = Math.max(Math.hypot(p[2]! - p[0]!, p[3]! - p[1]!), Math.hypot(p[4]! - p[0]!, p[5]! - p[1]!));
  const n = Number.isFinite(step) ? Math.floor(Math.log2(Math.max(1, step * 1.01))) : 0;
  return sizes[Math.min(sizes.length - 1, n)]!;
}

/** What all pictures of a source are shown as: their own samples, palettes as colours, with alpha where a size has it. */
function shownLike(info: ImageReader['info']): Like {
  const rgb = info.palette !== null || info.colour === 'rgb';
  return {
    bands: info.palette ? 4 : info.bands + Number(!info.alpha),
    sampleType: info.sampleType,
    colour: rgb ? 'rgb' : info.colour,
    alpha: true,
    nodata: null,
    palette: null,
  };
}

/** Pictures drawn in their own plane. */
const IN_PLACE: { toSource: MapPoints; toTarget: MapPoints } = { toSource() {}, toTarget() {} };

/** One picture of a source in a grid of its own plane: its values, and how opaque each pixel is. */
export async function samplesOf(folder: string, members: ImageMember[], member: ImageMember, target: PixelGrid): Promise<Raster> {
  const like = shownLike(infoOf(members[0]!.info));
  const k = members.indexOf(member);
  const size = sizeFor(await sizesOf(folder, k, member), target, IN_PLACE.toSource);
  const whole = { x: 0, y: 0, width: target.width, height: target.height };
  return warpWindow(target, [{ image: asLike(size, like), grid: size.grid, toSource: IN_PLACE.toSource }], like, 'bilinear', whole);
}

/** The pictures of a source in a grid of a plane, as red, green, blue and alpha. */
async function drawn(source: ImageTileSource, target: PixelGrid, frame: Crs | null): Promise<Buffer> {
  const { placement, extent, rule } = source;
  const placed = placement && placedBy(placement, extent);
  const { toSource, toTarget } = placed && frame ? pointMaps(routeTo(placed, frame)) : IN_PLACE;
  const box = extentOfGrid(target);
  const wanted = chosenMembers(rule, source.members).filter((m) => {
    const own = m.unfit === null ? extentInTarget({ grid: gridOf(m), toTarget }) : null;
    return own !== null && overlapping(own, box);
  });
  const like = shownLike(infoOf(source.members[0]!.info));
  const sources = await Promise.all(
    wanted.map(async (m): Promise<WarpSource> => {
      const size = sizeFor(await sizesOf(source.folder, source.members.indexOf(m), m), target, toSource);
      const image = asLike(ruledImage(size, rule, source.members.length === 1 ? source.name : m.name, m.info).image, like);
      return { image, grid: size.grid, toSource };
    }),
  );
  const { width, height } = target;
  const whole = { x: 0, y: 0, width, height };
  const raster = await warpWindow(target, sources, like, 'bilinear', whole);
  return shownAs(raster, source.members, rule);
}

/** Samples as 8 bits of red, green, blue and alpha. */
function shownAs({ data, valid, bands, width, height }: Raster, members: readonly ImageMember[], rule: ImageTileSource['rule']): Buffer {
  const out = Buffer.alloc(4 * width * height);
  const colours = bands - 1;
  const toByte = stretched(rule.shown?.stretch ?? usualStretch(members));
  const [r, g, b] = pickedBands(colours, rule.shown?.bands);
  const opacity = stretched([0, opaqueValue(members[0]!.info.sampleType)]);
  for (let i = 0; i < width * height; i++) {
    if (valid && !valid[i]) continue;
    const at = i * bands;
    out[4 * i] = toByte(data[at + r]!);
    out[4 * i + 1] = toByte(data[at + g]!);
    out[4 * i + 2] = toByte(data[at + b]!);
    out[4 * i + 3] = opacity(data[at + colours]!);
  }
  return out;
}

const webp = (pixels: Buffer, width: number, height: number): Promise<Buffer> =>
  sharp(pixels, { raw: { width, height, channels: 4 } })
    .webp({ quality: 88, alphaQuality: 100, effort: 2 })
    .toBuffer();

/** One tile of the pictures of a source, as WebP; empty when nothing of them lies there. */
export async function imageTile({ source, frame, z, x, y }: ImageTileRequest): Promise<Uint8Array> {
  const crs = frame === null ? null : northUp(crsOf(frame)!);
  // the plane of a picture's own pixels is looked at by ones of a metre
  const unit_m = crs && !isPlane(crs) ? null : crs && isPlane(crs) ? crs.unit.metres : 1;
  const resolution = resolutionAt(z, unit_m);
  const target: PixelGrid = { ...gridOver(tileBounds(z, x, y, unit_m), [resolution, resolution]), width: TILE_PIXELS, height: TILE_PIXELS };
  const pixels = await drawn(source, target, crs);
  if (!pixels.some((v, k) => k % 4 === 3 && v > 0)) return new Uint8Array(0);
  return webp(pixels, TILE_PIXELS, TILE_PIXELS);
}

/** All pictures of a source in their own numbers, as a small one. */
export async function picturedAsWebp(folder: string, members: ImageMember[], most: { width: number; height: number }): Promise<Buffer> {
  const extent = imagesExtent(members)!;
  const size = Math.max((extent[2] - extent[0]) / most.width, (extent[3] - extent[1]) / most.height);
  const target = gridOver(extent, [size, size]);
  const pixels = await drawn({ folder, name: 'source', members, extent, placement: null, rule: {} }, target, null);
  return webp(pixels, target.width, target.height);
}

/** What a picture is to look like as a whole, as WebP: pictures of several sources over one another. @param sources from the top */
export async function overview({
  sources,
  crs: text,
  grid,
}: {
  sources: ImageTileSource[];
  crs: string;
  grid: PixelGrid;
}): Promise<string> {
  const crs = crsOf(text)!;
  const { width, height } = grid;
  const layers = await Promise.all([...sources].reverse().map((source) => drawn(source, grid, crs)));
  const base = sharp({ create: { width, height, channels: 4, background: { r: 0, g: 0, b: 0, alpha: 0 } } });
  const made = await base
    .composite(layers.map((input) => ({ input, raw: { width, height, channels: 4 as const } })))
    .webp({ quality: 85 })
    .toBuffer();
  return `data:image/webp;base64,${made.toString('base64')}`;
}

/** The pictures of several sources over one another as they are shown on the map, on white, as JPEG. @param sources from the top */
export async function picturesOnPaper(sources: readonly ImageTileSource[], frame: Crs, grid: PixelGrid): Promise<Buffer> {
  const { width, height } = grid;
  const raw = { width, height, channels: 4 as const };
  let sheet: Buffer = Buffer.alloc(4 * width * height, 255);
  // one at a time: each takes as much memory as the sheet
  for (const source of [...sources].reverse()) {
    const input = await drawn(source, grid, frame);
    const opacity = source.rule.shown?.opacity ?? 1;
    if (opacity < 1) for (let k = 3; k < input.length; k += 4) input[k] = Math.round(input[k]! * opacity);
    sheet = await sharp(sheet, { raw }).composite([{ input, raw }]).raw().toBuffer();
  }
  return sharp(sheet, { raw }).removeAlpha().jpeg({ quality: 90, chromaSubsampling: '4:4:4' }).toBuffer();
}

/** The values of pictures at a place of the frame, as their files have them. @param sources from the top */
export async function pixelValues({
  sources,
  frame,
  x,
  y,
}: {
  sources: ImageTileSource[];
  frame: string;
  x: number;
  y: number;
}): Promise<PixelValues> {
  const crs = northUp(crsOf(frame)!);
  const found: PixelValues = [];
  for (const { folder, name, members, extent, placement } of sources) {
    const { toSource } = pointMaps(routeTo(placedBy(placement!, extent)!, crs));
    for (const [k, member] of members.entries()) {
      if (member.unfit !== null) continue;
      const p = Float64Array.of(x, y);
      toSource(p);
      through(inverseMap(gridOf(member).map), p);
      const [c, r] = [Math.floor(p[0]!), Math.floor(p[1]!)];
      if (!(c >= 0 && r >= 0 && c < member.info.width && r < member.info.height)) continue;
      const [whole] = await sizesOf(folder, k, member);
      const { data, valid } = await whole!.read({ x: c, y: r, width: 1, height: 1 });
      found.push({ source: name, name: member.name, pixel: [c, r], values: valid && !valid[0] ? null : [...data] });
    }
  }
  return found;
}
