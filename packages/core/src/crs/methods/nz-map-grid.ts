import { RAD } from '../angles';
import { PARAM } from '../crs';
import { type Method, projector } from './method';

/** Conformal polynomial of the sixth order. Source: IOGP Guidance Note 7-2, section 3.6.2 (EPSG method 9811). */
export const nzMapGrid: Method = {
  code: 9811,
  name: 'New Zealand Map Grid',
  parameters: [PARAM.latitudeOfOrigin, PARAM.longitudeOfOrigin, PARAM.falseEasting, PARAM.falseNorthing],
  compile(ellipsoid, value) {
    const { a } = ellipsoid;
    const lat0 = value(PARAM.latitudeOfOrigin);
    // latitudes in units of 100 000 seconds of arc
    const unit = 3600e-5;
    return projector(
      value(PARAM.longitudeOfOrigin),
      value(PARAM.falseEasting),
      value(PARAM.falseNorthing),
      (lam, phi, out) => {
        const d = (phi / RAD - lat0) * unit;
        let psi = 0;
        for (let k = 9; k >= 0; k--) psi = (psi + A[k]!) * d;
        let zr = 0,
          zi = 0;
        for (let k = 5; k >= 0; k--) {
          const r = zr + BR[k]!,
            i = zi + BI[k]!;
          zr = r * psi - i * lam;
          zi = r * lam + i * psi;
        }
        out[0] = a * zi;
        out[1] = a * zr;
      },
      (x, y, out) => {
        const zr = y / a,
          zi = x / a;
        let psi = zr,
          lam = zi;
        for (let round = 0; round < 20; round++) {
          // value and derivative of the complex polynomial
          let fr = 0,
            fi = 0,
            dr = 0,
            di = 0;
          for (let k = 5; k >= 0; k--) {
            const r = fr + BR[k]!,
              i = fi + BI[k]!;
            const er = dr * psi - di * lam + r,
              ei = dr * lam + di * psi + i;
            fr = r * psi - i * lam;
            fi = r * lam + i * psi;
            dr = er;
            di = ei;
          }
          const er = fr - zr,
            ei = fi - zi;
          const q = dr * dr + di * di;
          psi -= (er * dr + ei * di) / q;
          lam -= (ei * dr - er * di) / q;
          if (Math.abs(er) + Math.abs(ei) < 1e-15) break;
        }
        let d = psi / A[0]!;
        for (let round = 0; round < 20; round++) {
          let f = 0,
            df = 0;
          for (let k = 9; k >= 0; k--) {
            df = df * d + f + A[k]!;
            f = (f + A[k]!) * d;
          }
          const step = (f - psi) / df;
          d -= step;
          if (Math.abs(step) < 1e-15) break;
        }
        out[0] = lam;
        out[1] = (lat0 + d / unit) * RAD;
      },
    );
  },
};

const A = [0.6399175073, -0.1358797613, 0.063294409, -0.02526853, 0.0117879, -0.0055161, 0.0026906, -0.001333, 0.00067, -0.00034];
const BR = [0.7557853228, 0.249204646, -0.001541739, -0.10162907, -0.26623489, -0.6870983];
const BI = [0, 0.003371507, 0.04105856, 0.01727609, -0.36249218, -1.1651967];
