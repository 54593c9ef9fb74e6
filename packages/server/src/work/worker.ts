import { Cancelled, Problem } from '@pontrel/core/model/problem';
import type { Shaped } from '@pontrel/core/crossing/shaped';
import { workerData } from 'piscina';
import { registerNodeCodePages } from '@pontrel/host-node/code-pages';
import { type GridFolder, registerGrids } from '@pontrel/host-node/grid-folders';
import type { FieldValue } from '@pontrel/contract/crossing';
import type { Extended } from '@pontrel/core/crossing/placement-of';
import { intoFrame } from '@pontrel/core/crossing/area-of-interest';
import type { Recipe } from '@pontrel/core/crossing/recipe';
import type { RecordOrder } from '@pontrel/host-node/store/feature-store';
import { cutTile, storeAt, type TileRequest } from '../tiles/cut-tile';
import { nearestVertex, type NearestRequest } from '../tiles/nearest-vertex';
import { type Picture, type PictureRequest, samplePicture } from '../tiles/sample-picture';
import { type ReadResult, readSource, type StoredFiles } from './read-source';
import { runDeliverable, type RunRequest, type RunResult } from './run-deliverable';
import { sampleTexts } from './sample-texts';
import { type ShapeRequest, shapeSource } from './shape-source';
import { sentenceOf } from '../store/faults';
import type { Line } from './watch';

/** What comes back from a job: errors as data, since their class does not survive the way between threads. */
export type Outcome<T> = { ok: T } | { cancelled: true } | { problem: { code: string; message: string } };

async function outcomeOf<T>(work: () => Promise<T>, line: Line): Promise<Outcome<T>> {
  try {
    lookForGrids();
    return await told(work);
  } catch (error) {
    if (error instanceof Cancelled) return { cancelled: true };
    return { problem: { code: 'failed', message: sentenceOf(error) } };
  } finally {
    line.port.close();
  }
}

export const read = ({ files, line }: { files: StoredFiles; line: Line }): Promise<Outcome<ReadResult>> =>
  outcomeOf(() => readSource(files, line), line);

export const run = ({ request, line }: { request: RunRequest; line: Line }): Promise<Outcome<RunResult>> =>
  outcomeOf(() => runDeliverable(request, line), line);

/** What a job made, or the problem that it told; anything else is a fault, and is thrown. */
async function told<T>(work: () => T | Promise<T>): Promise<Outcome<T>> {
  try {
    return { ok: await work() };
  } catch (error) {
    if (error instanceof Problem) return { problem: { code: error.code, message: error.message } };
    throw error;
  }
}

export const shape = (request: ShapeRequest): Promise<Outcome<Shaped | null>> => {
  lookForGrids();
  return told(() => shapeSource(request));
};

/** Texts of a file that its code page makes a difference to. */
export const texts = (files: StoredFiles): Promise<Outcome<string[]>> => told(() => sampleTexts(files));

/** The order of a layer's records by a field, or of those that a filter takes. */
export const list = ({
  source,
  recipe,
  layer,
  ...order
}: RecordOrder & { source: Extended & { store: string }; recipe: Recipe; layer: string }): Promise<Outcome<Uint32Array>> => {
  lookForGrids();
  return told(() => storeAt(source.store).list(layer, order, intoFrame(recipe, source)));
};

/** Values of a field, for whoever writes a filter. */
export const values = ({
  store,
  layer,
  field,
  begin,
}: {
  store: string;
  layer: string;
  field: string;
  begin: string;
}): Promise<Outcome<FieldValue[]>> => told(() => storeAt(store).values(layer, field, begin));

export const tile = (request: TileRequest): Uint8Array => {
  lookForGrids();
  return cutTile(request);
};

export const nearest = (request: NearestRequest): [number, number] | null => {
  lookForGrids();
  return nearestVertex(request);
};

export const picture = (request: PictureRequest): Picture => {
  lookForGrids();
  return samplePicture(request);
};

/** Milliseconds for which the grid folders are taken to be as they were; tiles come by the dozen. */
const FRESH = 2000;
let looked = 0;

registerNodeCodePages();

function lookForGrids(): void {
  if (Date.now() - looked < FRESH) return;
  looked = Date.now();
  registerGrids((workerData as { grids: GridFolder[] }).grids);
}
