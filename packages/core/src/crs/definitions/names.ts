import { PARAM } from '../crs';

/**
 * How parameters and methods are called in texts. EPSG names from the registry; those of the first generation and of PROJ
 * strings from OGC 01-009 and the documentation of PROJ; those of the .prj dialect are common practice, no source.
 */

/** EPSG names of parameters, as WKT2 has them. */
export const PARAMETER_NAMES: Record<number, string> = {
  [PARAM.latitudeOfOrigin]: 'Latitude of natural origin',
  [PARAM.longitudeOfOrigin]: 'Longitude of natural origin',
  [PARAM.scaleFactor]: 'Scale factor at natural origin',
  [PARAM.falseEasting]: 'False easting',
  [PARAM.falseNorthing]: 'False northing',
  [PARAM.latitudeOfCentre]: 'Latitude of projection centre',
  [PARAM.longitudeOfCentre]: 'Longitude of projection centre',
  [PARAM.azimuth]: 'Azimuth of initial line',
  [PARAM.rectifiedAngle]: 'Angle from Rectified to Skew Grid',
  [PARAM.scaleAtCentre]: 'Scale factor on initial line',
  [PARAM.eastingAtCentre]: 'Easting at projection centre',
  [PARAM.northingAtCentre]: 'Northing at projection centre',
  [PARAM.pseudoParallel]: 'Latitude of pseudo standard parallel',
  [PARAM.scaleOnPseudoParallel]: 'Scale factor on pseudo standard parallel',
  [PARAM.latitudeOfFalseOrigin]: 'Latitude of false origin',
  [PARAM.longitudeOfFalseOrigin]: 'Longitude of false origin',
  [PARAM.parallel1]: 'Latitude of 1st standard parallel',
  [PARAM.parallel2]: 'Latitude of 2nd standard parallel',
  [PARAM.eastingAtFalseOrigin]: 'Easting at false origin',
  [PARAM.northingAtFalseOrigin]: 'Northing at false origin',
  [PARAM.initialLongitude]: 'Initial longitude',
  [PARAM.zoneWidth]: 'Zone width',
  [PARAM.standardParallel]: 'Latitude of standard parallel',
  [PARAM.longitudeFromPole]: 'Longitude of origin',
  [PARAM.coneAxisColatitude]: 'Co-latitude of cone axis',
  [PARAM.ellipsoidScale]: 'Ellipsoid scaling factor',
  [PARAM.planeHeight]: 'Projection plane origin height',
};

/** Names of parameters in the first generation, where a method has no other. */
const FIRST: Record<number, string> = {
  [PARAM.latitudeOfOrigin]: 'latitude_of_origin',
  [PARAM.longitudeOfOrigin]: 'central_meridian',
  [PARAM.scaleFactor]: 'scale_factor',
  [PARAM.falseEasting]: 'false_easting',
  [PARAM.falseNorthing]: 'false_northing',
  [PARAM.latitudeOfCentre]: 'latitude_of_center',
  [PARAM.longitudeOfCentre]: 'longitude_of_center',
  [PARAM.azimuth]: 'azimuth',
  [PARAM.rectifiedAngle]: 'rectified_grid_angle',
  [PARAM.scaleAtCentre]: 'scale_factor',
  [PARAM.eastingAtCentre]: 'false_easting',
  [PARAM.northingAtCentre]: 'false_northing',
  [PARAM.pseudoParallel]: 'pseudo_standard_parallel_1',
  [PARAM.scaleOnPseudoParallel]: 'scale_factor',
  [PARAM.latitudeOfFalseOrigin]: 'latitude_of_origin',
  [PARAM.longitudeOfFalseOrigin]: 'central_meridian',
  [PARAM.parallel1]: 'standard_parallel_1',
  [PARAM.parallel2]: 'standard_parallel_2',
  [PARAM.eastingAtFalseOrigin]: 'false_easting',
  [PARAM.northingAtFalseOrigin]: 'false_northing',
  [PARAM.standardParallel]: 'latitude_of_origin',
  [PARAM.longitudeFromPole]: 'central_meridian',
  [PARAM.coneAxisColatitude]: 'azimuth',
  [PARAM.planeHeight]: 'height',
  [PARAM.ellipsoidScale]: 'scale_factor',
};

/** A method in one of the two dialects of the first generation. */
export interface FirstMethod {
  method: number;
  name: string;
  /** EPSG parameter codes with their names, in the order in which they are written. */
  parameters: readonly (readonly [number, string])[];
  /** Written with fixed values; when read they must have them to tell methods of one name apart. */
  constants: readonly (readonly [string, number])[];
  /** Decides between methods of one name, by the parameters that a text gives (names folded). */
  when?: (given: ReadonlyMap<string, number>) => boolean;
}

type Renames = Record<number, string>;

function first(
  method: number,
  name: string,
  codes: readonly number[],
  renames: Renames = {},
  constants: FirstMethod['constants'] = [],
  when?: FirstMethod['when'],
): FirstMethod {
  return {
    method,
    name,
    parameters: codes.map((c) => [c, renames[c] ?? FIRST[c] ?? PARAMETER_NAMES[c]!] as const),
    constants,
    ...(when ? { when } : {}),
  };
}

const P = PARAM;
const NATURAL = [P.latitudeOfOrigin, P.longitudeOfOrigin, P.scaleFactor, P.falseEasting, P.falseNorthing];
const ORIGIN = [P.latitudeOfOrigin, P.longitudeOfOrigin, P.falseEasting, P.falseNorthing];
const FALSE = [
  P.latitudeOfFalseOrigin,
  P.longitudeOfFalseOrigin,
  P.parallel1,
  P.parallel2,
  P.eastingAtFalseOrigin,
  P.northingAtFalseOrigin,
];
const PARALLEL = [P.parallel1, P.longitudeOfOrigin, P.falseEasting, P.falseNorthing];
const OBLIQUE = [P.latitudeOfCentre, P.longitudeOfCentre, P.azimuth, P.rectifiedAngle, P.scaleAtCentre];
const KROVAK = [
  P.latitudeOfCentre,
  P.longitudeFromPole,
  P.coneAxisColatitude,
  P.pseudoParallel,
  P.scaleOnPseudoParallel,
  P.falseEasting,
  P.falseNorthing,
];
const CENTRE: Renames = {
  [P.latitudeOfOrigin]: 'latitude_of_center',
  [P.longitudeOfOrigin]: 'longitude_of_center',
  [P.latitudeOfFalseOrigin]: 'latitude_of_center',
  [P.longitudeOfFalseOrigin]: 'longitude_of_center',
};
const FROM_POLE: Renames = { [P.longitudeFromPole]: 'longitude_of_center' };
/** Methods without a name of their own in the first generation are written with those of the registry. */
const registered = (name: string, method: number, codes: readonly number[]): FirstMethod => ({
  method,
  name,
  parameters: codes.map((c) => [c, PARAMETER_NAMES[c]!] as const),
  constants: [],
});

const has =
  (name: string) =>
  (given: ReadonlyMap<string, number>): boolean =>
    given.has(name);

/** OGC 01-009 names; of several with one name the first whose condition holds. */
export const WKT1_METHODS: readonly FirstMethod[] = [
  first(9807, 'Transverse_Mercator', NATURAL),
  first(1111, 'Transverse_Mercator', NATURAL),
  first(9808, 'Transverse_Mercator_South_Orientated', NATURAL),
  first(9801, 'Lambert_Conformal_Conic_1SP', NATURAL),
  first(9802, 'Lambert_Conformal_Conic_2SP', FALSE),
  first(9803, 'Lambert_Conformal_Conic_2SP_Belgium', FALSE),
  registered('Lambert_Conic_Conformal_(2SP_Michigan)', 1051, [...FALSE, P.ellipsoidScale]),
  registered('Lambert_Conic_Conformal_(West_Orientated)', 9826, NATURAL),
  registered('Lambert_Conic_Near-Conformal', 9817, NATURAL),
  first(9804, 'Mercator_1SP', [P.longitudeOfOrigin, P.scaleFactor, P.falseEasting, P.falseNorthing]),
  first(9805, 'Mercator_2SP', PARALLEL),
  first(9806, 'Cassini_Soldner', ORIGIN),
  registered('Hyperbolic_Cassini-Soldner', 9833, ORIGIN),
  first(9822, 'Albers_Conic_Equal_Area', FALSE, CENTRE),
  first(9820, 'Lambert_Azimuthal_Equal_Area', ORIGIN, CENTRE),
  first(1027, 'Lambert_Azimuthal_Equal_Area', ORIGIN, CENTRE),
  first(9835, 'Cylindrical_Equal_Area', PARALLEL),
  first(9834, 'Cylindrical_Equal_Area', PARALLEL),
  first(1028, 'Equirectangular', PARALLEL),
  first(1029, 'Equirectangular', PARALLEL),
  first(
    9829,
    'Polar_Stereographic',
    [P.standardParallel, P.longitudeFromPole, P.falseEasting, P.falseNorthing],
    {},
    [],
    (g) => Math.abs(Math.abs(g.get('latitudeoforigin') ?? 90) - 90) > 1e-9,
  ),
  first(9810, 'Polar_Stereographic', NATURAL),
  registered('Polar_Stereographic_(variant_C)', 9830, [
    P.standardParallel,
    P.longitudeFromPole,
    P.eastingAtFalseOrigin,
    P.northingAtFalseOrigin,
  ]),
  first(9809, 'Oblique_Stereographic', NATURAL),
  first(9812, 'Hotine_Oblique_Mercator', [...OBLIQUE, P.falseEasting, P.falseNorthing]),
  first(9815, 'Hotine_Oblique_Mercator_Azimuth_Center', [...OBLIQUE, P.eastingAtCentre, P.northingAtCentre]),
  first(9815, 'Oblique_Mercator', [...OBLIQUE, P.eastingAtCentre, P.northingAtCentre]),
  first(9813, 'Laborde_Oblique_Mercator', [
    P.latitudeOfCentre,
    P.longitudeOfCentre,
    P.azimuth,
    P.scaleAtCentre,
    P.falseEasting,
    P.falseNorthing,
  ]),
  first(1041, 'Krovak', KROVAK, FROM_POLE),
  first(9819, 'Krovak', KROVAK, FROM_POLE),
  registered('Krovak_Modified', 1042, KROVAK),
  registered('Krovak_Modified_(North_Orientated)', 1043, KROVAK),
  first(9811, 'New_Zealand_Map_Grid', ORIGIN),
  first(9816, 'Tunisia_Mapping_Grid', [P.latitudeOfFalseOrigin, P.longitudeOfFalseOrigin, P.eastingAtFalseOrigin, P.northingAtFalseOrigin]),
  first(9818, 'Polyconic', ORIGIN),
  registered('Bonne_(South_Orientated)', 9828, ORIGIN),
  first(9827, 'Bonne', ORIGIN, { [P.latitudeOfOrigin]: 'standard_parallel_1' }),
  first(9832, 'Azimuthal_Equidistant', ORIGIN, CENTRE),
  registered('Guam_Projection', 9831, ORIGIN),
  registered('Colombia_Urban', 1052, [...ORIGIN, P.planeHeight]),
  registered('Equal_Earth', 1078, [P.longitudeOfOrigin, P.falseEasting, P.falseNorthing]),
  registered('Transverse_Mercator_Zoned_Grid_System', 9824, [
    P.latitudeOfOrigin,
    P.initialLongitude,
    P.zoneWidth,
    P.scaleFactor,
    P.falseEasting,
    P.falseNorthing,
  ]),
  registered('Popular_Visualisation_Pseudo_Mercator', 1024, ORIGIN),
];

const T = (name: string): string => name.replace(/(^|_)[a-z]/g, (m) => m.toUpperCase());
/** In the .prj dialect false origins come first, and names begin with capitals. */
function dialect(
  method: number,
  name: string,
  codes: readonly number[],
  renames: Renames = {},
  constants: FirstMethod['constants'] = [],
  when?: FirstMethod['when'],
): FirstMethod {
  return { method, name, parameters: codes.map((c) => [c, renames[c] ?? T(FIRST[c]!)] as const), constants, ...(when ? { when } : {}) };
}

const D_NATURAL = [P.falseEasting, P.falseNorthing, P.longitudeOfOrigin, P.scaleFactor, P.latitudeOfOrigin];
const D_ORIGIN = [P.falseEasting, P.falseNorthing, P.longitudeOfOrigin, P.latitudeOfOrigin];
const D_FALSE = [
  P.eastingAtFalseOrigin,
  P.northingAtFalseOrigin,
  P.longitudeOfFalseOrigin,
  P.parallel1,
  P.parallel2,
  P.latitudeOfFalseOrigin,
];
const D_PARALLEL = [P.falseEasting, P.falseNorthing, P.longitudeOfOrigin, P.parallel1];
const D_KROVAK = [
  P.falseEasting,
  P.falseNorthing,
  P.pseudoParallel,
  P.scaleOnPseudoParallel,
  P.coneAxisColatitude,
  P.longitudeFromPole,
  P.latitudeOfCentre,
];
const D_FROM_POLE: Renames = { [P.longitudeFromPole]: 'Longitude_Of_Center' };
const AS_IS = (m: number): FirstMethod => WKT1_METHODS.find((f) => f.method === m)!;

/** The dialect of .prj files. What it has no name for is written with the names of the registry, as PROJ does. */
export const PRJ_METHODS: readonly FirstMethod[] = [
  dialect(9807, 'Transverse_Mercator', D_NATURAL),
  dialect(1111, 'Transverse_Mercator', D_NATURAL),
  dialect(9807, 'Gauss_Kruger', D_NATURAL),
  AS_IS(9808),
  // one name for three methods: one parallel is the latitude of origin too, and a scale beside two parallels is Michigan's
  dialect(
    1051,
    'Lambert_Conformal_Conic',
    [...D_FALSE.slice(0, 5), P.ellipsoidScale, P.latitudeOfFalseOrigin],
    {},
    [],
    (g) => g.has('standardparallel2') && g.has('scalefactor') && g.get('scalefactor') !== 1,
  ),
  dialect(9802, 'Lambert_Conformal_Conic', D_FALSE, {}, [], has('standardparallel2')),
  {
    ...dialect(9801, 'Lambert_Conformal_Conic', D_NATURAL),
    parameters: [
      [P.falseEasting, 'False_Easting'],
      [P.falseNorthing, 'False_Northing'],
      [P.longitudeOfOrigin, 'Central_Meridian'],
      [P.latitudeOfOrigin, 'Standard_Parallel_1'],
      [P.scaleFactor, 'Scale_Factor'],
      [P.latitudeOfOrigin, 'Latitude_Of_Origin'],
    ],
  },
  AS_IS(9803),
  AS_IS(9826),
  AS_IS(9817),
  dialect(1024, 'Mercator_Auxiliary_Sphere', [P.falseEasting, P.falseNorthing, P.longitudeOfOrigin], {}, [
    ['Standard_Parallel_1', 0],
    ['Auxiliary_Sphere_Type', 0],
  ]),
  dialect(9805, 'Mercator', D_PARALLEL),
  dialect(9804, 'Mercator', D_PARALLEL),
  dialect(9806, 'Cassini', D_ORIGIN, {}, [['Scale_Factor', 1]]),
  AS_IS(9833),
  dialect(9822, 'Albers', D_FALSE),
  dialect(9820, 'Lambert_Azimuthal_Equal_Area', D_ORIGIN),
  dialect(1027, 'Lambert_Azimuthal_Equal_Area', D_ORIGIN),
  dialect(9835, 'Cylindrical_Equal_Area', D_PARALLEL),
  dialect(9835, 'Behrmann', D_PARALLEL),
  dialect(9834, 'Cylindrical_Equal_Area', D_PARALLEL),
  dialect(1028, 'Equidistant_Cylindrical', D_PARALLEL),
  dialect(1029, 'Equidistant_Cylindrical', D_PARALLEL),
  dialect(9829, 'Stereographic_North_Pole', [P.falseEasting, P.falseNorthing, P.longitudeFromPole, P.standardParallel], {
    [P.standardParallel]: 'Standard_Parallel_1',
  }),
  dialect(9829, 'Stereographic_South_Pole', [P.falseEasting, P.falseNorthing, P.longitudeFromPole, P.standardParallel], {
    [P.standardParallel]: 'Standard_Parallel_1',
  }),
  AS_IS(9810),
  AS_IS(9830),
  dialect(9809, 'Double_Stereographic', D_NATURAL),
  dialect(9812, 'Hotine_Oblique_Mercator_Azimuth_Natural_Origin', [
    P.falseEasting,
    P.falseNorthing,
    P.scaleAtCentre,
    P.azimuth,
    P.longitudeOfCentre,
    P.latitudeOfCentre,
  ]),
  dialect(9815, 'Hotine_Oblique_Mercator_Azimuth_Center', [
    P.eastingAtCentre,
    P.northingAtCentre,
    P.scaleAtCentre,
    P.azimuth,
    P.longitudeOfCentre,
    P.latitudeOfCentre,
  ]),
  dialect(
    9812,
    'Rectified_Skew_Orthomorphic_Natural_Origin',
    [P.falseEasting, P.falseNorthing, P.scaleAtCentre, P.azimuth, P.longitudeOfCentre, P.latitudeOfCentre, P.rectifiedAngle],
    { [P.rectifiedAngle]: 'XY_Plane_Rotation' },
  ),
  dialect(
    9815,
    'Rectified_Skew_Orthomorphic_Center',
    [P.eastingAtCentre, P.northingAtCentre, P.scaleAtCentre, P.azimuth, P.longitudeOfCentre, P.latitudeOfCentre, P.rectifiedAngle],
    { [P.rectifiedAngle]: 'XY_Plane_Rotation' },
  ),
  dialect(9813, 'Laborde_Oblique_Mercator', [
    P.falseEasting,
    P.falseNorthing,
    P.scaleAtCentre,
    P.azimuth,
    P.longitudeOfCentre,
    P.latitudeOfCentre,
  ]),
  dialect(
    1041,
    'Krovak',
    D_KROVAK,
    D_FROM_POLE,
    [
      ['X_Scale', -1],
      ['Y_Scale', 1],
      ['XY_Plane_Rotation', 90],
    ],
    (g) => g.get('xscale') === -1,
  ),
  dialect(9819, 'Krovak', D_KROVAK, D_FROM_POLE, [
    ['X_Scale', 1],
    ['Y_Scale', 1],
    ['XY_Plane_Rotation', 0],
  ]),
  AS_IS(1042),
  AS_IS(1043),
  dialect(9811, 'New_Zealand_Map_Grid', D_ORIGIN, { [P.longitudeOfOrigin]: 'Longitude_Of_Origin' }),
  AS_IS(9816),
  dialect(9818, 'Polyconic', D_ORIGIN),
  AS_IS(9828),
  dialect(9827, 'Bonne', D_ORIGIN, { [P.latitudeOfOrigin]: 'Standard_Parallel_1' }),
  dialect(9832, 'Azimuthal_Equidistant', D_ORIGIN),
  AS_IS(9831),
  dialect(1052, 'IGAC_Plano_Cartesiano', [P.falseEasting, P.falseNorthing, P.longitudeOfOrigin, P.latitudeOfOrigin, P.planeHeight], {
    [P.longitudeOfOrigin]: 'Longitude_Of_Center',
    [P.latitudeOfOrigin]: 'Latitude_Of_Center',
  }),
  dialect(1078, 'Equal_Earth', [P.falseEasting, P.falseNorthing, P.longitudeOfOrigin]),
  AS_IS(9824),
];

/** Linear units by their names in the .prj dialect, where that is not the registry's with underscores. Common practice, no source. */
export const DIALECT_UNITS: Record<string, string> = { metre: 'Meter', foot: 'Foot', 'US survey foot': 'Foot_US' };
