import { type ImageProof } from '../content/raster/proof';
import { type ImagePlan, planImage, type PlacedImage } from '../content/raster/plan';
import { proveImage } from '../content/raster/prove';
import { writeImage } from '../content/raster/write';
import { fileStem } from '../content/features/plan';
import { type Crs, METRES_PER_DEGREE } from '../crs/crs';
import type { ImageFormat } from '../formats/format';
import type { OpenImage } from '../formats/image-face';
import { imageFormatById } from '../formats/images';
import { formatOptions } from '../formats/options';
import type { FolderSink, FolderSource } from '../io/bytes';
import { UNWATCHED } from '../io/bytes';
import { type Finding, Findings } from '../model/finding';
import { Problem } from '../model/problem';
import { crsOf, placedBy, type PlacedIn, routeTo } from '../placement/route';
import { lengthUnit } from '../symbology/sizes';
import { extentOfGrid, type PixelGrid } from '../raster/pixel-grid';
import type { RunOptions } from './pipeline';
import type { Deliverable, Recipe } from './recipe';

/** A picture of a crossing. It is opened as often as needed, and closed by whoever did. */
export interface CrossingImage {
  name: string;
  open(findings: Findings): Promise<OpenImage>;
}

/** What a run of a deliverable that is a picture reports. */
export interface ImageReport {
  plan: ImagePlan;
  proof: ImageProof;
  /** Files in the folder. */
  files: string[];
  findings: Finding[];
}

/** Pictures without a place lie in the plane of their own pixels, rows downwards. */
const OWN_PIXELS: PixelGrid['map'] = [0, 1, 0, 0, 0, -1];

/**
 * Where the pixels of a picture lie in its own numbers: where its file says, or in the plane of its pixels, which control points place.
 */
export function ownGrid({ info, where }: Pick<OpenImage, 'info' | 'where'>): PixelGrid {
  return { map: where.grid?.map ?? OWN_PIXELS, width: info.width, height: info.height };
}

/**
 * Runs a deliverable that is a picture: opens its sources, plans, writes into `folder`, opens the sources once more and proves.
 * @param sources in the order in which they cover each other
 * @throws Problem when a picture has no place, and when the forecast says that it cannot run
 */
export async function runImageDeliverable(
  recipe: Recipe,
  deliverable: Deliverable,
  sources: readonly CrossingImage[],
  folder: FolderSink & FolderSource,
  { writing = UNWATCHED, proving = UNWATCHED }: Pick<RunOptions, 'writing' | 'proving'> = {},
): Promise<ImageReport> {
  const findings = new Findings();
  const written = await withPlan(recipe, deliverable, sources, findings, async (plan) => {
    if (plan.blocked.length > 0)
      throw new Problem('deliverable-blocked', `${deliverable.name} cannot be written. ${plan.blocked.join(' ')}`);
    for (const finding of plan.findings) findings.add(finding);
    for (const finding of await writeImage(plan, folder, writing)) findings.add(finding);
    return plan;
  });
  const { crs, stem, options } = written.target;
  const proof = await withPlan(recipe, deliverable, sources, new Findings(), (plan) => proveImage(plan, folder, groundUnit(crs), proving));
  for (const finding of proof.findings) findings.add(finding);
  return { plan: written, proof, files: written.format.images.write!.files(stem, options), findings: findings.list() };
}

async function withPlan<T>(
  recipe: Recipe,
  deliverable: Deliverable,
  sources: readonly CrossingImage[],
  findings: Findings,
  use: (plan: ImagePlan) => Promise<T>,
): Promise<T> {
  const opened: OpenImage[] = [];
  try {
    for (const source of sources) opened.push(await source.open(findings));
    return await use(
      prepareImage(
        recipe,
        deliverable,
        sources.map(({ name }, k) => ({ name, image: opened[k]! })),
      ),
    );
  } finally {
    for (const image of opened) await image.close();
  }
}

/**
 * Plans a deliverable that is a picture.
 * @throws Problem `format-unknown`, `crs-unknown`, `image-unplaced`, and those of the way into the target
 */
export function prepareImage(recipe: Recipe, deliverable: Deliverable, opened: readonly { name: string; image: OpenImage }[]): ImagePlan {
  const format = imageFormatById(deliverable.format);
  if (!format?.images.write)
    throw new Problem('format-unknown', `${deliverable.name}: "${deliverable.format}" is not a format in which pictures are written here.`);
  const target = crsOf(deliverable.crs);
  if (!target)
    throw new Problem('crs-unknown', `${deliverable.name}: ${deliverable.crs} is not in the registry. Choose another target system.`);
  const { area, image = { resampling: 'bilinear' as const } } = deliverable;
  if (area && area.kind !== 'box')
    throw new Problem('area-kind', `${deliverable.name}: a picture is cut to a box so far. Choose a box as its area of interest.`);
  const placed = opened.map(({ name, image: own }) => placedImage(recipe, name, own, target));
  return planImage(
    format,
    placed.map((p) => p.image),
    { pixelSize: image.pixelSize, bounds: area?.box, resampling: image.resampling },
    {
      crs: target,
      stem: deliverable.stem ?? fileStem(deliverable.name),
      options: formatOptions(format as ImageFormat, deliverable.options),
      same: placed.every((p) => p.same),
    },
  );
}

function placedImage(recipe: Recipe, name: string, image: OpenImage, target: Crs): { image: PlacedImage; same: boolean } {
  const grid = ownGrid(image);
  const placement = recipe.sources[name]?.placement;
  const placed: PlacedIn | null = placement ? placedBy(placement, extentOfGrid(grid)) : null;
  if (!placed || (!image.where.grid && !placed.parameters.fit))
    throw new Problem(
      'image-unplaced',
      `${name} does not say where it lies. Put its world file or the one with its tie points beside it, or fit it to control points in Place.`,
      { file: name },
    );
  const route = routeTo(placed, target);
  const back = route.transform.inverse();
  return {
    image: {
      name,
      image,
      grid,
      toTarget(points) {
        route.placement.forward(points, 0, points.length / 2, 2);
        route.transform.apply(points, 0, points.length / 2, 2);
      },
      toSource(points) {
        back.apply(points, 0, points.length / 2, 2);
        route.placement.inverse(points, 0, points.length / 2, 2);
      },
    },
    same: route.placement.same && route.transform.steps.length === 0,
  };
}

/** Metres on the ground in a unit of a system, nearly for degrees. */
const groundUnit = (crs: Crs): number => (crs.kind === 'geographic' ? crs.degreesPerUnit * METRES_PER_DEGREE : lengthUnit(crs));
