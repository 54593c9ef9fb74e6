import type { Crs } from '../crs';
import { writeWkt2 } from './wkt2';

/** What a recipe calls a system: its code, or its definition where the registry does not know it. */
export const definitionOf = (crs: Crs): string => crs.id ?? writeWkt2(crs);
