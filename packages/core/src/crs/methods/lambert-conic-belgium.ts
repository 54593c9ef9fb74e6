import { RAD } from '../angles';
import { PARAM } from '../crs';
import { lambertCone, secantCone } from './lambert-cone';
import { lambertConic2sp } from './lambert-conic-2sp';
import { type Method } from './method';

/** Two parallels, and the plane turned by 29.2985 seconds. Source: IOGP Guidance Note 7-2, section 3.1.1.4 (EPSG method 9803). */
export const lambertConicBelgium: Method = {
  code: 9803,
  name: 'Lambert Conic Conformal (2SP Belgium)',
  parameters: lambertConic2sp.parameters,
  compile: (ellipsoid, value) =>
    lambertCone(ellipsoid, {
      ...secantCone(value(PARAM.parallel1), value(PARAM.parallel2), ellipsoid),
      latitudeOfOrigin: value(PARAM.latitudeOfFalseOrigin),
      longitudeOfOrigin: value(PARAM.longitudeOfFalseOrigin),
      easting: value(PARAM.eastingAtFalseOrigin),
      northing: value(PARAM.northingAtFalseOrigin),
      scale: 1,
      turn: (29.2985 / 3600) * RAD,
    }),
};
