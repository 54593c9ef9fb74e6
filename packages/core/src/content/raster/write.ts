import type { ImageWriter } from '../../formats/image-face';
import type { FolderSink, Watch } from '../../io/bytes';
import { closingAfterFailure } from '../../io/open-files';
import type { Finding } from '../../model/finding';
import { emptyRaster, type PixelWindow, type Raster } from '../../model/raster';
import { sourcePositions } from '../../raster/approximate';
import { put, warpWindow } from '../../raster/warp';
import { keepApart, stateEmpty } from './like';
import type { ImagePlan } from './plan';

/** Columns and rows that are worked out at once. */
export const PIECE = 512;

/** A window of the picture as it is to be, with what says that there is nothing where there is nothing. */
export async function expectedWindow(
  plan: ImagePlan,
  window: PixelWindow,
  positionsIn = sourcePositions,
): Promise<{ raster: Raster; keptApart: number }> {
  const raster = await warpWindow(plan.target.grid, plan.sources, plan.like, plan.resampling, window, positionsIn);
  plan.within?.(window).forEach((inside, i) => {
    if (!inside) raster.valid![i] = 0;
  });
  stateEmpty(raster, plan.like);
  return { raster, keptApart: keepApart(raster, plan.like) };
}

/** The windows of a row of pieces. */
export function* piecesOf(width: number, y: number, height: number): Generator<PixelWindow> {
  for (let x = 0; x < width; x += PIECE) yield { x, y, width: Math.min(PIECE, width - x), height };
}

/** Hands rows on, as many at once as a writer wants. */
export async function appendAll(writer: ImageWriter, rows: Raster): Promise<void> {
  const { width, height, bands } = rows;
  for (let y = 0; y < height; y += writer.rows) {
    const own = Math.min(writer.rows, height - y);
    const data = own === height ? rows.data : rows.data.slice(y * width * bands, (y + own) * width * bands);
    await writer.append({ ...rows, height: own, data });
  }
}

/** Writes a picture into `folder`. When that fails no file is left open. @returns what could be told only while writing */
export async function writeImage(plan: ImagePlan, folder: FolderSink, watch: Watch): Promise<Finding[]> {
  const files = closingAfterFailure(folder);
  // a strip is packed while the next one is worked out
  let packing: Promise<void> = Promise.resolve();
  try {
    const { info } = plan.target;
    let keptApart = 0;
    const writer = await plan.format.images.write!.create(files, plan.target);
    // positions are approximated over a piece: the proof works them out over the same ones
    for (let y = 0; y < info.height; y += PIECE) {
      const height = Math.min(PIECE, info.height - y);
      const strip = { x: 0, y, width: info.width, height };
      const rows = emptyRaster(info.sampleType, info.width, height, info.bands);
      for (const piece of piecesOf(info.width, y, height)) {
        watch.check();
        const { raster, keptApart: apart } = await expectedWindow(plan, piece);
        keptApart += apart;
        put(rows, strip, raster, piece);
        watch.progress((y + 1) * info.width + piece.x, info.width * info.height);
      }
      await packing;
      packing = appendAll(writer, rows);
      // its failure is met where it is waited for
      packing.catch(() => undefined);
    }
    await packing;
    await writer.close();
    watch.progress(info.width * info.height, info.width * info.height);
    return keptApart === 0
      ? []
      : [
          {
            code: 'values-kept-apart',
            severity: 'info',
            message: `Values came out as ${plan.like.nodata}, which stands for none; they are written as the next one.`,
            count: keptApart,
          },
        ];
  } catch (e) {
    await packing.catch(() => undefined);
    await files.closeAll();
    throw e;
  }
}
