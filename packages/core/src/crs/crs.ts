import type { Axes } from './axes';
import type { Ellipsoid } from './ellipsoid';
import type { Helmert } from './datum/helmert';

/** What ties an ellipsoid to the earth. */
export interface Datum {
  /** "EPSG:6167", or null when only its content is known. */
  id: string | null;
  name: string;
  ellipsoid: Ellipsoid;
  /** Longitude of the prime meridian east of Greenwich, degrees. */
  primeMeridian: number;
  /** Day of publication, yyyy-mm-dd; "" when the registry does not say. */
  published?: string;
  /** Metres by which the members of an ensemble differ; absent when it is not one. */
  ensemble_m?: number;
  /** The way to WGS 84 that a definition states itself; absent when only the registry knows ways. */
  toWgs84?: Helmert;
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
  /** Only the sea, by its description. */
  offshore?: boolean;
}

interface CrsBase {
  /** "EPSG:2193", or null for one that only its definition describes. */
  id: string | null;
  name: string;
  area: AreaOfUse | null;
  /** The date at which its coordinates hold, decimal years, where they move with a plate; absent where nobody says it. */
  epoch?: number;
}

/** A system for positions that is part of a compound one. */
interface PerhapsCompound extends CrsBase {
  /** The whole of it, where heights are stated beside the positions; `id` and `name` are those of the whole. */
  compound?: CompoundCrs;
}

/** Longitude and latitude in the CRS's own angular unit, longitude first and east of its own prime meridian. */
export interface GeographicCrs extends PerhapsCompound {
  kind: 'geographic';
  datum: Datum;
  /** 3 when it has ellipsoidal heights, in metres. */
  dimension: 2 | 3;
  /** Degrees in one unit of its coordinates: 1, or 0.9 for grads. */
  degreesPerUnit: number;
  /** The registry, and so formats that follow it, puts longitude first here; latitude comes first otherwise. */
  lonFirst?: true;
}

/** Easting and northing (or westing and southing, as `axes` tells) in `unit`, the east-west axis first. */
export interface ProjectedCrs extends PerhapsCompound {
  kind: 'projected';
  base: GeographicCrs;
  /** EPSG code of the coordinate operation method. */
  method: number;
  /** Values by EPSG parameter code; angles in degrees, lengths in metres, scales as ratios. */
  parameters: Record<number, number>;
  unit: LinearUnit;
  axes: Axes;
}

/**
 * A plane of its own: the numbers of a site grid, with a unit and no place on earth. Nothing leads from it into another system. Source:
 * ISO 19111:2019, section 9.1 (engineering CRS).
 */
export interface LocalCrs extends CrsBase {
  kind: 'local';
  id: null;
  area: null;
  unit: LinearUnit;
  axes: Axes;
}

/** A system with a place on earth, in the plane or on the ellipsoid. */
export type EarthCrs = GeographicCrs | ProjectedCrs;

/** A system for positions: what maps and drawings have. */
export type Crs = EarthCrs | LocalCrs;

/** X, Y and Z from the centre of the earth, metres. */
export interface GeocentricCrs extends CrsBase {
  kind: 'geocentric';
  datum: Datum;
}

/** Heights, or depths, in `unit`. */
export interface VerticalCrs extends CrsBase {
  kind: 'vertical';
  datum: { id: string | null; name: string };
  unit: LinearUnit;
  direction: 'up' | 'down';
}

/** A system for positions with one for heights. */
export interface CompoundCrs extends CrsBase {
  kind: 'compound';
  horizontal: Crs;
  vertical: VerticalCrs;
}

/** The system for positions of a compound one, which keeps the whole of it. "EPSG:2193+7839" is its id where only its parts have codes. */
export function withHeights(compound: CompoundCrs): Crs {
  const { horizontal, vertical } = compound;
  if (horizontal.kind === 'local') return horizontal;
  const id = compound.id ?? (horizontal.id && vertical.id ? `${horizontal.id}+${vertical.id.replace(/^EPSG:/, '')}` : null);
  const name = compound.name || `${horizontal.name} + ${vertical.name}`;
  return { ...horizontal, id, name, area: compound.area ?? horizontal.area, compound: { ...compound, name }, ...epochOf(compound) };
}

/** A system without what it says of heights. */
export const positionsOf = <C extends Crs>(crs: C): C =>
  crs.kind === 'local' || !crs.compound ? crs : ({ ...crs.compound.horizontal, ...epochOf(crs) } as C);

/** What a system says of the date of its coordinates. */
const epochOf = ({ epoch }: Pick<CrsBase, 'epoch'>): Pick<CrsBase, 'epoch'> => (epoch === undefined ? {} : { epoch });

/** The system for heights that is stated beside the positions; null where there is none. */
export const verticalOf = (crs: Crs): VerticalCrs | null => (crs.kind === 'local' ? null : (crs.compound?.vertical ?? null));

/** Every kind of system that the registry holds. */
export type AnyCrs = Crs | GeocentricCrs | VerticalCrs | CompoundCrs;

/** Whether coordinates are lengths in a plane, and not degrees. */
export const isPlane = (crs: Crs): crs is ProjectedCrs | LocalCrs => crs.kind !== 'geographic';

/** Whether a system is somewhere on earth. */
export const isOnEarth = (crs: Crs): crs is EarthCrs => crs.kind !== 'local';

/** The datum of a system; that of its base where it is projected. */
export function datumOf(crs: EarthCrs | GeocentricCrs): Datum {
  return crs.kind === 'projected' ? crs.base.datum : crs.datum;
}

/** Signs that turn the numbers of a system into eastings and northings, and back. */
export function ownSigns(crs: Crs): readonly [1 | -1, 1 | -1] {
  return crs.kind === 'projected' && !crs.axes.along ? [crs.axes.x === 'west' ? -1 : 1, crs.axes.y === 'south' ? -1 : 1] : [1, 1];
}

/** The same plane with east to the right and north upwards, as it is drawn; the system itself where it is so already. */
export function northUp(crs: Crs): Crs {
  // what is shown is a plane
  const own = positionsOf(crs);
  const [sx, sy] = ownSigns(own);
  if (own.kind !== 'projected' || (sx === 1 && sy === 1)) return own;
  return { ...own, id: null, axes: { ...own.axes, x: 'east', y: 'north' } };
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
  latitudeOfCentre: 8811,
  longitudeOfCentre: 8812,
  azimuth: 8813,
  rectifiedAngle: 8814,
  scaleAtCentre: 8815,
  eastingAtCentre: 8816,
  northingAtCentre: 8817,
  pseudoParallel: 8818,
  scaleOnPseudoParallel: 8819,
  latitudeOfFalseOrigin: 8821,
  longitudeOfFalseOrigin: 8822,
  parallel1: 8823,
  parallel2: 8824,
  eastingAtFalseOrigin: 8826,
  northingAtFalseOrigin: 8827,
  initialLongitude: 8830,
  zoneWidth: 8831,
  standardParallel: 8832,
  longitudeFromPole: 8833,
  coneAxisColatitude: 1036,
  ellipsoidScale: 1038,
  planeHeight: 1039,
} as const;

/** Parameters that are lengths, in metres here and in the unit of the system in texts. */
export const LENGTHS: ReadonlySet<number> = new Set([
  PARAM.falseEasting,
  PARAM.falseNorthing,
  PARAM.eastingAtCentre,
  PARAM.northingAtCentre,
  PARAM.eastingAtFalseOrigin,
  PARAM.northingAtFalseOrigin,
  PARAM.planeHeight,
]);

/** Parameters that are ratios. */
export const RATIOS: ReadonlySet<number> = new Set([
  PARAM.scaleFactor,
  PARAM.scaleAtCentre,
  PARAM.scaleOnPseudoParallel,
  PARAM.ellipsoidScale,
]);
