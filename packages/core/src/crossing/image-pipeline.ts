import type { AccountRow } from '../content/account';
import { fileStem } from '../content/features/plan';
import type { PieceWork } from '../content/raster/piece-work';
import { type Drawn, type ImagePlan, planImage, type PlacedImage } from '../content/raster/plan';
import { gridOf } from '../content/raster/profile';
import { type ImageProof } from '../content/raster/proof';
import { proveImage } from '../content/raster/prove';
import type { Split } from '../content/raster/split';
import { workHere } from '../content/raster/work-here';
import { writeImage } from '../content/raster/write';
import { letteringFindings, proveMap, withDrawing } from './map-proof';
import { mapBlocked, type MapRecords, mapRecords, notPlaced } from './map-image';
import { sheetOf } from './map-sheet';
import { type Crs, METRES_PER_DEGREE, metresPerUnit, northUp } from '../crs/crs';
import type { OpenImage } from '../formats/image-face';
import { imageFormatById } from '../formats/images';
import { formatOptions } from '../formats/options';
import { type Bounds, emptyBounds, join } from '../geometry/bounds';
import type { Region } from '../geometry/within';
import type { FolderSink, FolderSource, Watch } from '../io/bytes';
import { UNWATCHED } from '../io/bytes';
import { type Finding, Findings } from '../model/finding';
import { Problem } from '../model/problem';
import { crsOf, placedBy, pointMaps, type Route, routeTo } from '../placement/route';
import { extentOfGrid, type PixelGrid } from '../raster/pixel-grid';
import { extentInTarget } from '../raster/target-grid';
import { lengthUnit } from '../symbology/sizes';
import { regionOf } from './area-of-interest';
import { chosenImages, type ImageName } from './chosen-images';
import { imageArea, ringsInTarget } from './image-area';
import { type NamedArea, namedAreas } from './named-areas';
import { ruledImage } from './ruled-image';
import { splitOf } from './split-text';
import { withChosenLayers } from './chosen-layers';
import type { CrossingSource, SourceSummary } from './crossing-source';
import type { RunOptions } from './pipeline';
import type { Deliverable, Recipe } from './recipe';

/** A picture of a crossing. It is opened as often as needed, and closed by whoever did. */
export interface CrossingImage extends ImageName {
  /** The values that are shown as black and white where nobody says which, as far as they are known. */
  stretch?: readonly [number, number];
  open(findings: Findings): Promise<OpenImage>;
}

/** A picture of a crossing with what is known of it, and the way to its pixels. */
export interface NamedImage extends ImageName, Pick<CrossingImage, 'stretch'> {
  image: Pick<OpenImage, 'info' | 'where' | 'read' | 'date'>;
}

/** What a run of a deliverable that is a picture reports. */
export interface ImageReport {
  plan: ImagePlan;
  proof: ImageProof;
  /** Files in the folder. */
  files: string[];
  findings: Finding[];
}

/** What of the frame a deliverable is asked for. */
export interface WantedAreas {
  /** Its area of interest; null where there is none. */
  region: Region | null;
  /** The areas that it is split by; null where it is not split by areas. */
  pieces: NamedArea[] | null;
}

/** A plan as another thread can make it for itself. */
export interface WorkOrder {
  recipe: Recipe;
  deliverable: Deliverable;
  /** From the top. */
  images: readonly ImageName[];
  wanted: WantedAreas;
  /** Whether what was written is looked at as well. */
  proving: boolean;
}

/** Begins work on a plan in threads; null where that is not worth it, or cannot be had. */
export type BeginThreads = (order: WorkOrder, plan: ImagePlan) => Promise<PieceWork | null>;

/** What watches a run, and what its area may be made of. */
export interface ImageRunOptions extends Pick<RunOptions, 'writing' | 'proving'> {
  /** Sources of records that an area may be taken from. */
  records?: readonly CrossingSource[];
  threads?: BeginThreads;
}

/** Where the pixels of a picture lie in its own numbers: where its file says, or in the plane of its pixels, which control points place. */
export const ownGrid = ({ info, where }: Pick<OpenImage, 'info' | 'where'>): PixelGrid => gridOf({ map: where.grid?.map ?? null, info });

/**
 * Runs a deliverable that is a picture: opens its sources, plans, writes into `folder`, opens the sources once more and proves.
 * @param images of all sources of the crossing, as they come
 * @throws Problem when a picture has no place, and when the forecast says that it cannot run
 */
export async function runImageDeliverable(
  all: Recipe,
  deliverable: Deliverable,
  images: readonly CrossingImage[],
  folder: FolderSink & FolderSource,
  { writing = UNWATCHED, proving = UNWATCHED, records = [], threads }: ImageRunOptions = {},
): Promise<ImageReport> {
  const recipe = withChosenLayers(all, deliverable, records);
  const findings = new Findings();
  const { taken, left } = chosenImages(recipe, deliverable, images);
  const begin = async (plan: ImagePlan, wanted: WantedAreas, shown: OpenImage | null): Promise<PieceWork> => {
    const order: WorkOrder = {
      recipe,
      deliverable,
      images: taken.map(({ source, name }) => ({ source, name })),
      wanted,
      proving: shown !== null,
    };
    // records are drawn where they are read
    return (plan.drawn ? null : await threads?.(order, plan)) ?? workHere(plan, shown);
  };
  const written = await withImagePlan(recipe, deliverable, taken, records, findings, writing, async (plan, wanted) => {
    if (plan.blocked.length > 0)
      throw new Problem('deliverable-blocked', `${deliverable.name} cannot be written. ${plan.blocked.join(' ')}`);
    for (const finding of [...plan.findings, ...(plan.drawn ? records.flatMap((s) => s.findings) : [])]) findings.add(finding);
    const work = await begin(plan, wanted, null);
    try {
      for (const finding of await writeImage(plan, folder, work, writing)) findings.add(finding);
    } finally {
      await work.close();
    }
    return plan;
  });
  const { crs, stem, options } = written.target;
  const proof = await withImagePlan(recipe, deliverable, taken, records, new Findings(), proving, async (plan, wanted, map) => {
    const own = await proveImage(plan, folder, groundUnit(crs), (shown) => begin(plan, wanted, shown), proving);
    if (!map || own.status === 'failed') return own;
    return withDrawing(own, await proveMap(recipe, deliverable.image!.drawn!, plan, map, records, folder, proving));
  });
  for (const image of left) proof.account.push(await leftOut(image));
  for (const finding of proof.findings) findings.add(finding);
  for (const finding of proof.drawn ? letteringFindings(proof.drawn) : []) findings.add(finding);
  return { plan: written, proof, files: written.format.images.write!.files(stem, options), findings: findings.list() };
}

/** The account of a picture that a person left out. */
async function leftOut({ source, name, open }: CrossingImage): Promise<AccountRow> {
  const image = await open(new Findings());
  const count = image.info.width * image.info.height;
  await image.close();
  return {
    source,
    layer: name === source ? 'image' : name,
    read: count,
    crossed: 0,
    left: [{ reason: 'image-not-taken', by: 'you', count, message: 'The picture is not taken', locations: [] }],
    changed: [],
    missing: 0,
  };
}

/**
 * Opens the pictures of a deliverable, plans it, and closes them when `use` is done with the plan.
 * @param taken from the top
 * @param piecewise whether only single pieces of it are wanted
 */
export async function withImagePlan<T>(
  all: Recipe,
  deliverable: Deliverable,
  taken: readonly CrossingImage[],
  records: readonly CrossingSource[],
  findings: Findings,
  watch: Watch,
  use: (plan: ImagePlan, wanted: WantedAreas, map: MapRecords | null) => Promise<T>,
  piecewise = false,
): Promise<T> {
  const recipe = withChosenLayers(all, deliverable, records);
  const { opened, close } = await openAll(taken, findings);
  try {
    const wanted = await wantedAreas(recipe, deliverable, opened, records);
    const target = crsOf(deliverable.crs);
    const scale = deliverable.image?.drawn;
    const map =
      scale && target && mapBlocked(target) === null
        ? await mapRecords(recipe, scale, target, wanted.region, records, () => watch.check(), piecewise)
        : null;
    return await use(prepareImage(recipe, deliverable, opened, wanted, records, map), wanted, map);
  } finally {
    await close();
  }
}

/** Opens pictures; those that are open are closed again when one cannot be opened. */
async function openAll(
  taken: readonly CrossingImage[],
  findings: Findings,
): Promise<{ opened: (NamedImage & { image: OpenImage })[]; close(): Promise<void> }> {
  const opened: (NamedImage & { image: OpenImage })[] = [];
  const close = async (): Promise<void> => {
    for (const { image } of opened) await image.close();
  };
  try {
    for (const { open, ...own } of taken) opened.push({ ...own, image: await open(findings) });
    return { opened, close };
  } catch (error) {
    await close();
    throw error;
  }
}

/**
 * Makes the plan of an order in a thread, and works on its pieces there.
 * @param images those of the order, in its order
 * @param folder what was written, where the order is to prove it
 */
export async function workOn(order: WorkOrder, images: readonly CrossingImage[], folder: FolderSource): Promise<PieceWork> {
  const { opened } = await openAll(images, new Findings());
  const plan = prepareImage(order.recipe, order.deliverable, opened, order.wanted);
  return workHere(plan, order.proving ? await plan.format.images.write!.readBack(folder, plan.target, new Findings()) : null);
}

/** What of the frame a deliverable is asked for. @throws Problem `area-missing`, and those of regions and areas */
export async function wantedAreas(
  recipe: Recipe,
  { area, image }: Deliverable,
  images: readonly NamedImage[],
  records: readonly CrossingSource[],
): Promise<WantedAreas> {
  const find = (name: string): CrossingSource => {
    const found = records.find((s) => s.name === name);
    if (found) return found;
    throw new Problem(
      'area-missing',
      `The area of interest is that of ${name}, which is not in this crossing any more. Choose another one.`,
    );
  };
  const by = image?.split?.areas;
  const pieces = by ? await namedAreas(recipe, by, find(by.source)) : null;
  if (!area) return { region: null, pieces };
  const own = area.kind === 'source' ? images.filter((i) => i.source === area.source) : [];
  const region = area.kind === 'source' && own.length > 0 ? coveredBy(recipe, own, area.plus_m) : await regionOf(recipe, area, find);
  return { region, pieces };
}

/** What pictures cover in the frame, and some more. */
function coveredBy(recipe: Recipe, images: readonly NamedImage[], plus_m: number): Region {
  const frame = recipe.frame && crsOf(recipe.frame.crs);
  if (!frame) throw new Problem('frame-missing', 'An area of interest needs a reference frame. Choose it in Place.');
  const box = emptyBounds();
  for (const { placed } of placedImages(recipe, images, northUp(frame))) {
    const own = extentInTarget(placed);
    if (own) join(box, own);
  }
  const plus = plus_m / metresPerUnit(frame, null);
  return { box: [box[0] - plus, box[1] - plus, box[2] + plus, box[3] + plus], rings: [] };
}

/**
 * Plans a deliverable that is a picture.
 * @param images from the top; nothing of them is read but what is known of them as a whole
 * @param wanted what of the frame is asked for
 * @param records sources of records, where a map is drawn of them; they are not read
 * @param map what draws them; a forecast needs none
 * @throws Problem `format-unknown`, `crs-unknown`, `image-unplaced`, `image-none`, `map-system`, `stretch-missing`, and those of the way into
 *   the target
 */
export function prepareImage(
  all: Recipe,
  deliverable: Deliverable,
  images: readonly NamedImage[],
  { region, pieces }: WantedAreas,
  records: readonly SourceSummary[] = [],
  map: MapRecords | null = null,
): ImagePlan {
  const recipe = withChosenLayers(all, deliverable, records);
  const format = imageFormatById(deliverable.format);
  if (!format?.images.write)
    throw new Problem('format-unknown', `${deliverable.name}: "${deliverable.format}" is not a format in which pictures are written here.`);
  const target = crsOf(deliverable.crs);
  if (!target)
    throw new Problem('crs-unknown', `${deliverable.name}: ${deliverable.crs} is not in the registry. Choose another target system.`);
  const scale = deliverable.image?.drawn;
  if (images.length === 0 && !scale)
    throw new Problem('image-none', `${deliverable.name} has no picture to be made of. Take one in Gather, or choose one for it.`);
  const { image = { resampling: 'bilinear' as const } } = deliverable;
  const inOrder = image.first === 'newest' ? newestFirst(images) : images;
  const own = placedImages(recipe, inOrder, target);
  const area = region && imageArea(recipe, deliverable, region, target);
  const sheet = scale ? sheetOf(recipe, scale, area?.bounds ?? null, own, records, target) : null;
  const placed = sheet ? sheet.pictures : own;
  const undated = image.first === 'newest' ? images.filter((i) => i.image.date === undefined) : [];
  const plan = planImage(
    format,
    placed.map((p) => p.placed),
    {
      pixelSize: sheet ? [sheet.pixel, sheet.pixel] : image.pixelSize,
      resampling: image.resampling,
      aligned: image.aligned,
      split: pieces ? splitByAreas(recipe, deliverable, pieces, target) : image.split && splitOf(image.split, groundUnit(target)),
      first: image.first === 'centre' ? 'centre' : 'order',
      feather: image.feather_m && image.feather_m / groundUnit(target),
      undated: undated.length,
      ...(area ? { bounds: area.bounds, rings: area.rings } : sheet ? { bounds: sheet.bounds } : {}),
      ...(sheet ? { drawn: (grid) => map?.over(grid) ?? NOT_DRAWN } : {}),
    },
    {
      crs: target,
      stem: deliverable.stem ?? fileStem(deliverable.name),
      options: formatOptions(format, deliverable.options),
      same: placed.every((p) => p.same),
    },
  );
  if (scale) plan.findings.push(...notPlaced(recipe, records));
  return plan;
}

/** A forecast draws nothing. */
const NOT_DRAWN: Drawn = { read: () => Promise.reject(new Error('A forecast reads no pixel.')) };

/** A split by areas of the frame, which are carried into the target. */
function splitByAreas(recipe: Recipe, { image }: Deliverable, pieces: readonly NamedArea[], target: Crs): Split {
  return {
    by: 'areas',
    areas: pieces.map(({ name, rings }) => ({ name, rings: ringsInTarget(recipe, rings, target) })),
    cut: image?.outside !== 'stays',
    overlap: image?.split?.overlap ?? 0,
    names: 'number',
  };
}

/** The newest first; those that say no date lie below, as they come. */
const newestFirst = (images: readonly NamedImage[]): NamedImage[] =>
  [...images].sort(({ image: a }, { image: b }) => (a.date === b.date ? 0 : (a.date ?? '') < (b.date ?? '') ? 1 : -1));

/** The bounds of the pictures of each source in its own numbers: one change of datum is good for all of them. */
function extentsOf(images: readonly NamedImage[]): Map<string, Bounds> {
  const extents = new Map<string, Bounds>();
  for (const { source, image } of images) {
    const own = extents.get(source) ?? emptyBounds();
    join(own, extentOfGrid(ownGrid(image)));
    extents.set(source, own);
  }
  return extents;
}

/**
 * Pictures with their ways into a target and back, and whether they lie in its very plane.
 * @throws Problem `image-unplaced`, and those of the way
 */
export function placedImages(
  recipe: Recipe,
  images: readonly NamedImage[],
  target: Crs,
): { placed: PlacedImage; same: boolean; stretch: NamedImage['stretch'] }[] {
  const extents = extentsOf(images);
  const routes = new Map<string, Route>();
  return images.map(({ source, name, image, stretch }) => {
    const { placement, image: rule } = recipe.sources[source] ?? {};
    const placedIn = placement ? placedBy(placement, extents.get(source)!) : null;
    if (!placedIn || (!image.where.grid && !placedIn.parameters.fit))
      throw new Problem(
        'image-unplaced',
        `${name} does not say where it lies. Put its world file or the one with its tie points beside it, or fit it to control points in Place.`,
        { file: name },
      );
    const route = routes.get(source) ?? routeTo(placedIn, target);
    routes.set(source, route);
    const own = ruledImage(image, rule, name);
    return {
      placed: {
        source,
        name,
        image: own.image,
        ...(own.kept ? { kept: own.kept } : {}),
        grid: ownGrid(image),
        ...pointMaps(route),
      },
      same: route.placement.same && route.transform.steps.length === 0,
      stretch,
    };
  });
}

/** Metres on the ground in a unit of a system, nearly for degrees. */
const groundUnit = (crs: Crs): number => (crs.kind === 'geographic' ? crs.degreesPerUnit * METRES_PER_DEGREE : lengthUnit(crs));
