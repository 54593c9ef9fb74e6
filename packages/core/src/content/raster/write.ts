import type { ImageWriter } from '../../formats/image-face';
import type { FolderSink, Watch } from '../../io/bytes';
import { closingAfterFailure } from '../../io/open-files';
import type { Finding } from '../../model/finding';
import { emptyRaster, type Raster } from '../../model/raster';
import { put } from '../../raster/warp';
import { piecesOf } from './expected';
import { ahead, type PieceWork } from './piece-work';
import type { ImagePlan } from './plan';

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
export async function writeImage(plan: ImagePlan, folder: FolderSink, work: PieceWork, watch: Watch): Promise<Finding[]> {
  const files = closingAfterFailure(folder);
  // a strip is packed while the next one is worked out
  let packing: Promise<void> = Promise.resolve();
  try {
    const { info } = plan.target;
    let keptApart = 0;
    const writer = await plan.format.images.write!.create(files, plan.target);
    let rows = emptyRaster(info.sampleType, info.width, 0, info.bands);
    const pieces = piecesOf(info.width, info.height);
    for await (const [piece, { raster, keptApart: apart }] of ahead(pieces, work.atOnce, (window) => work.expected(window))) {
      watch.check();
      if (piece.x === 0) rows = emptyRaster(info.sampleType, info.width, piece.height, info.bands);
      keptApart += apart;
      put(rows, { x: 0, y: piece.y, width: info.width, height: piece.height }, raster, piece);
      watch.progress((piece.y + 1) * info.width + piece.x, info.width * info.height);
      if (piece.x + piece.width < info.width) continue;
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
