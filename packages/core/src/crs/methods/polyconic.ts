import { RAD } from '../angles';
import { PARAM } from '../crs';
import { auxiliary, primeVertical } from './auxiliary';
import { type Formula, type Method, newtonInverse, projector } from './method';

/** Source: IOGP Guidance Note 7-2, section 3.1.4 (EPSG method 9818). */
export const polyconic: Method = {
  code: 9818,
  name: 'American Polyconic',
  parameters: [PARAM.latitudeOfOrigin, PARAM.longitudeOfOrigin, PARAM.falseEasting, PARAM.falseNorthing],
  compile(ellipsoid, value) {
    const { a } = ellipsoid;
    const { e2, arc, fromArc } = auxiliary(ellipsoid);
    const m0 = arc(value(PARAM.latitudeOfOrigin) * RAD);
    const forward: Formula = (lam, phi, out) => {
      if (Math.abs(phi) < 1e-12) {
        out[0] = a * lam;
        out[1] = arc(phi) - m0;
        return;
      }
      const r = primeVertical(phi, a, e2) / Math.tan(phi);
      const L = lam * Math.sin(phi);
      const half = Math.sin(L / 2);
      out[0] = r * Math.sin(L);
      out[1] = arc(phi) - m0 + 2 * r * half * half;
    };
    return projector(
      value(PARAM.longitudeOfOrigin),
      value(PARAM.falseEasting),
      value(PARAM.falseNorthing),
      forward,
      newtonInverse(forward, (x, y, out) => {
        const phi = fromArc(y + m0);
        out[0] = x / (primeVertical(phi, a, e2) * Math.cos(phi));
        out[1] = phi;
      }),
    );
  },
};
