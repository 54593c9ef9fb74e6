import { RAD } from '../angles';
import { PARAM } from '../crs';
import { auxiliary, parallelRadius } from './auxiliary';
import { type Formula, type Method, projector } from './method';

/** Source: IOGP Guidance Note 7-2, section 3.3.1 (EPSG method 9820), polar aspects included. */
export const lambertAzimuthal: Method = {
  code: 9820,
  name: 'Lambert Azimuthal Equal Area',
  parameters: [PARAM.latitudeOfOrigin, PARAM.longitudeOfOrigin, PARAM.falseEasting, PARAM.falseNorthing],
  compile(ellipsoid, value) {
    const { e2, authalic, fromAuthalic, authalicRadius: R } = auxiliary(ellipsoid);
    const phi0 = value(PARAM.latitudeOfOrigin) * RAD;
    const plane = (forward: Formula, inverse: Formula) =>
      projector(value(PARAM.longitudeOfOrigin), value(PARAM.falseEasting), value(PARAM.falseNorthing), forward, inverse);
    if (Math.abs(Math.abs(phi0) - Math.PI / 2) < 1e-10) {
      const pole = Math.sign(phi0);
      return plane(
        (lam, phi, out) => {
          // R times the chord of the authalic colatitude
          const r = 2 * R * Math.sin(Math.PI / 4 - (pole * authalic(phi)) / 2);
          out[0] = r * Math.sin(lam);
          out[1] = -pole * r * Math.cos(lam);
        },
        (x, y, out) => {
          out[0] = Math.atan2(x, -pole * y);
          out[1] = pole * fromAuthalic(Math.PI / 2 - 2 * Math.asin(Math.hypot(x, y) / (2 * R)));
        },
      );
    }
    const beta0 = authalic(phi0);
    const sin0 = Math.sin(beta0),
      cos0 = Math.cos(beta0);
    const D = (ellipsoid.a * parallelRadius(phi0, e2)) / (R * cos0);
    return plane(
      (lam, phi, out) => {
        const beta = authalic(phi);
        const sin = Math.sin(beta),
          cos = Math.cos(beta);
        const B = R * Math.sqrt(2 / (1 + sin0 * sin + cos0 * cos * Math.cos(lam)));
        out[0] = B * D * cos * Math.sin(lam);
        out[1] = (B / D) * (cos0 * sin - sin0 * cos * Math.cos(lam));
      },
      (x, y, out) => {
        const u = x / D,
          v = y * D;
        const r = Math.hypot(u, v);
        if (r === 0) {
          out[0] = 0;
          out[1] = phi0;
          return;
        }
        const C = 2 * Math.asin(r / (2 * R));
        const sinC = Math.sin(C),
          cosC = Math.cos(C);
        out[0] = Math.atan2(u * sinC, r * cos0 * cosC - v * sin0 * sinC);
        out[1] = fromAuthalic(Math.asin(cosC * sin0 + (v * sinC * cos0) / r));
      },
    );
  },
};

/** On the sphere of the same area. Source: IOGP Guidance Note 7-2, section 3.3.1.1 (EPSG method 1027). */
export const lambertAzimuthalSpherical: Method = {
  ...lambertAzimuthal,
  code: 1027,
  name: 'Lambert Azimuthal Equal Area (Spherical)',
  compile: (ellipsoid, value) => lambertAzimuthal.compile({ ...ellipsoid, a: auxiliary(ellipsoid).authalicRadius, invF: 0 }, value),
};
