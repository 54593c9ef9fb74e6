import { RAD } from '../angles';
import { PARAM } from '../crs';
import { type Method, wrapDegrees } from './method';

/**
 * Mercator of a sphere of the ellipsoid's semi-major axis, fed with geodetic latitudes.
 * Source: IOGP Guidance Note 7-2, section 3.5.1.3 (EPSG method 1024).
 */
export const pseudoMercator: Method = {
  code: 1024,
  name: 'Popular Visualisation Pseudo Mercator',
  parameters: [PARAM.latitudeOfOrigin, PARAM.longitudeOfOrigin, PARAM.falseEasting, PARAM.falseNorthing],
  compile(ellipsoid, value) {
    const { a } = ellipsoid;
    const lon0 = value(PARAM.longitudeOfOrigin);
    const fe = value(PARAM.falseEasting);
    const fn = value(PARAM.falseNorthing);
    return {
      forward(p, from, count, stride) {
        const end = from + count * stride;
        for (let i = from; i < end; i += stride) {
          const lat = p[i + 1]!;
          p[i] = fe + a * wrapDegrees(p[i]! - lon0) * RAD;
          p[i + 1] = Math.abs(lat) < 90 ? fn + a * Math.asinh(Math.tan(lat * RAD)) : NaN;
        }
      },
      inverse(p, from, count, stride) {
        const end = from + count * stride;
        for (let i = from; i < end; i += stride) {
          p[i] = wrapDegrees(lon0 + (p[i]! - fe) / a / RAD);
          p[i + 1] = Math.atan(Math.sinh((p[i + 1]! - fn) / a)) / RAD;
        }
      },
    };
  },
};
