import { RAD } from '../angles';
import { PARAM } from '../crs';
import { auxiliary, meridional, primeVertical } from './auxiliary';
import { type Method, projector } from './method';

/** The truncated cone of the Levant. Source: IOGP Guidance Note 7-2, section 3.1.2 (EPSG method 9817). */
export const lambertNearConformal: Method = {
  code: 9817,
  name: 'Lambert Conic Near-Conformal',
  parameters: [PARAM.latitudeOfOrigin, PARAM.longitudeOfOrigin, PARAM.scaleFactor, PARAM.falseEasting, PARAM.falseNorthing],
  compile(ellipsoid, value) {
    const { e2, arc, fromArc } = auxiliary(ellipsoid);
    const phi0 = value(PARAM.latitudeOfOrigin) * RAD;
    const k0 = value(PARAM.scaleFactor);
    const nu0 = primeVertical(phi0, ellipsoid.a, e2);
    const A = 1 / (6 * meridional(phi0, ellipsoid.a, e2) * nu0);
    const r0 = (k0 * nu0) / Math.tan(phi0);
    const s0 = arc(phi0);
    const sin0 = Math.sin(phi0);
    return projector(
      value(PARAM.longitudeOfOrigin),
      value(PARAM.falseEasting),
      value(PARAM.falseNorthing),
      (lam, phi, out) => {
        const m = arc(phi) - s0;
        const M = k0 * (m + A * m ** 3);
        const theta = lam * sin0;
        const x = (r0 - M) * Math.sin(theta);
        out[0] = x;
        out[1] = M + x * Math.tan(theta / 2);
      },
      (x, y, out) => {
        const theta = Math.atan2(x, r0 - y);
        const M = r0 - Math.sign(r0) * Math.hypot(x, r0 - y);
        let m = M / k0;
        for (let round = 0; round < 8; round++) m -= (k0 * (m + A * m ** 3) - M) / (k0 * (1 + 3 * A * m * m));
        out[0] = theta / sin0;
        out[1] = fromArc(s0 + m);
      },
    );
  },
};
