import { PARAM } from '../crs';
import { lambertCone, secantCone } from './lambert-cone';
import { lambertConic2sp } from './lambert-conic-2sp';
import type { Method } from './method';

/** Two parallels of an ellipsoid that is scaled up to the ground. Source: IOGP Guidance Note 7-2, section 3.1.1.5 (EPSG method 1051). */
export const lambertConicMichigan: Method = {
  code: 1051,
  name: 'Lambert Conic Conformal (2SP Michigan)',
  parameters: [...lambertConic2sp.parameters, PARAM.ellipsoidScale],
  compile: (ellipsoid, value) =>
    lambertCone(ellipsoid, {
      ...secantCone(value(PARAM.parallel1), value(PARAM.parallel2), ellipsoid),
      latitudeOfOrigin: value(PARAM.latitudeOfFalseOrigin),
      longitudeOfOrigin: value(PARAM.longitudeOfFalseOrigin),
      easting: value(PARAM.eastingAtFalseOrigin),
      northing: value(PARAM.northingAtFalseOrigin),
      scale: value(PARAM.ellipsoidScale),
    }),
};
