import type { Crs } from '../crs';
import { writeDatedWkt2 } from './wkt2';

/** What a recipe calls a system: its code, with the date of its coordinates where there is one, or its definition where the registry does not know it. */
export const definitionOf = (crs: Crs): string =>
  crs.id === null ? writeDatedWkt2(crs) : crs.epoch === undefined ? crs.id : `${crs.id}@${crs.epoch}`;
