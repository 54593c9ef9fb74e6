import type { Method } from './method';
import { transverseMercator } from './transverse-mercator';

/** Transverse Mercator whose base has ellipsoidal heights, which pass as they are. Source: EPSG registry, method 1111. */
export const transverseMercator3d: Method = { ...transverseMercator, code: 1111, name: 'Transverse Mercator 3D' };
