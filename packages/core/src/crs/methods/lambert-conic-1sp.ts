import { PARAM } from '../crs';
import { lambertCone, tangentCone } from './lambert-cone';
import type { Method } from './method';

/** Source: IOGP Guidance Note 7-2, section 3.1.1.2 (EPSG method 9801). */
export const lambertConic1sp: Method = {
  code: 9801,
  name: 'Lambert Conic Conformal (1SP)',
  parameters: [PARAM.latitudeOfOrigin, PARAM.longitudeOfOrigin, PARAM.scaleFactor, PARAM.falseEasting, PARAM.falseNorthing],
  compile: (ellipsoid, value) =>
    lambertCone(ellipsoid, {
      ...tangentCone(value(PARAM.latitudeOfOrigin), ellipsoid),
      latitudeOfOrigin: value(PARAM.latitudeOfOrigin),
      longitudeOfOrigin: value(PARAM.longitudeOfOrigin),
      easting: value(PARAM.falseEasting),
      northing: value(PARAM.falseNorthing),
      scale: value(PARAM.scaleFactor),
    }),
};
