import { move, transferableSymbol, valueSymbol, workerData } from 'piscina';
import { workOn } from '@pontrel/core/crossing/image-pipeline';
import type { Expected } from '@pontrel/core/content/raster/expected';
import type { PieceWork } from '@pontrel/core/content/raster/piece-work';
import { registerNodeCodePages } from './code-pages';
import { fileImage } from './file-image';
import { folderAt } from './files';
import { registerGrids } from './grid-folders';
import { registerNodeImageEngine } from './image-engine';
import type { ThreadBegin } from './image-threads';
import { type Outcome, told } from './outcome';

const { order, images, folder, grids, unpacked } = workerData as ThreadBegin;
registerNodeCodePages();
registerNodeImageEngine(unpacked);
registerGrids(grids);

let made: Promise<PieceWork> | undefined;
const work = (): Promise<PieceWork> => (made ??= workOn(order, images.map(fileImage), folderAt(folder)));

/** A piece as it is to be; see {@link PieceWork}. */
export const expected = async (args: Parameters<PieceWork['expected']>): Promise<unknown> =>
  handedOver(await told(async () => (await work()).expected(...args)));
/** A comparison of a piece; see {@link PieceWork}. */
export const compared = (args: Parameters<PieceWork['compared']>): Promise<unknown> => told(async () => (await work()).compared(...args));
/** The fates of the pixels of a piece; see {@link PieceWork}. */
export const fates = (args: Parameters<PieceWork['fates']>): Promise<unknown> => told(async () => (await work()).fates(...args));

/** Pixels are handed over and not copied. */
function handedOver(outcome: Outcome<Expected>): unknown {
  if ('problem' in outcome) return outcome;
  const { data, valid } = outcome.ok.raster;
  return move({
    [transferableSymbol]: valid ? [data.buffer, valid.buffer] : [data.buffer],
    [valueSymbol]: outcome,
  } as unknown as ArrayBuffer);
}
