import type { Method } from './method';
import { pseudoMercator } from './pseudo-mercator';
import { transverseMercator } from './transverse-mercator';

/** Every projection method, by EPSG code. */
export const METHODS: ReadonlyMap<number, Method> = new Map([transverseMercator, pseudoMercator].map((m) => [m.code, m]));
