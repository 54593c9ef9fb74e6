import { PARAM } from '../crs';
import { type Method, RAD, wrapDegrees } from './method';

/**
 * Transverse Mercator by Krüger's series to the sixth order in the third flattening n, exact to nanometres within
 * 3900 km of the central meridian.
 *
 * Source: C. F. F. Karney, "Transverse Mercator with an accuracy of a few nanometers", J. Geodesy 85 (2011),
 * equations 7 to 11, 35 and 36; the method is that of IOGP Guidance Note 7-2, section 3.5.2 (EPSG method 9807).
 */
export const transverseMercator: Method = {
  code: 9807,
  name: 'Transverse Mercator',
  parameters: [PARAM.latitudeOfOrigin, PARAM.longitudeOfOrigin, PARAM.scaleFactor, PARAM.falseEasting, PARAM.falseNorthing],
  compile(ellipsoid, value) {
    const f = ellipsoid.invF === 0 ? 0 : 1 / ellipsoid.invF;
    const e = Math.sqrt(f * (2 - f));
    const n = f / (2 - f);
    const alpha = forwardCoefficients(n);
    const beta = inverseCoefficients(n);
    const rectifying = (ellipsoid.a / (1 + n)) * (1 + n ** 2 / 4 + n ** 4 / 64 + n ** 6 / 256);
    const scale = rectifying * value(PARAM.scaleFactor);
    const lon0 = value(PARAM.longitudeOfOrigin);
    const fe = value(PARAM.falseEasting);
    const xi0 = meridianXi(value(PARAM.latitudeOfOrigin) * RAD, e, alpha);
    const fn = value(PARAM.falseNorthing) - scale * xi0;

    return {
      forward(p, from, count, stride) {
        const end = from + count * stride;
        for (let i = from; i < end; i += stride) {
          const lam = wrapDegrees(p[i]! - lon0) * RAD;
          const t = conformalTangent(Math.tan(p[i + 1]! * RAD), e);
          const c = Math.cos(lam);
          const xi1 = Math.atan2(t, c);
          const eta1 = Math.asinh(Math.sin(lam) / Math.hypot(t, c));
          // Clenshaw summation of the complex series: sin 2j(xi' + i eta')
          const a2 = 2 * xi1;
          const h2 = 2 * eta1;
          const cr = Math.cos(a2) * Math.cosh(h2) * 2;
          const ci = -Math.sin(a2) * Math.sinh(h2) * 2;
          let r1 = 0, i1 = 0, r2 = 0, i2 = 0;
          for (let j = 5; j >= 0; j--) {
            const r = cr * r1 - ci * i1 - r2 + alpha[j]!;
            const im = cr * i1 + ci * r1 - i2;
            r2 = r1; i2 = i1; r1 = r; i1 = im;
          }
          const sr = Math.sin(a2) * Math.cosh(h2);
          const si = Math.cos(a2) * Math.sinh(h2);
          p[i] = fe + scale * (eta1 + sr * i1 + si * r1);
          p[i + 1] = fn + scale * (xi1 + sr * r1 - si * i1);
        }
      },
      inverse(p, from, count, stride) {
        const end = from + count * stride;
        for (let i = from; i < end; i += stride) {
          const eta = (p[i]! - fe) / scale;
          const xi = (p[i + 1]! - fn) / scale;
          const a2 = 2 * xi;
          const h2 = 2 * eta;
          const cr = Math.cos(a2) * Math.cosh(h2) * 2;
          const ci = -Math.sin(a2) * Math.sinh(h2) * 2;
          let r1 = 0, i1 = 0, r2 = 0, i2 = 0;
          for (let j = 5; j >= 0; j--) {
            const r = cr * r1 - ci * i1 - r2 - beta[j]!;
            const im = cr * i1 + ci * r1 - i2;
            r2 = r1; i2 = i1; r1 = r; i1 = im;
          }
          const sr = Math.sin(a2) * Math.cosh(h2);
          const si = Math.cos(a2) * Math.sinh(h2);
          const xi1 = xi + sr * r1 - si * i1;
          const eta1 = eta + sr * i1 + si * r1;
          const sh = Math.sinh(eta1);
          const c = Math.cos(xi1);
          p[i] = wrapDegrees(lon0 + Math.atan2(sh, c) / RAD);
          p[i + 1] = Math.atan(geographicTangent(Math.sin(xi1) / Math.hypot(sh, c), e)) / RAD;
        }
      },
    };
  },
};

/** Karney (2011) equation 35. */
function forwardCoefficients(n: number): number[] {
  return [
    n * (1 / 2 + n * (-2 / 3 + n * (5 / 16 + n * (41 / 180 + n * (-127 / 288 + (n * 7891) / 37800))))),
    n ** 2 * (13 / 48 + n * (-3 / 5 + n * (557 / 1440 + n * (281 / 630 - (n * 1983433) / 1935360)))),
    n ** 3 * (61 / 240 + n * (-103 / 140 + n * (15061 / 26880 + (n * 167603) / 181440))),
    n ** 4 * (49561 / 161280 + n * (-179 / 168 + (n * 6601661) / 7257600)),
    n ** 5 * (34729 / 80640 - (n * 3418889) / 1995840),
    n ** 6 * (212378941 / 319334400),
  ];
}

/** Karney (2011) equation 36. */
function inverseCoefficients(n: number): number[] {
  return [
    n * (1 / 2 + n * (-2 / 3 + n * (37 / 96 + n * (-1 / 360 + n * (-81 / 512 + (n * 96199) / 604800))))),
    n ** 2 * (1 / 48 + n * (1 / 15 + n * (-437 / 1440 + n * (46 / 105 - (n * 1118711) / 3870720)))),
    n ** 3 * (17 / 480 + n * (-37 / 840 + n * (-209 / 4480 + (n * 5569) / 90720))),
    n ** 4 * (4397 / 161280 + n * (-11 / 504 - (n * 830251) / 7257600)),
    n ** 5 * (4583 / 161280 - (n * 108847) / 3991680),
    n ** 6 * (20648693 / 638668800),
  ];
}

/** Tangent of the conformal latitude from that of the geographic one. Karney (2011) equations 7 to 9. */
function conformalTangent(tau: number, e: number): number {
  const sec = Math.sqrt(1 + tau * tau);
  const sigma = Math.sinh(e * Math.atanh((e * tau) / sec));
  return tau * Math.sqrt(1 + sigma * sigma) - sigma * sec;
}

/** The reverse of {@link conformalTangent} by Newton's method. Karney (2011) equations 19 to 21. */
function geographicTangent(tauPrime: number, e: number): number {
  const e2 = e * e;
  let tau = tauPrime / (1 - e2);
  for (let k = 0; k < 5; k++) {
    const trial = conformalTangent(tau, e);
    const step =
      ((tauPrime - trial) / Math.sqrt(1 + trial * trial)) * ((1 + (1 - e2) * tau * tau) / ((1 - e2) * Math.sqrt(1 + tau * tau)));
    tau += step;
    if (!(Math.abs(step) > 1e-16 * Math.max(1, Math.abs(tau)))) break;
  }
  return tau;
}

/** The series' xi on the central meridian at latitude `phi`, radians. */
function meridianXi(phi: number, e: number, alpha: number[]): number {
  const chi = Math.atan(conformalTangent(Math.tan(phi), e));
  let xi = chi;
  for (let j = 0; j < 6; j++) xi += alpha[j]! * Math.sin(2 * (j + 1) * chi);
  return xi;
}
