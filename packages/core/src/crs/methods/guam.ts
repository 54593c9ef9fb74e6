import { RAD } from '../angles';
import { PARAM } from '../crs';
import { auxiliary, parallelRadius } from './auxiliary';
import { type Formula, type Method, newtonInverse, projector } from './method';

/** A simplified azimuthal equidistant projection. Source: IOGP Guidance Note 7-2, section 3.3.2.1 (EPSG method 9831). */
export const guam: Method = {
  code: 9831,
  name: 'Guam Projection',
  parameters: [PARAM.latitudeOfOrigin, PARAM.longitudeOfOrigin, PARAM.falseEasting, PARAM.falseNorthing],
  compile(ellipsoid, value) {
    const { a } = ellipsoid;
    const { e2, arc, fromArc } = auxiliary(ellipsoid);
    const m0 = arc(value(PARAM.latitudeOfOrigin) * RAD);
    const forward: Formula = (lam, phi, out) => {
      const x = a * lam * parallelRadius(phi, e2);
      const sin = Math.sin(phi);
      out[0] = x;
      out[1] = arc(phi) - m0 + (x * x * Math.tan(phi) * Math.sqrt(1 - e2 * sin * sin)) / (2 * a);
    };
    return projector(
      value(PARAM.longitudeOfOrigin),
      value(PARAM.falseEasting),
      value(PARAM.falseNorthing),
      forward,
      newtonInverse(forward, (x, y, out) => {
        const phi = fromArc(m0 + y);
        out[0] = x / (a * parallelRadius(phi, e2));
        out[1] = phi;
      }),
    );
  },
};
