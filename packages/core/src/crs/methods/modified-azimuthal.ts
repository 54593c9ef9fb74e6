import { RAD } from '../angles';
import { PARAM } from '../crs';
import { auxiliary, primeVertical } from './auxiliary';
import { type Formula, type Method, newtonInverse, projector } from './method';

/** Azimuthal equidistant for islands, by a series. Source: IOGP Guidance Note 7-2, section 3.3.2 (EPSG method 9832). */
export const modifiedAzimuthal: Method = {
  code: 9832,
  name: 'Modified Azimuthal Equidistant',
  parameters: [PARAM.latitudeOfOrigin, PARAM.longitudeOfOrigin, PARAM.falseEasting, PARAM.falseNorthing],
  compile(ellipsoid, value) {
    const { a } = ellipsoid;
    const { e, e2 } = auxiliary(ellipsoid);
    const phi0 = value(PARAM.latitudeOfOrigin) * RAD;
    const sin0 = Math.sin(phi0),
      cos0 = Math.cos(phi0);
    const nu0 = primeVertical(phi0, a, e2);
    const g = e / Math.sqrt(1 - e2);
    const G = g * sin0;
    const forward: Formula = (lam, phi, out) => {
      const nu = primeVertical(phi, a, e2);
      const psi = Math.atan((1 - e2) * Math.tan(phi) + (e2 * nu0 * sin0) / (nu * Math.cos(phi)));
      const sinA = Math.sin(lam),
        cosA = cos0 * Math.tan(psi) - sin0 * Math.cos(lam);
      const alpha = Math.atan2(sinA, cosA);
      const H = g * cos0 * Math.cos(alpha),
        H2 = H * H;
      const s =
        Math.abs(Math.sin(alpha)) < 1e-9
          ? Math.asin(cos0 * Math.sin(psi) - sin0 * Math.cos(psi)) * Math.sign(Math.cos(alpha))
          : Math.asin((Math.sin(lam) * Math.cos(psi)) / Math.sin(alpha));
      const c =
        nu0 *
        s *
        (1 -
          (s * s * H2 * (1 - H2)) / 6 +
          (s ** 3 / 8) * G * H * (1 - 2 * H2) +
          (s ** 4 / 120) * (H2 * (4 - 7 * H2) - 3 * G * G * (1 - 7 * H2)) -
          (s ** 5 / 48) * G * H);
      out[0] = c * Math.sin(alpha);
      out[1] = c * Math.cos(alpha);
    };
    return projector(
      value(PARAM.longitudeOfOrigin),
      value(PARAM.falseEasting),
      value(PARAM.falseNorthing),
      forward,
      newtonInverse(forward, (x, y, out) => {
        const phi = phi0 + y / nu0;
        out[0] = x / (nu0 * Math.cos(phi));
        out[1] = phi;
      }),
    );
  },
};
