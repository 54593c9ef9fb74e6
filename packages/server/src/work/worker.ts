import { workerData } from 'piscina';
import { registerNodeCodePages } from '@pontrel/host-node/code-pages';
import { registerSkia } from '@pontrel/host-node/canvas';
import { registerNodeImageEngine } from '@pontrel/host-node/image-engine';
import { type GridFolder, registerGrids } from '@pontrel/host-node/grid-folders';
import { type Outcome, told } from '@pontrel/host-node/outcome';
import type { Extended } from '@pontrel/core/crossing/placement-of';
import { intoFrame } from '@pontrel/core/crossing/area-of-interest';
import type { Recipe } from '@pontrel/core/crossing/recipe';
import type { RecordOrder } from '@pontrel/host-node/store/feature-store';
import { mapPdf } from '../report/map-pdf';
import { cutTile, storeAt } from '../tiles/cut-tile';
import { imageTile, overview, pixelValues } from '../tiles/image-tile';
import { nearestVertex } from '../tiles/nearest-vertex';
import { recordAt as recordAtPlace } from '../tiles/record-at';
import { samplePicture } from '../tiles/sample-picture';
import {
  mapOverview as overviewOf,
  pictureForecast as forecastOf,
  picturePiece as pieceOf,
  pictureSizes as sizesOf,
} from './picture-look-ups';
import { elevationOf } from './elevation-of';
import { profileDrawing as drawingOf, profileOf } from './profile-of';
import { sampleTexts } from './sample-texts';
import { shapeSource } from './shape-source';

/** Milliseconds for which the grid folders are taken to be as they were; tiles come by the dozen. */
const FRESH = 2000;
let looked = 0;

registerNodeCodePages();
registerNodeImageEngine();
registerSkia();

/** A task of the threads: the work itself, with the grid files at hand. */
const task =
  <Q, T>(work: (request: Q) => T | Promise<T>) =>
  (request: Q): Promise<Outcome<T>> => {
    if (Date.now() - looked >= FRESH) {
      looked = Date.now();
      registerGrids((workerData as { grids: GridFolder[] }).grids);
    }
    return told(() => work(request));
  };

/** The order of a layer's records by a field, or of those that a filter takes. */
type ListRequest = RecordOrder & { source: Extended & { store: string }; recipe: Recipe; layer: string };
export const list = task(({ source, recipe, layer, ...order }: ListRequest) =>
  storeAt(source.store).list(layer, order, intoFrame(recipe, source)),
);

/** Values of a field, for whoever writes a filter. */
export const values = task(({ store, layer, field, begin }: { store: string; layer: string; field: string; begin: string }) =>
  storeAt(store).values(layer, field, begin),
);

/** What records have in a field. */
export const statistics = task(({ store, layer, field, ids }: { store: string; layer: string; field: string; ids: Uint32Array | null }) =>
  storeAt(store).statistics(layer, field, ids),
);

export const shape = task(shapeSource);
export const texts = task(sampleTexts);
export const tile = task(cutTile);
export const pictureTile = task(imageTile);
export const pixels = task(pixelValues);
export const pictureOverview = task(overview);
export const mapOverview = task(overviewOf);
export const pictureForecast = task(forecastOf);
export const pictureSizes = task(sizesOf);
export const picturePiece = task(pieceOf);
export const nearest = task(nearestVertex);
export const recordAt = task(recordAtPlace);
export const elevation = task(elevationOf);
export const profile = task(profileOf);
export const profileDrawing = task(drawingOf);
export const picture = task(samplePicture);
export const print = task(mapPdf);
