import type { Crs } from '../../crs/crs';
import type { ImageFormat } from '../../formats/format';
import type { OptionValues } from '../../formats/format-option';
import type { ImageCarries, TargetImage } from '../../formats/image-face';
import { type Bounds, emptyBounds, growAlong, isEmpty, join, overlapping } from '../../geometry/bounds';
import { type Finding, Findings } from '../../model/finding';
import { type ImageInfo, type PixelWindow, SAMPLE_KINDS, sameSamples } from '../../model/raster';
import { coversAll } from '../../raster/coverage';
import { type Outlined, extentInTarget, targetGrid } from '../../raster/target-grid';
import { extentOfGrid, inverseMap, isNorthUp, type PixelGrid, pixelSize, through } from '../../raster/pixel-grid';
import { maskOver } from '../../raster/mask';
import type { Resampling } from '../../raster/resample';
import type { Seams } from '../../raster/seams';
import { type ImageReader, pixelsToSource, type WarpSource } from '../../raster/warp';
import { dateNotStated } from '../date-not-stated';
import { asLike, type Like, sameNodata } from './like';
import { type Split, splitFormat, splitTiles, tileGrid, withinTiles } from './split';

/** A picture of the crossing with its ways into the target and back. */
export interface PlacedImage extends Outlined, WarpSource {
  source: string;
  /** Its own name; that of its source where it is the only one. */
  name: string;
  image: ImageReader;
  /** Which pixels of a window its clipping line keeps; absent where it has none. */
  kept?: (window: PixelWindow) => Uint8Array;
  /** A white sheet that stands for no picture, where a map has none below its records. */
  sheet?: true;
}

/** A picture as one of the kind of its target. */
export interface PlannedImage extends PlacedImage {
  /** Whether its file can say of no pixel that it has no value: then all have one, and need not be looked at for that. */
  whole: boolean;
}

/** What is asked of a picture that is written. */
export interface ImageWish {
  /** In units of the target; the native one when absent. */
  pixelSize?: readonly [number, number] | undefined;
  /** In the target; all that there is when absent. */
  bounds?: Bounds | undefined;
  /** Whether the edges of the bounds are moved outwards to whole pixels. */
  aligned?: boolean | undefined;
  /** In the target: rings beyond which there is nothing, by the even-odd rule. */
  rings?: readonly (readonly number[])[] | undefined;
  resampling: Resampling;
  /** How it is split into files; one file when absent. */
  split?: Split | undefined;
  /** Which picture gives a pixel that several have; the upper one when absent. */
  first?: Seams['first'] | undefined;
  /** Pictures whose files do not say when they were made, where the newest is to give a pixel. */
  undated?: number | undefined;
  /** In units of the target: how far pictures pass into each other; not at all when absent. */
  feather?: number | undefined;
  /** What is drawn over them, on a grid that is known once it is planned; they are brought to three colours of 8 bits, on a white sheet. */
  drawn?: ((grid: PixelGrid) => Drawn) | undefined;
}

/** What is drawn over pictures: red, green, blue and opacity of a window, row after row. */
export interface Drawn {
  read(window: PixelWindow): Promise<Uint8ClampedArray>;
}

/** A picture worked out: where its pixels lie, what they are, and what becomes of those of its sources. */
export interface ImagePlan {
  /** What writes it; where it is split, as the tiles that it is split into. */
  format: ImageFormat;
  /** What writes one picture by itself. */
  single: ImageFormat;
  /** The pictures that it is written as, and where the pixels of each lie. */
  parts: { stem: string; grid: PixelGrid }[];
  target: TargetImage;
  like: Like;
  resampling: Resampling;
  /** In the order in which they cover each other, all of one kind. */
  sources: PlannedImage[];
  /** Whether an area was asked for. */
  bounded: boolean;
  /** Which pixels of a window lie within the area; null where all do. */
  within: ((window: PixelWindow) => Uint8Array) | null;
  /** How the pictures meet; null where the upper one simply covers the lower. */
  seams: Seams | null;
  /** What is drawn over the pictures; null where nothing is. */
  drawn: Drawn | null;
  /** Whether all pixels are those of the sources, and none is worked out from several. */
  samePixels: boolean;
  findings: Finding[];
  /** Why it cannot be written; empty when it can. */
  blocked: string[];
}

/** Share of a pixel within which a pixel's centre counts as that of another. */
const SAME_CENTRE = 1e-3;

/**
 * Plans a picture from pictures that are placed. @param same whether all of them are in the system of the target
 */
export function planImage(
  format: ImageFormat,
  pictures: readonly PlacedImage[],
  wish: ImageWish,
  place: { crs: Crs; stem: string; options: OptionValues; same: boolean },
): ImagePlan {
  const findings = new Findings();
  const blocked: string[] = [];
  const prescribed = format.images.write!.prescribedCrs;
  if (prescribed !== undefined && place.crs.id !== prescribed)
    blocked.push(`${format.name} is written in ${prescribed} only. Choose that as the target system, or another format.`);
  const tell = (code: string, severity: Finding['severity'], message: string, count = 1): void =>
    findings.add({ code, severity, message, count });
  const square = place.crs.kind !== 'geographic';
  const covered = pictures.map(extentInTarget).filter((box) => box !== null);
  const ofAreas = wish.bounds ? undefined : boundsOfAreas(wish.split, covered);
  const bounded = targetGrid(pictures, {
    same: place.same,
    square,
    size: wish.pixelSize,
    bounds: wish.bounds ?? ofAreas,
    aligned: wish.aligned,
  }) ?? {
    map: [0, 1, 0, 0, 0, -1],
    width: 1,
    height: 1,
  };
  const wanted: PixelGrid = ofAreas ? grown(bounded, wish.split!.overlap) : bounded;
  const grid = format.images.write!.gridFor?.(wanted) ?? wanted;
  const [own] = pixelSize(grid);
  if (Math.abs(own / pixelSize(wanted)[0] - 1) > 1e-6) {
    if (wish.drawn)
      blocked.push(`${format.name} has pixel sizes of its own, and those of a map follow from its scale. Choose another format.`);
    else tell('pixel-by-format', 'info', `Pixels are ${Number(own.toPrecision(7))}: ${format.name} has sizes of its own.`);
  }
  const many = tooMany(grid, pictures[0]!.image.info);
  if (many !== null) blocked.push(many);
  if (!wish.drawn && !covered.some((box) => overlapping(box, extentOfGrid(grid))))
    blocked.push('No picture has a pixel in the wanted area.');
  const [first] = pictures as [PlacedImage];
  for (const p of pictures.slice(1)) {
    const difference = differenceOf(first.image.info, p.image.info);
    if (difference) blocked.push(`${p.name} ${difference}, unlike ${first.name}: pictures of two kinds do not make one.`);
  }
  const carries = format.images.carries(place.options);
  const tiles = wish.split && many === null ? splitTiles(wish.split, grid, place.stem, covered) : null;
  const byAreas = wish.split?.by === 'areas' && tiles !== null;
  // a map is drawn on a sheet, which leaves no gaps
  const gaps = many !== null || wish.rings !== undefined || byAreas || (!wish.drawn && mayHaveGaps(pictures, grid));
  const like = wish.drawn
    ? likeOfMap(carries, gaps)
    : likeOf(
        pictures.map((p) => p.image.info),
        { carries, name: format.name },
        gaps,
        tell,
      );
  const sampleType = wish.drawn ? like.sampleType : first.image.info.sampleType;
  if (!carries.sampleTypes.includes(sampleType))
    blocked.push(
      `${format.name} holds ${carries.sampleTypes.join(' or ')}, and the samples are ${sampleType}. Choose a format that holds them, such as GeoTIFF.`,
    );
  const colours = carries.opaque ? coloursOf(first.image.info) : like.bands - Number(like.alpha);
  if (carries.bands && !carries.bands.includes(colours) && !(carries.opaque && colours === 1))
    blocked.push(
      `${format.name} holds ${carries.bands.join(' or ')} bands, and there are ${colours}. Choose a format that holds them, such as GeoTIFF.`,
    );
  if (wish.split?.by === 'areas' && tiles && tiles.length < wish.split.areas.length)
    tell(
      'areas-empty',
      'caution',
      'No image lies in some of the areas: there is no file for them.',
      wish.split.areas.length - tiles.length,
    );
  if (tiles && tiles.length === 0) blocked.push('No tile would have a pixel in it.');
  const longest = tiles ? Math.max(0, ...tiles.map((t) => Math.max(t.window.width, t.window.height))) : Math.max(grid.width, grid.height);
  if (longest > carries.longest)
    blocked.push(
      `${format.name} holds ${carries.longest} pixels along a side, and these are ${grid.width} by ${grid.height}. Choose larger pixels or a smaller area.`,
    );
  let { resampling } = wish;
  if (like.palette && resampling !== 'nearest' && resampling !== 'mode') {
    tell('palette-nearest', 'caution', 'Values that are indexes into a palette have nothing between them: the nearest pixel is taken.');
    resampling = 'nearest';
  }
  if (wish.undated)
    tell(
      'image-undated',
      'caution',
      'Files that do not say when their pictures were made lie below those that do, in their own order.',
      wish.undated,
    );
  const seams = seamsOf(pictures, grid, wish, like, tell);
  const samePixels = !wish.drawn && place.same && (seams?.feather ?? 0) === 0 && pictures.every((p) => onCentres(p.grid, grid));
  if (carries.packed !== null)
    tell(
      'values-packed',
      'info',
      `Values change: ${format.name} is packed with loss (${lossOf(place.options)}).`,
      grid.width * grid.height,
    );
  if (!samePixels && !pictures.every((p) => p.sheet) && resampling !== 'nearest' && resampling !== 'mode')
    tell('values-resampled', 'info', `Values are worked out anew between pixels (${resampling}).`, grid.width * grid.height);
  const stated = like.nodata !== null || like.alpha;
  if (gaps && !stated)
    tell('empty-white', 'caution', 'Pixels that no source covers become white: the format cannot say that there is nothing.');
  for (const finding of dateNotStated(place.crs, format.name)) findings.add(finding);
  if (!isNorthUp(grid)) tell('grid-rotated', 'info', 'Its rows do not run to the east: some programs show it as if they did.');
  return {
    format: tiles && tiles.length > 0 ? splitFormat(format, tiles, grid, like) : format,
    single: format,
    parts: tiles?.map((t) => ({ stem: t.stem, grid: tileGrid(grid, t.window) })) ?? [{ stem: place.stem, grid }],
    target: {
      info: { ...like, masked: false, width: grid.width, height: grid.height },
      grid,
      crs: place.crs,
      stem: place.stem,
      options: place.options,
    },
    like,
    resampling,
    sources: pictures.map((p) => ({ ...p, whole: isWhole(p.image.info), image: asLike(p.image, like) })),
    bounded: wish.bounds !== undefined || byAreas,
    within: bothOf(wish.rings ? maskOver(grid, wish.rings) : null, byAreas ? withinTiles(tiles) : null),
    seams,
    drawn: wish.drawn && many === null ? wish.drawn(grid) : null,
    samePixels,
    findings: findings.list(),
    blocked,
  };
}

type Within = ImagePlan['within'];

/** What lies in both of two masks. */
const bothOf = (a: Within, b: Within): Within =>
  a && b
    ? (window) => {
        const other = b(window);
        return a(window).map((v, i) => v & other[i]!);
      }
    : (a ?? b);

/** Pixels over which pictures may pass into each other: as many are worked out around each piece. */
const WIDEST_SEAM = 500;

/** How the pictures meet; null where the upper one simply covers the lower. */
function seamsOf(
  pictures: readonly PlacedImage[],
  grid: PixelGrid,
  { first = 'order', feather = 0 }: ImageWish,
  like: Like,
  tell: (code: string, severity: Finding['severity'], message: string) => void,
): Seams | null {
  if (pictures.length < 2) return null;
  let wide = feather / Math.min(...pixelSize(grid));
  if (wide > WIDEST_SEAM) {
    tell('seam-narrowed', 'caution', `Seams are ${WIDEST_SEAM} pixels wide: wider ones cannot be had here.`);
    wide = WIDEST_SEAM;
  }
  if (wide > 0 && like.palette) {
    tell('seam-hard', 'caution', 'Values that are indexes into a palette have nothing between them: pictures meet at a hard edge.');
    wide = 0;
  }
  if (wide === 0 && first === 'order') return null;
  const back = inverseMap(grid.map);
  const centres = new Float64Array(2 * pictures.length);
  for (const [k, p] of pictures.entries()) {
    const at = Float64Array.of(p.grid.width / 2, p.grid.height / 2);
    through(p.grid.map, at);
    p.toTarget(at);
    through(back, at);
    centres.set(at, 2 * k);
  }
  if (wide > 0) tell('seam-blended', 'info', `Where pictures meet their values pass into each other over ${Math.round(wide)} pixels.`);
  return { first, feather: wide, centres };
}

/** The box of all areas that a picture is split by, but for those in which no picture lies. */
function boundsOfAreas(split: Split | undefined, covered: readonly Bounds[]): Bounds | undefined {
  if (split?.by !== 'areas') return undefined;
  const box = emptyBounds();
  for (const { rings } of split.areas) {
    const own = emptyBounds();
    for (const ring of rings) growAlong(own, ring);
    if (covered.some((b) => overlapping(b, own))) join(box, own);
  }
  return isEmpty(box) ? undefined : box;
}

/** A grid with more pixels on all sides. */
const grown = ({ map: a, width, height }: PixelGrid, by: number): PixelGrid => ({
  map: [a[0] - by * (a[1] + a[2]), a[1], a[2], a[3] - by * (a[4] + a[5]), a[4], a[5]],
  width: width + 2 * by,
  height: height + 2 * by,
});

/** Pixels of a picture, and bytes of a row of its tiles, that are written: beyond that the pixel size is a slip. */
const MOST_PIXELS = 2 ** 36,
  MOST_ROW_BYTES = 2 ** 30;

function tooMany({ width, height }: PixelGrid, { bands, sampleType }: ImageInfo): string | null {
  const row = width * 512 * (bands + 1) * SAMPLE_KINDS[sampleType].bytes;
  if (width * height <= MOST_PIXELS && row <= MOST_ROW_BYTES) return null;
  return `It would be ${width} by ${height} pixels, which is too many for one picture. Choose larger pixels or a smaller area.`;
}

/** What was chosen of how much is lost, for people. */
const lossOf = ({ quality, ratio }: OptionValues): string => (ratio !== undefined ? `${ratio} times smaller` : `quality ${quality}`);

/** Why two pictures cannot be one; null where they can. */
export function differenceOf(a: ImageInfo, b: ImageInfo): string | null {
  if (a.sampleType !== b.sampleType) return `has samples of ${b.sampleType} and not ${a.sampleType}`;
  const colours = (i: ImageInfo): number => i.bands - Number(i.alpha);
  const pictorial = (i: ImageInfo): boolean => i.colour !== 'data' && i.sampleType === 'uint8';
  if (colours(a) !== colours(b) && !(pictorial(a) && pictorial(b))) return `has ${colours(b)} bands and not ${colours(a)}`;
  return null;
}

/** What the pictures are brought to, so that nothing of them is lost where the format has room for it. */
function likeOf(
  infos: readonly ImageInfo[],
  { carries, name }: { carries: ImageCarries; name: string },
  gaps: boolean,
  tell: (code: string, severity: Finding['severity'], message: string) => void,
): Like {
  const [first] = infos as [ImageInfo];
  if (carries.opaque) return OPAQUE;
  const samePalette = first.palette !== null && infos.every((i) => i.palette !== null && sameSamples(i.palette, first.palette!));
  const nodata = infos.every((i) => sameNodata(i.nodata, first.nodata)) ? first.nodata : null;
  const keepPalette = samePalette && carries.palette && (!gaps || nodata !== null);
  if (first.palette && !keepPalette) tell('palette-expanded', 'info', `The palette becomes red, green and blue, which ${name} holds.`);
  const colour = keepPalette ? 'palette' : infos.some((i) => i.colour === 'palette' || i.colour === 'rgb') ? 'rgb' : first.colour;
  const colours = colour === 'rgb' ? 3 : colour === 'palette' ? 1 : first.bands - Number(first.alpha);
  const { real } = SAMPLE_KINDS[first.sampleType];
  const room = carries.nodata && (colour === 'data' || colour === 'palette' || nodata !== null);
  const none = room ? (nodata ?? (gaps && real ? NaN : null)) : null;
  const alpha =
    carries.alpha && (infos.some((i) => i.alpha) || (none === null && (gaps || infos.some((i) => i.nodata !== null || i.masked))));
  if (!carries.alpha && infos.some((i) => i.alpha)) tell('alpha-lost', 'caution', `${name} does not hold how opaque a pixel is.`);
  if (alpha && !infos.every((i) => i.alpha)) tell('alpha-added', 'info', 'A band is added that says where there is nothing.');
  return {
    bands: colours + Number(alpha),
    sampleType: first.sampleType,
    colour,
    alpha,
    nodata: none,
    palette: keepPalette ? first.palette : null,
  };
}

/** A map: three colours, and how opaque a pixel is where some lie beyond its area and the format can say so. */
const likeOfMap = ({ opaque, alpha }: ImageCarries, gaps: boolean): Like =>
  opaque
    ? OPAQUE
    : { bands: 3 + Number(alpha && gaps), sampleType: 'uint8', colour: 'rgb', alpha: alpha && gaps, nodata: null, palette: null };

/** Bands of a picture that are to be seen. */
const coloursOf = ({ bands, alpha, palette }: ImageInfo): number => (palette ? 3 : bands - Number(alpha));

/** Red, green, blue and how opaque each pixel is. */
const OPAQUE: Like = { bands: 4, sampleType: 'uint8', colour: 'rgb', alpha: true, nodata: null, palette: null };

/** Whether a picture can say of no pixel that it has no value. */
const isWhole = ({ nodata, alpha, masked, sampleType }: ImageInfo): boolean =>
  nodata === null && !alpha && !masked && !SAMPLE_KINDS[sampleType].real;

/** Whether some pixels of the target have no source, or one that may have none there. */
function mayHaveGaps(pictures: readonly PlacedImage[], grid: PixelGrid): boolean {
  const whole = pictures.filter(({ image: { info } }) => info.nodata === null && !info.alpha && !info.masked);
  const covering = whole.map((p) => ({ width: p.grid.width, height: p.grid.height, toPixels: pixelsToSource(grid, p) }));
  return !coversAll(covering, 0, 0, grid.width, grid.height);
}

/** Whether every pixel centre of the target is a pixel centre of a picture of the same plane. */
function onCentres(own: PixelGrid, target: PixelGrid): boolean {
  const back = inverseMap(own.map);
  const { width: w, height: h } = target;
  const p = Float64Array.of(0.5, 0.5, w - 0.5, 0.5, 0.5, h - 0.5);
  through(target.map, p);
  through(back, p);
  return (
    p.every((v) => Math.abs(v - 0.5 - Math.round(v - 0.5)) < SAME_CENTRE) &&
    Math.abs(p[2]! - p[0]! - (w - 1)) < SAME_CENTRE &&
    Math.abs(p[5]! - p[1]! - (h - 1)) < SAME_CENTRE
  );
}
