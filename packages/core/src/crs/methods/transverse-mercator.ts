import { RAD } from '../angles';
import type { Ellipsoid } from '../ellipsoid';
import { PARAM } from '../crs';
import { conformalToGeographic, geographicToConformal } from './auxiliary';
import { type Method, type Projector, wrapDegrees } from './method';

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

/**
 * How far from the central meridian there are images, in units of the scaled rectifying radius: towards the pole of the projection, a quarter
 * of the globe away, eastings go to infinity and the series to nonsense. Source: PROJ, `tmerc.cpp`, where the same number bounds both ways.
 */
const FARTHEST = 2.623395162778;

/** The projector of method 9807, on which others build. */
export function kruger(ellipsoid: Ellipsoid, value: (parameter: number) => number): Projector {
  const f = ellipsoid.invF === 0 ? 0 : 1 / ellipsoid.invF;
  const e2 = f * (2 - f);
  const n = f / (2 - f);
  const alpha = forwardCoefficients(n);
  const beta = inverseCoefficients(n);
  const delta = conformalToGeographic(n);
  const [c1, c2, c3, c4, c5, c6] = geographicToConformal(n) as [number, number, number, number, number, number];
  const [a1, a2, a3, a4, a5, a6] = alpha;
  const [d1, d2, d3, d4, d5, d6] = delta as [number, number, number, number, number, number];
  const [g1, g2, g3, g4, g5, g6] = beta;
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
        if (!(p[i + 1]! <= 90 && p[i + 1]! >= -90)) {
          p[i] = p[i + 1] = NaN;
          continue;
        }
        const phi = p[i + 1]! * RAD;
        let xi1: number, eta1: number, sin2xi: number, cos2xi: number, sinh2eta: number, cosh2eta: number;
        if (lam < NARROW && lam > -NARROW) {
          // near the meridian all but one sine and one cosine are short series
          const s = Math.sin(phi),
            k = Math.cos(phi);
          const sin2phi = 2 * s * k,
            cos2phi = 1 - 2 * s * s,
            twice = 2 * cos2phi;
          const b5 = twice * c6 + c5,
            b4 = twice * b5 - c6 + c4,
            b3 = twice * b4 - b5 + c3,
            b2 = twice * b3 - b4 + c2;
          const less = sin2phi * (twice * b2 - b3 + c1); // conformal latitude less the geographic one, a fifth of a degree at most
          const l2 = less * less;
          const sinLess = less * (1 - (l2 / 6) * (1 - l2 / 20)),
            cosLess = 1 - (l2 / 2) * (1 - l2 / 12);
          const sinChi = s * cosLess + k * sinLess,
            cosChi = k * cosLess - s * sinLess;
          const m2 = lam * lam;
          // 1 - cos lambda, and sin lambda
          const versed = (m2 / 2) * (1 - (m2 / 12) * (1 - (m2 / 30) * (1 - (m2 / 56) * (1 - (m2 / 90) * (1 - m2 / 132)))));
          const sinLam = lam * (1 - (m2 / 6) * (1 - (m2 / 20) * (1 - (m2 / 42) * (1 - (m2 / 72) * (1 - m2 / 110)))));
          const v = cosChi * (1 - versed);
          const d = sinChi * sinChi + v * v; // cos^2 of the transverse latitude, 1 - q^2
          const q = cosChi * sinLam;
          const t = (sinChi * cosChi * versed) / (d + cosChi * cosChi * versed * (1 - versed));
          xi1 = phi + less + atanSeries(t);
          eta1 = atanhSeries(q);
          sin2xi = (2 * sinChi * v) / d;
          cos2xi = (v * v - sinChi * sinChi) / d;
          sinh2eta = (2 * q) / d;
          cosh2eta = (1 + q * q) / d;
        } else {
          const t = conformalTangent(Math.tan(phi), e2);
          const c = Math.cos(lam);
          // sines of the doubled xi' and eta' follow from t and lambda without further trigonometry
          const d = t * t + c * c;
          const u = Math.sin(lam) / Math.sqrt(d);
          xi1 = Math.atan2(t, c);
          eta1 = asinh(u);
          sin2xi = (2 * t * c) / d;
          cos2xi = (c * c - t * t) / d;
          sinh2eta = 2 * u * Math.sqrt(1 + u * u);
          cosh2eta = 1 + 2 * u * u;
        }
        // Clenshaw summation of the complex series: sin 2j(xi' + i eta')
        const cr = cos2xi * cosh2eta * 2;
        const ci = -sin2xi * sinh2eta * 2;
        const r6 = a6;
        const r5 = cr * r6 + a5,
          i5 = ci * r6;
        const r4 = cr * r5 - ci * i5 - r6 + a4,
          i4 = cr * i5 + ci * r5;
        const r3 = cr * r4 - ci * i4 - r5 + a3,
          i3 = cr * i4 + ci * r4 - i5;
        const r2 = cr * r3 - ci * i3 - r4 + a2,
          i2 = cr * i3 + ci * r3 - i4;
        const r1 = cr * r2 - ci * i2 - r3 + a1,
          i1 = cr * i2 + ci * r2 - i3;
        const sr = sin2xi * cosh2eta;
        const si = cos2xi * sinh2eta;
        const eta = eta1 + sr * i1 + si * r1;
        if (!(eta <= FARTHEST && eta >= -FARTHEST)) {
          p[i] = p[i + 1] = NaN;
          continue;
        }
        p[i] = fe + scale * eta;
        p[i + 1] = fn + scale * (xi1 + sr * r1 - si * i1);
      }
    },
    inverse(p, from, count, stride) {
      const end = from + count * stride;
      for (let i = from; i < end; i += stride) {
        const eta = (p[i]! - fe) / scale;
        const xi = (p[i + 1]! - fn) / scale;
        if (!(eta <= FARTHEST && eta >= -FARTHEST)) {
          p[i] = p[i + 1] = NaN;
          continue;
        }
        const near = eta < NARROW && eta > -NARROW;
        const sinXi = Math.sin(xi),
          cosXi = Math.cos(xi);
        let sinhEta: number, coshEta: number;
        if (near) {
          const h2 = eta * eta;
          sinhEta = eta * (1 + (h2 / 6) * (1 + (h2 / 20) * (1 + (h2 / 42) * (1 + (h2 / 72) * (1 + h2 / 110)))));
          coshEta = 1 + (h2 / 2) * (1 + (h2 / 12) * (1 + (h2 / 30) * (1 + (h2 / 56) * (1 + h2 / 90))));
        } else {
          const grow = Math.exp(eta);
          sinhEta = (grow - 1 / grow) / 2;
          coshEta = (grow + 1 / grow) / 2;
        }
        const sin2xi = 2 * sinXi * cosXi,
          cos2xi = 1 - 2 * sinXi * sinXi;
        const sinh2eta = 2 * sinhEta * coshEta,
          cosh2eta = 1 + 2 * sinhEta * sinhEta;
        const cr = cos2xi * cosh2eta * 2;
        const ci = -sin2xi * sinh2eta * 2;
        const r6 = -g6;
        const r5 = cr * r6 - g5,
          i5 = ci * r6;
        const r4 = cr * r5 - ci * i5 - r6 - g4,
          i4 = cr * i5 + ci * r5;
        const r3 = cr * r4 - ci * i4 - r5 - g3,
          i3 = cr * i4 + ci * r4 - i5;
        const r2 = cr * r3 - ci * i3 - r4 - g2,
          i2 = cr * i3 + ci * r3 - i4;
        const r1 = cr * r2 - ci * i2 - r3 - g1,
          i1 = cr * i2 + ci * r2 - i3;
        const sr = sin2xi * cosh2eta;
        const si = cos2xi * sinh2eta;
        // xi' and eta' are a little beside xi and eta: their functions follow by addition from the small steps
        const dXi = sr * r1 - si * i1,
          dEta = sr * i1 + si * r1;
        const sinD = smallSin(dXi),
          cosD = smallCos(dXi),
          sinhD = smallSinh(dEta),
          coshD = smallCosh(dEta);
        const sin1 = sinXi * cosD + cosXi * sinD,
          cos1 = cosXi * cosD - sinXi * sinD;
        const sinh1 = sinhEta * coshD + coshEta * sinhD;
        const aside = sinh1 / cos1;
        p[i] = wrapDegrees(lon0 + (cos1 > 0 && aside < NARROW && aside > -NARROW ? atanWide(aside) : Math.atan2(sinh1, cos1)) / RAD);
        // latitude: tangent of the conformal one, then its series
        const r = Math.sqrt(sinh1 * sinh1 + cos1 * cos1);
        const q = sin1 * sin1 + r * r;
        const sin2chi = (2 * sin1 * r) / q,
          cos2chi = (r * r - sin1 * sin1) / q;
        // the conformal latitude is a little less than xi'
        const bend = (sin1 * sinh1 * sinh1) / ((r + cos1) * (cos1 * r + sin1 * sin1));
        const chi = near && cos1 > 0.1 && bend < 0.006 && bend > -0.006 ? xi + dXi - atanSeries(bend) : Math.atan2(sin1, r);
        const twice = 2 * cos2chi;
        const b5 = twice * d6 + d5,
          b4 = twice * b5 - d6 + d4,
          b3 = twice * b4 - b5 + d3,
          b2 = twice * b3 - b4 + d2;
        p[i + 1] = (chi + sin2chi * (twice * b2 - b3 + d1)) / RAD;
      }
    },
  };
}

/** Karney (2011) equation 35. */
function forwardCoefficients(n: number): [number, number, number, number, number, number] {
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
function inverseCoefficients(n: number): [number, number, number, number, number, number] {
  return [
    n * (1 / 2 + n * (-2 / 3 + n * (37 / 96 + n * (-1 / 360 + n * (-81 / 512 + (n * 96199) / 604800))))),
    n ** 2 * (1 / 48 + n * (1 / 15 + n * (-437 / 1440 + n * (46 / 105 - (n * 1118711) / 3870720)))),
    n ** 3 * (17 / 480 + n * (-37 / 840 + n * (-209 / 4480 + (n * 5569) / 90720))),
    n ** 4 * (4397 / 161280 + n * (-11 / 504 - (n * 830251) / 7257600)),
    n ** 5 * (4583 / 161280 - (n * 108847) / 3991680),
    n ** 6 * (20648693 / 638668800),
  ];
}

/** Radians from the meridian within which the short series of sines hold all digits; 5.7 degrees. */
const NARROW = 0.1;

/** Arc tangent below 0.006, to the last bit. */
function atanSeries(t: number): number {
  const q = t * t;
  return t * (1 - q * (1 / 3 - q * (1 / 5 - q * (1 / 7 - q / 9))));
}

/** Arc tangent below 0.1, to the last bit. */
function atanWide(t: number): number {
  const q = t * t;
  return t * (1 - q * (1 / 3 - q * (1 / 5 - q * (1 / 7 - q * (1 / 9 - q * (1 / 11 - q * (1 / 13 - q * (1 / 15 - q / 17))))))));
}

/** Area hyperbolic tangent below 0.1, to the last bit. */
function atanhSeries(x: number): number {
  const q = x * x;
  return x * (1 + q * (1 / 3 + q * (1 / 5 + q * (1 / 7 + q * (1 / 9 + q * (1 / 11 + q * (1 / 13 + q / 15)))))));
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
const smallSin = (x: number): number =>
  Math.abs(x) < SMALL ? x * (1 - ((x * x) / 6) * (1 - ((x * x) / 20) * (1 - ((x * x) / 42) * (1 - (x * x) / 72)))) : Math.sin(x);
const smallCos = (x: number): number =>
  Math.abs(x) < SMALL ? 1 - ((x * x) / 2) * (1 - ((x * x) / 12) * (1 - ((x * x) / 30) * (1 - (x * x) / 56))) : Math.cos(x);
const smallSinh = (x: number): number =>
  Math.abs(x) < SMALL ? x * (1 + ((x * x) / 6) * (1 + ((x * x) / 20) * (1 + ((x * x) / 42) * (1 + (x * x) / 72)))) : Math.sinh(x);
const smallCosh = (x: number): number =>
  Math.abs(x) < SMALL ? 1 + ((x * x) / 2) * (1 + ((x * x) / 12) * (1 + ((x * x) / 30) * (1 + (x * x) / 56))) : Math.cosh(x);

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
