import { type Proof, worstOf } from '../content/features/proof';
import type { ImageProof } from '../content/raster/proof';
import { fileStem } from '../content/features/plan';
import type { ShownPicture } from '../formats/format';
import type { FolderSink, FolderSource } from '../io/bytes';
import { Findings } from '../model/finding';
import type { CrossingImage, ImageReport, ImageRunOptions } from './image-pipeline';
import { runImageDeliverable } from './image-pipeline';
import type { CrossingSource } from './crossing-source';
import { runDeliverable, type RunOptions, type RunReport } from './pipeline';
import type { Deliverable, ImageSettings, Recipe } from './recipe';

/** Formats of the picture beside a drawing, by what is chosen. */
const FORMATS: Record<NonNullable<ImageSettings['packed']>, string> = { jpeg: 'jpeg', png: 'png', tiff: 'geotiff' };

/** The picture that lies below the records of a deliverable, as a deliverable of its own; null where it shows none. */
export function imageBelow(deliverable: Deliverable): Deliverable | null {
  const { image } = deliverable;
  if (!image) return null;
  const { quality = 85, ...settings } = image;
  const stem = `${deliverable.stem ?? fileStem(deliverable.name)}_image`;
  return {
    ...deliverable,
    name: `${deliverable.name}, image`,
    stem,
    format: FORMATS[image.packed ?? 'jpeg'],
    image: settings,
    options: { quality },
  };
}

/** The proof of records, with that of the picture that lies below them. */
export interface DrawingProof extends Proof {
  below?: ImageProof;
}

/** What a run of records with a picture below them reports. */
export interface DrawingReport extends RunReport {
  proof: DrawingProof;
  /** Of the picture; null where none is shown. */
  below: ImageReport | null;
}

/**
 * Runs a deliverable of records; where it shows a picture below them, that is written and proved first, into the same folder.
 * @param imaging what watches the picture, as `options` does the records
 */
export async function runWithImages(
  recipe: Recipe,
  deliverable: Deliverable,
  sources: readonly CrossingSource[],
  images: readonly CrossingImage[],
  folder: FolderSink & FolderSource,
  imaging: Omit<ImageRunOptions, 'records'>,
  options: RunOptions,
): Promise<DrawingReport> {
  const below = imageBelow(deliverable);
  if (!below) return { ...(await runDeliverable(recipe, deliverable, sources, folder, options)), below: null };
  const image = await runImageDeliverable(recipe, below, images, folder, { ...imaging, records: sources });
  const report = await runDeliverable(recipe, deliverable, sources, folder, { ...options, shown: shownBy(image) });
  const findings = new Findings();
  for (const finding of [...image.findings, ...report.findings]) findings.add(finding);
  return {
    ...report,
    proof: { ...report.proof, status: worstOf([report.proof, image.proof]), below: image.proof },
    findings: findings.list(),
    below: image,
  };
}

/** Where the files of a picture lie, one for each tile that it is split into. */
function shownBy({ plan: { target, single, parts } }: ImageReport): ShownPicture[] {
  return parts.map(({ stem, grid }) => ({ file: single.images.write!.files(stem, target.options)[0]!, ...grid }));
}
