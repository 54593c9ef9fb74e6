import { PARAM } from '../crs';
import { lambertCone, secantCone } from './lambert-cone';
import type { Method } from './method';

/** Source: IOGP Guidance Note 7-2, section 3.1.1.1 (EPSG method 9802). */
export const lambertConic2sp: Method = {
  code: 9802,
  name: 'Lambert Conic Conformal (2SP)',
  parameters: [
    PARAM.latitudeOfFalseOrigin,
    PARAM.longitudeOfFalseOrigin,
    PARAM.parallel1,
    PARAM.parallel2,
    PARAM.eastingAtFalseOrigin,
    PARAM.northingAtFalseOrigin,
  ],
  compile: (ellipsoid, value) =>
    lambertCone(ellipsoid, {
      ...secantCone(value(PARAM.parallel1), value(PARAM.parallel2), ellipsoid),
      latitudeOfOrigin: value(PARAM.latitudeOfFalseOrigin),
      longitudeOfOrigin: value(PARAM.longitudeOfFalseOrigin),
      easting: value(PARAM.eastingAtFalseOrigin),
      northing: value(PARAM.northingAtFalseOrigin),
      scale: 1,
    }),
};
