import { RAD } from '../angles';
import { PARAM } from '../crs';
import { auxiliary, conformalT, meridional, primeVertical } from './auxiliary';
import { type Method, projector } from './method';

/** Over the conformal sphere of the origin. Source: IOGP Guidance Note 7-2, section 3.2.1 (EPSG method 9809). */
export const obliqueStereographic: Method = {
  code: 9809,
  name: 'Oblique Stereographic',
  parameters: [PARAM.latitudeOfOrigin, PARAM.longitudeOfOrigin, PARAM.scaleFactor, PARAM.falseEasting, PARAM.falseNorthing],
  compile(ellipsoid, value) {
    const { a } = ellipsoid;
    const { e, e2, fromConformal } = auxiliary(ellipsoid);
    const phi0 = value(PARAM.latitudeOfOrigin) * RAD;
    const sinPhi0 = Math.sin(phi0);
    const twoRk = 2 * value(PARAM.scaleFactor) * Math.sqrt(meridional(phi0, a, e2) * primeVertical(phi0, a, e2));
    const n = Math.sqrt(1 + (e2 * Math.cos(phi0) ** 4) / (1 - e2));
    // w = c / t^(2n), with c from the two conformal spheres of the origin
    const w1 = Math.pow(conformalT(phi0, e), -2 * n);
    const sinChi00 = (w1 - 1) / (w1 + 1);
    const c = ((n + sinPhi0) * (1 - sinChi00)) / ((n - sinPhi0) * (1 + sinChi00));
    const chi0 = Math.asin((c * w1 - 1) / (c * w1 + 1));
    const sin0 = Math.sin(chi0),
      cos0 = Math.cos(chi0);
    return projector(
      value(PARAM.longitudeOfOrigin),
      value(PARAM.falseEasting),
      value(PARAM.falseNorthing),
      (lam, phi, out) => {
        const w = c * Math.pow(conformalT(phi, e), -2 * n);
        const sin = Number.isFinite(w) ? (w - 1) / (w + 1) : 1;
        const cos = Math.sqrt(1 - sin * sin);
        const turn = n * lam;
        const B = 1 + sin * sin0 + cos * cos0 * Math.cos(turn);
        out[0] = (twoRk * cos * Math.sin(turn)) / B;
        out[1] = (twoRk * (sin * cos0 - cos * sin0 * Math.cos(turn))) / B;
      },
      (x, y, out) => {
        const rho = Math.hypot(x, y);
        const angle = 2 * Math.atan(rho / twoRk);
        const sinA = Math.sin(angle),
          cosA = Math.cos(angle);
        const sin = rho === 0 ? sin0 : cosA * sin0 + (y * sinA * cos0) / rho;
        out[0] = Math.atan2(x * sinA, rho * cos0 * cosA - y * sin0 * sinA) / n;
        const t = Math.pow((c * (1 - sin)) / (1 + sin), 1 / (2 * n));
        out[1] = fromConformal(Math.PI / 2 - 2 * Math.atan(t));
      },
    );
  },
};
