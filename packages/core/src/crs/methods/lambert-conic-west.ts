import { PARAM } from '../crs';
import { lambertCone, tangentCone } from './lambert-cone';
import { lambertConic1sp } from './lambert-conic-1sp';
import type { Method } from './method';

/** One parallel, with westings. Source: IOGP Guidance Note 7-2, section 3.1.1.3 (EPSG method 9826). */
export const lambertConicWest: Method = {
  code: 9826,
  name: 'Lambert Conic Conformal (West Orientated)',
  parameters: lambertConic1sp.parameters,
  orientation: { x: 'west', y: 'north' },
  compile: (ellipsoid, value) =>
    lambertCone(ellipsoid, {
      ...tangentCone(value(PARAM.latitudeOfOrigin), ellipsoid),
      latitudeOfOrigin: value(PARAM.latitudeOfOrigin),
      longitudeOfOrigin: value(PARAM.longitudeOfOrigin),
      easting: value(PARAM.falseEasting),
      northing: value(PARAM.falseNorthing),
      scale: value(PARAM.scaleFactor),
      sx: -1,
    }),
};
