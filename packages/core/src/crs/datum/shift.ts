/**
 * Works in place on `count` points of `stride` numbers from index `start`; longitude and latitude in degrees are the first
 * two. A point that has no image becomes NaN.
 */
export type Shift = (p: Float64Array, start: number, count: number, stride: number) => void;
