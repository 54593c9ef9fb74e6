import { RAD } from '../angles';
import { PARAM } from '../crs';
import { auxiliary, conformalT } from './auxiliary';
import { type Method, projector } from './method';

/**
 * Triple projection of Madagascar: ellipsoid to conformal sphere to transverse Mercator, and a cubic turn of the plane.
 * Source: IOGP Guidance Note 7-2, section 3.5.6 (EPSG method 9813).
 */
export const laborde: Method = {
  code: 9813,
  name: 'Laborde Oblique Mercator',
  parameters: [
    PARAM.latitudeOfCentre,
    PARAM.longitudeOfCentre,
    PARAM.azimuth,
    PARAM.scaleAtCentre,
    PARAM.falseEasting,
    PARAM.falseNorthing,
  ],
  compile(ellipsoid, value) {
    const { e, e2, fromConformal } = auxiliary(ellipsoid);
    const phiC = value(PARAM.latitudeOfCentre) * RAD;
    const alpha = value(PARAM.azimuth) * RAD;
    const sinC = Math.sin(phiC);
    const B = Math.sqrt(1 + (e2 * Math.cos(phiC) ** 4) / (1 - e2));
    const phiS = Math.asin(sinC / B);
    const sinS = Math.sin(phiS),
      cosS = Math.cos(phiS);
    const R = (ellipsoid.a * value(PARAM.scaleAtCentre) * Math.sqrt(1 - e2)) / (1 - e2 * sinC * sinC);
    const C = Math.log(Math.tan(Math.PI / 4 + phiS / 2)) + B * Math.log(conformalT(phiC, e));
    // G of the cubic, complex
    const gr = (1 - Math.cos(2 * alpha)) / 12,
      gi = Math.sin(2 * alpha) / 12;
    return projector(
      value(PARAM.longitudeOfCentre),
      value(PARAM.falseEasting),
      value(PARAM.falseNorthing),
      (lam, phi, out) => {
        const L = B * lam;
        const P = 2 * Math.atan(Math.exp(C - B * Math.log(conformalT(phi, e)))) - Math.PI / 2;
        const cosP = Math.cos(P),
          sinP = Math.sin(P);
        const U = cosP * Math.cos(L) * cosS + sinP * sinS;
        const V = cosP * Math.cos(L) * sinS - sinP * cosS;
        const W = cosP * Math.sin(L);
        const hr = -Math.atan2(V, U),
          hi = Math.asinh(W / Math.hypot(U, V));
        const [cr, ci] = cube(hr, hi);
        out[0] = R * (hi + gr * ci + gi * cr);
        out[1] = R * (hr + gr * cr - gi * ci);
      },
      (x, y, out) => {
        const zr = y / R,
          zi = x / R;
        let hr = zr,
          hi = zi;
        for (let round = 0; round < 12; round++) {
          const [cr, ci] = cube(hr, hi);
          const fr = hr + gr * cr - gi * ci - zr,
            fi = hi + gr * ci + gi * cr - zi;
          const sr = hr * hr - hi * hi,
            si = 2 * hr * hi;
          const dr = 1 + 3 * (gr * sr - gi * si),
            di = 3 * (gr * si + gi * sr);
          const d = dr * dr + di * di;
          hr -= (fr * dr + fi * di) / d;
          hi -= (fi * dr - fr * di) / d;
          if (Math.abs(fr) + Math.abs(fi) < 1e-16) break;
        }
        const L1 = -hr,
          P1 = 2 * Math.atan(Math.exp(hi)) - Math.PI / 2;
        const U = Math.cos(P1) * Math.cos(L1) * cosS + Math.cos(P1) * Math.sin(L1) * sinS;
        const V = Math.sin(P1);
        const W = Math.cos(P1) * Math.cos(L1) * sinS - Math.cos(P1) * Math.sin(L1) * cosS;
        const P = Math.atan2(W, Math.hypot(U, V));
        out[0] = Math.atan2(V, U) / B;
        const t = Math.exp((C - Math.log(Math.tan(Math.PI / 4 + P / 2))) / B);
        out[1] = fromConformal(Math.PI / 2 - 2 * Math.atan(t));
      },
    );
  },
};

function cube(r: number, i: number): [number, number] {
  return [r * (r * r - 3 * i * i), i * (3 * r * r - i * i)];
}
