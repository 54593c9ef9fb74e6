import { type Ellipsoid, PARAM } from '../crs';
import { conformalToGeographic } from './auxiliary';
import { type Method, type Projector, RAD, wrapDegrees } from './method';

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
  compile: kruger,
};

/** The projector of method 9807, on which others build. */
export function kruger(ellipsoid: Ellipsoid, value: (parameter: number) => number): Projector {
  const f = ellipsoid.invF === 0 ? 0 : 1 / ellipsoid.invF;
  const e2 = f * (2 - f);
  const n = f / (2 - f);
  const alpha = forwardCoefficients(n);
  const beta = inverseCoefficients(n);
  const delta = conformalToGeographic(n);
  const rectifying = (ellipsoid.a / (1 + n)) * (1 + n ** 2 / 4 + n ** 4 / 64 + n ** 6 / 256);
  const scale = rectifying * value(PARAM.scaleFactor);
  const lon0 = value(PARAM.longitudeOfOrigin);
  const fe = value(PARAM.falseEasting);
  const xi0 = meridianXi(value(PARAM.latitudeOfOrigin) * RAD, e2, alpha);
  const fn = value(PARAM.falseNorthing) - scale * xi0;

  return {
    forward(p, from, count, stride) {
      const end = from + count * stride;
      for (let i = from; i < end; i += stride) {
        const lam = wrapDegrees(p[i]! - lon0) * RAD;
        const t = conformalTangent(Math.tan(p[i + 1]! * RAD), e2);
        const c = Math.cos(lam);
        // sines of the doubled xi' and eta' follow from t and lambda without further trigonometry
        const d = t * t + c * c;
        const u = Math.sin(lam) / Math.sqrt(d);
        const xi1 = Math.atan2(t, c);
        const eta1 = asinh(u);
        const sin2xi = (2 * t * c) / d, cos2xi = (c * c - t * t) / d;
        const sinh2eta = 2 * u * Math.sqrt(1 + u * u), cosh2eta = 1 + 2 * u * u;
        // Clenshaw summation of the complex series: sin 2j(xi' + i eta')
        const cr = cos2xi * cosh2eta * 2;
        const ci = -sin2xi * sinh2eta * 2;
        let r1 = 0, i1 = 0, r2 = 0, i2 = 0;
        for (let j = 5; j >= 0; j--) {
          const r = cr * r1 - ci * i1 - r2 + alpha[j]!;
          const im = cr * i1 + ci * r1 - i2;
          r2 = r1; i2 = i1; r1 = r; i1 = im;
        }
        const sr = sin2xi * cosh2eta;
        const si = cos2xi * sinh2eta;
        p[i] = fe + scale * (eta1 + sr * i1 + si * r1);
        p[i + 1] = fn + scale * (xi1 + sr * r1 - si * i1);
      }
    },
    inverse(p, from, count, stride) {
      const end = from + count * stride;
      for (let i = from; i < end; i += stride) {
        const eta = (p[i]! - fe) / scale;
        const xi = (p[i + 1]! - fn) / scale;
        const grow = Math.exp(eta);
        const sinXi = Math.sin(xi), cosXi = Math.cos(xi);
        const sinhEta = (grow - 1 / grow) / 2, coshEta = (grow + 1 / grow) / 2;
        const sin2xi = 2 * sinXi * cosXi, cos2xi = 1 - 2 * sinXi * sinXi;
        const sinh2eta = 2 * sinhEta * coshEta, cosh2eta = 1 + 2 * sinhEta * sinhEta;
        const cr = cos2xi * cosh2eta * 2;
        const ci = -sin2xi * sinh2eta * 2;
        let r1 = 0, i1 = 0, r2 = 0, i2 = 0;
        for (let j = 5; j >= 0; j--) {
          const r = cr * r1 - ci * i1 - r2 - beta[j]!;
          const im = cr * i1 + ci * r1 - i2;
          r2 = r1; i2 = i1; r1 = r; i1 = im;
        }
        const sr = sin2xi * cosh2eta;
        const si = cos2xi * sinh2eta;
        // xi' and eta' are a little beside xi and eta: their functions follow by addition from the small steps
        const dXi = sr * r1 - si * i1, dEta = sr * i1 + si * r1;
        const sinD = smallSin(dXi), cosD = smallCos(dXi), sinhD = smallSinh(dEta), coshD = smallCosh(dEta);
        const sin1 = sinXi * cosD + cosXi * sinD, cos1 = cosXi * cosD - sinXi * sinD;
        const sinh1 = sinhEta * coshD + coshEta * sinhD;
        p[i] = wrapDegrees(lon0 + Math.atan2(sinh1, cos1) / RAD);
        // latitude: tangent of the conformal one, then its series
        const r = Math.sqrt(sinh1 * sinh1 + cos1 * cos1);
        const q = sin1 * sin1 + r * r;
        const sin2chi = (2 * sin1 * r) / q, cos2chi = (r * r - sin1 * sin1) / q;
        let b1 = 0, b2 = 0;
        for (let j = 5; j >= 0; j--) {
          const b = 2 * cos2chi * b1 - b2 + delta[j]!;
          b2 = b1; b1 = b;
        }
        p[i + 1] = (Math.atan2(sin1, r) + sin2chi * b1) / RAD;
      }
    },
  };
}

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

/** log1p keeps the digits of a small argument. */
function asinh(u: number): number {
  const a = Math.abs(u);
  const y = Math.log1p(a + (a * a) / (1 + Math.sqrt(1 + a * a)));
  return u < 0 ? -y : y;
}

// The series of sine, cosine and their hyperbolic sisters for arguments below a twentieth, exact to the last bit there;
// beyond, where the method itself ends, the functions.
const SMALL = 0.05;
const smallSin = (x: number): number => (Math.abs(x) < SMALL ? x * (1 - (x * x) / 6 * (1 - (x * x) / 20 * (1 - (x * x) / 42 * (1 - (x * x) / 72)))) : Math.sin(x));
const smallCos = (x: number): number => (Math.abs(x) < SMALL ? 1 - (x * x) / 2 * (1 - (x * x) / 12 * (1 - (x * x) / 30 * (1 - (x * x) / 56))) : Math.cos(x));
const smallSinh = (x: number): number => (Math.abs(x) < SMALL ? x * (1 + (x * x) / 6 * (1 + (x * x) / 20 * (1 + (x * x) / 42 * (1 + (x * x) / 72)))) : Math.sinh(x));
const smallCosh = (x: number): number => (Math.abs(x) < SMALL ? 1 + (x * x) / 2 * (1 + (x * x) / 12 * (1 + (x * x) / 30 * (1 + (x * x) / 56))) : Math.cosh(x));

/**
 * Tangent of the conformal latitude from that of the geographic one. Karney (2011) equations 7 to 9. The argument
 * e atanh(e sin phi) of the hyperbolic sine is below 0.01 on any ellipsoid of the earth, so both are summed as power series.
 */
function conformalTangent(tau: number, e2: number): number {
  const sec = Math.sqrt(1 + tau * tau);
  const s = tau / sec;
  const q = e2 * s * s;
  const x = e2 * s * (1 + q * (1 / 3 + q * (1 / 5 + q * (1 / 7 + q * (1 / 9 + q * (1 / 11 + q * (1 / 13 + q / 15)))))));
  const x2 = x * x;
  const sigma = x * (1 + x2 * (1 / 6 + x2 * (1 / 120 + x2 / 5040)));
  return tau * Math.sqrt(1 + sigma * sigma) - sigma * sec;
}

/** The series' xi on the central meridian at latitude `phi`, radians. */
function meridianXi(phi: number, e2: number, alpha: number[]): number {
  const chi = Math.atan(conformalTangent(Math.tan(phi), e2));
  let xi = chi;
  for (let j = 0; j < 6; j++) xi += alpha[j]! * Math.sin(2 * (j + 1) * chi);
  return xi;
}
