import type { Ellipsoid } from '../crs';

/**
 * A projection made ready for one set of parameters. Both functions work in place on `n` points of `stride` numbers
 * from index `from`: degrees of longitude (east of the datum's own prime meridian) and latitude on one side, metres of easting and
 * northing on the other. A point that has no image becomes NaN.
 */
export interface Projector {
  forward(points: Float64Array, from: number, n: number, stride: number): void;
  inverse(points: Float64Array, from: number, n: number, stride: number): void;
}

/** One EPSG coordinate operation method. */
export interface Method {
  /** EPSG code. */
  code: number;
  name: string;
  /** EPSG parameter codes that it takes, in the registry's order. */
  parameters: readonly number[];
  compile(ellipsoid: Ellipsoid, value: (parameter: number) => number): Projector;
}

export const RAD = Math.PI / 180;

/** Brings a difference of longitudes, degrees, into [-180, 180]. */
export function wrapDegrees(d: number): number {
  return d > 180 ? d - 360 * Math.ceil((d - 180) / 360) : d < -180 ? d + 360 * Math.ceil((-180 - d) / 360) : d;
}
