import { RAD } from '../angles';
import { PARAM } from '../crs';
import { auxiliary, meridional, primeVertical } from './auxiliary';
import { type Formula, type Method, newtonInverse, projector } from './method';

/** A plane at the height of the town. Source: IOGP Guidance Note 7-2, section 3.5.7 (EPSG method 1052). */
export const colombiaUrban: Method = {
  code: 1052,
  name: 'Colombia Urban',
  parameters: [PARAM.latitudeOfOrigin, PARAM.longitudeOfOrigin, PARAM.falseEasting, PARAM.falseNorthing, PARAM.planeHeight],
  compile(ellipsoid, value) {
    const { a } = ellipsoid;
    const { e2 } = auxiliary(ellipsoid);
    const phi0 = value(PARAM.latitudeOfOrigin) * RAD;
    const h0 = value(PARAM.planeHeight);
    const rho0 = meridional(phi0, a, e2),
      nu0 = primeVertical(phi0, a, e2);
    const A = 1 + h0 / nu0;
    const B = Math.tan(phi0) / (2 * rho0 * nu0);
    const forward: Formula = (lam, phi, out) => {
      const G = 1 + h0 / meridional((phi0 + phi) / 2, a, e2);
      const x = primeVertical(phi, a, e2) * Math.cos(phi) * lam;
      out[0] = A * x;
      out[1] = G * rho0 * (phi - phi0 + B * x * x);
    };
    return projector(
      value(PARAM.longitudeOfOrigin),
      value(PARAM.falseEasting),
      value(PARAM.falseNorthing),
      forward,
      newtonInverse(forward, (x, y, out) => {
        out[1] = phi0 + y / rho0;
        out[0] = x / (A * nu0 * Math.cos(out[1]));
      }),
    );
  },
};
