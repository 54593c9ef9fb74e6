import { availableParallelism } from 'node:os';
import { fileURLToPath } from 'node:url';
import { Piscina } from 'piscina';
import type { PieceWork } from '@pontrel/core/content/raster/piece-work';
import type { BeginThreads, WorkOrder } from '@pontrel/core/crossing/image-pipeline';
import type { PixelWindow } from '@pontrel/core/model/raster';
import type { FileImage } from './file-image';
import { type GridFolder, gridFoldersInUse } from './grid-folders';
import { type UnpackedFile, unpackedFiles } from './image-engine';
import { type Outcome, unwrapped } from './outcome';

/** What a thread is told when it begins. */
export interface ThreadBegin {
  order: WorkOrder;
  /** Those of the order, in its order. */
  images: FileImage[];
  /** Where what was written lies. */
  folder: string;
  grids: readonly GridFolder[];
  unpacked: ReadonlyMap<string, UnpackedFile>;
}

/** The built program of a thread, beside the one that this is built into. */
const BUILT = fileURLToPath(new URL('./image-thread.mjs', import.meta.url));

/** Pixels of a picture for which it is not worth while to begin threads. */
const FEW_PIXELS = 4e6;

/** Threads at most: each has pieces and blocks of its own in memory. */
const MOST_THREADS = 4;

/**
 * Works out pictures in threads, each of which opens their files for itself.
 * @param images those of the crossing
 * @param folder where the deliverable is written
 * @param script the built program of a thread
 */
export const imageThreads =
  (images: readonly FileImage[], folder: string, script = BUILT): BeginThreads =>
  async (order, plan) => {
    const { width, height } = plan.target.info;
    const threads = Math.min(MOST_THREADS, availableParallelism());
    // what would have to be unpacked again in each thread is not worth it either
    const unpacked = unpackedFiles();
    if (width * height < FEW_PIXELS || threads < 2 || !unpacked) return null;
    const taken = order.images.map((name) => images.find((image) => image.source === name.source && image.name === name.name)!);
    const begin: ThreadBegin = { order, images: taken, folder, grids: gridFoldersInUse(), unpacked };
    const pool = new Piscina({
      filename: script,
      workerData: begin,
      minThreads: threads,
      maxThreads: threads,
      resourceLimits: { maxOldGenerationSizeMb: 512, maxYoungGenerationSizeMb: 16 },
    });
    const asked =
      <A extends unknown[], R>(name: keyof PieceWork) =>
      async (...args: A): Promise<R> =>
        unwrapped((await pool.run(args, { name })) as Outcome<R>);
    return {
      // one waits for each that is worked on
      atOnce: 2 * threads,
      expected: asked('expected'),
      compared: asked<[PixelWindow], Awaited<ReturnType<PieceWork['compared']>>>('compared'),
      fates: asked('fates'),
      close: () => pool.destroy(),
    };
  };
