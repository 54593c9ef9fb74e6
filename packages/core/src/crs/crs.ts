/** Lengths in metres, angles in degrees. */
export interface Ellipsoid {
  name: string;
  /** Semi-major axis, metres. */
  a: number;
  /** Inverse flattening; 0 for a sphere. */
  invF: number;
}

export interface Datum {
  /** "EPSG:6167", or null when only its content is known. */
  id: string | null;
  name: string;
  ellipsoid: Ellipsoid;
  /** Longitude of the prime meridian east of Greenwich, degrees. */
  primeMeridian: number;
}

/** A linear unit; `metres` is the length of one. */
export interface LinearUnit {
  name: string;
  metres: number;
}

/** Degrees of west, south, east and north; west may be greater than east across the antimeridian. */
export interface AreaOfUse {
  name: string;
  west: number;
  south: number;
  east: number;
  north: number;
}

interface CrsBase {
  /** "EPSG:2193", or null for one that only its definition describes. */
  id: string | null;
  name: string;
  area: AreaOfUse | null;
}

/** Longitude and latitude in the CRS's own angular unit, longitude first and east of its own prime meridian. */
export interface GeographicCrs extends CrsBase {
  kind: 'geographic';
  datum: Datum;
  /** Degrees in one unit of its coordinates: 1, or 0.9 for grads. */
  degreesPerUnit: number;
}

/** Easting and northing in `unit`, easting first. */
export interface ProjectedCrs extends CrsBase {
  kind: 'projected';
  base: GeographicCrs;
  /** EPSG code of the coordinate operation method. */
  method: number;
  /** Values by EPSG parameter code; angles in degrees, lengths in metres, scales as ratios. */
  parameters: Record<number, number>;
  unit: LinearUnit;
}

export type Crs = GeographicCrs | ProjectedCrs;

export function datumOf(crs: Crs): Datum {
  return crs.kind === 'geographic' ? crs.datum : crs.base.datum;
}

/** Metres in one degree along a meridian, as on a sphere: for tolerances and scales, not for positions. */
export const METRES_PER_DEGREE = 111_195;

/**
 * Metres in one unit of coordinates in `crs`, roughly for degrees.
 * @param unit_m what the source says of its unit; null when its coordinates are in the unit of the CRS
 */
export function metresPerUnit(crs: Crs, unit_m: number | null): number {
  if (crs.kind === 'geographic') return METRES_PER_DEGREE * crs.degreesPerUnit;
  return unit_m ?? crs.unit.metres;
}

/** A few letters for the unit of a CRS, as printed beside numbers. */
export function unitSymbol(crs: Crs): string {
  if (crs.kind === 'geographic') return '°';
  if (crs.unit.metres === 1) return 'm';
  return crs.unit.name;
}

/** EPSG parameter codes, as named in the registry. */
export const PARAM = {
  latitudeOfOrigin: 8801,
  longitudeOfOrigin: 8802,
  scaleFactor: 8805,
  falseEasting: 8806,
  falseNorthing: 8807,
} as const;
