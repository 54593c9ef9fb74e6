import { RAD } from '../angles';
import { PARAM } from '../crs';
import { auxiliary, parallelRadius } from './auxiliary';
import { type Method, projector } from './method';

/** Source: IOGP Guidance Note 7-2, section 3.4.4 (EPSG method 9835). */
export const equalAreaCylinder: Method = {
  code: 9835,
  name: 'Lambert Cylindrical Equal Area',
  parameters: [PARAM.parallel1, PARAM.longitudeOfOrigin, PARAM.falseEasting, PARAM.falseNorthing],
  compile(ellipsoid, value) {
    const { e2, authalic, fromAuthalic, authalicRadius: R } = auxiliary(ellipsoid);
    const k = ellipsoid.a * parallelRadius(value(PARAM.parallel1) * RAD, e2);
    return projector(
      value(PARAM.longitudeOfOrigin),
      value(PARAM.falseEasting),
      value(PARAM.falseNorthing),
      (lam, phi, out) => {
        out[0] = k * lam;
        out[1] = ((R * R) / k) * Math.sin(authalic(phi));
      },
      (x, y, out) => {
        out[0] = x / k;
        out[1] = fromAuthalic(Math.asin((y * k) / (R * R)));
      },
    );
  },
};

/** On a sphere of the semi-major axis. Source: IOGP Guidance Note 7-2, section 3.4.4 (EPSG method 9834). */
export const equalAreaCylinderSpherical: Method = {
  ...equalAreaCylinder,
  code: 9834,
  name: 'Lambert Cylindrical Equal Area (Spherical)',
  compile: (ellipsoid, value) => equalAreaCylinder.compile({ ...ellipsoid, invF: 0 }, value),
};
