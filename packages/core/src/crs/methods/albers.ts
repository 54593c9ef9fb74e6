import { RAD } from '../angles';
import { PARAM } from '../crs';
import { auxiliary, parallelRadius } from './auxiliary';
import { type Method, projector } from './method';

/** Source: IOGP Guidance Note 7-2, section 3.1.3 (EPSG method 9822), with q written by the authalic latitude. */
export const albers: Method = {
  code: 9822,
  name: 'Albers Equal Area',
  parameters: [
    PARAM.latitudeOfFalseOrigin,
    PARAM.longitudeOfFalseOrigin,
    PARAM.parallel1,
    PARAM.parallel2,
    PARAM.eastingAtFalseOrigin,
    PARAM.northingAtFalseOrigin,
  ],
  compile(ellipsoid, value) {
    const { a } = ellipsoid;
    const { e2, authalic, fromAuthalic, authalicRadius } = auxiliary(ellipsoid);
    const qPole = 2 * (authalicRadius / a) ** 2;
    const q = (phi: number): number => qPole * Math.sin(authalic(phi));
    const phi1 = value(PARAM.parallel1) * RAD,
      phi2 = value(PARAM.parallel2) * RAD;
    const m1 = parallelRadius(phi1, e2),
      m2 = parallelRadius(phi2, e2);
    const n = Math.abs(phi1 - phi2) < 1e-12 ? Math.sin(phi1) : (m1 * m1 - m2 * m2) / (q(phi2) - q(phi1));
    const C = m1 * m1 + n * q(phi1);
    const radius = (phi: number): number => (a * Math.sqrt(Math.max(0, C - n * q(phi)))) / n;
    const r0 = radius(value(PARAM.latitudeOfFalseOrigin) * RAD);
    const sign = Math.sign(n);
    return projector(
      value(PARAM.longitudeOfFalseOrigin),
      value(PARAM.eastingAtFalseOrigin),
      value(PARAM.northingAtFalseOrigin),
      (lam, phi, out) => {
        const r = radius(phi);
        out[0] = r * Math.sin(n * lam);
        out[1] = r0 - r * Math.cos(n * lam);
      },
      (x, y, out) => {
        const down = r0 - y;
        out[0] = Math.atan2(sign * x, sign * down) / n;
        out[1] = fromAuthalic(Math.asin((C - (x * x + down * down) * (n / a) ** 2) / n / qPole));
      },
    );
  },
};
