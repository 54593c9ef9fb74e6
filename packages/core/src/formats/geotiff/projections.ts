/**
 * Projection methods as GeoTIFF states them: the number of the transformation, the EPSG code of the method, and for each of its EPSG
 * parameters the keys in which it may stand, the one that is written first. Source: OGC 19-008r4, section 7.5.3 and annex C; what other
 * keys writers use in practice is common practice, no source.
 */
export interface KeyedProjection {
  transformation: number;
  method: number;
  /** EPSG parameter code to keys. */
  keys: Readonly<Record<number, readonly number[]>>;
}

const [FALSE_EASTING, FALSE_NORTHING] = [3082, 3083];
const unscaled = { 8801: [3081, 3089], 8802: [3080, 3088], 8806: [FALSE_EASTING], 8807: [FALSE_NORTHING] };
const natural = { ...unscaled, 8805: [3092, 3093] };
const falseOrigin = {
  8821: [3085, 3081, 3089],
  8822: [3084, 3080, 3088],
  8823: [3078],
  8824: [3079],
  8826: [3086, FALSE_EASTING],
  8827: [3087, FALSE_NORTHING],
};
const centred = { 8801: [3089, 3081], 8802: [3088, 3080], 8806: [FALSE_EASTING], 8807: [FALSE_NORTHING] };

/** Projections that GeoKeys can state by their parameters, with the EPSG method of each. Source: OGC 19-008r4 (GeoTIFF 1.1). */
export const PROJECTIONS: readonly KeyedProjection[] = [
  { transformation: 1, method: 9807, keys: natural },
  { transformation: 27, method: 9808, keys: natural },
  { transformation: 7, method: 9804, keys: natural },
  { transformation: 8, method: 9802, keys: falseOrigin },
  { transformation: 9, method: 9801, keys: natural },
  { transformation: 10, method: 9820, keys: centred },
  { transformation: 11, method: 9822, keys: falseOrigin },
  { transformation: 15, method: 9810, keys: { ...natural, 8802: [3095, 3080] } },
  { transformation: 16, method: 9809, keys: natural },
  { transformation: 18, method: 9806, keys: unscaled },
  {
    transformation: 3,
    method: 9815,
    keys: { 8811: [3089], 8812: [3088], 8813: [3094], 8814: [3096], 8815: [3093, 3092], 8816: [3090, 3082], 8817: [3091, 3083] },
  },
];

/** Parameters that are angles, and those that are ratios; all others are lengths. */
export const ANGLES: ReadonlySet<number> = new Set([8801, 8802, 8811, 8812, 8813, 8814, 8821, 8822, 8823, 8824]);
/** Parameters without a unit, by their EPSG codes. */
export const RATIOS: ReadonlySet<number> = new Set([8805, 8815]);
