import { RAD } from '../angles';
import type { Ellipsoid } from '../ellipsoid';
import { PARAM } from '../crs';
import { auxiliary, conformalT } from './auxiliary';
import { type Method, type Projector, projector } from './method';

/** Source: IOGP Guidance Note 7-2, section 3.5.5, variant A: the false origin is where the initial line crosses the aposphere's equator (EPSG method 9812). */
export const hotineA: Method = {
  code: 9812,
  name: 'Hotine Oblique Mercator (variant A)',
  parameters: [
    PARAM.latitudeOfCentre,
    PARAM.longitudeOfCentre,
    PARAM.azimuth,
    PARAM.rectifiedAngle,
    PARAM.scaleAtCentre,
    PARAM.falseEasting,
    PARAM.falseNorthing,
  ],
  compile: (ellipsoid, value) => compile(ellipsoid, value, value(PARAM.falseEasting), value(PARAM.falseNorthing), false),
};

/** Source: IOGP Guidance Note 7-2, section 3.5.5, variant B: the false origin is the centre (EPSG method 9815). */
export const hotineB: Method = {
  code: 9815,
  name: 'Hotine Oblique Mercator (variant B)',
  parameters: [
    PARAM.latitudeOfCentre,
    PARAM.longitudeOfCentre,
    PARAM.azimuth,
    PARAM.rectifiedAngle,
    PARAM.scaleAtCentre,
    PARAM.eastingAtCentre,
    PARAM.northingAtCentre,
  ],
  compile: (ellipsoid, value) => compile(ellipsoid, value, value(PARAM.eastingAtCentre), value(PARAM.northingAtCentre), true),
};

function compile(ellipsoid: Ellipsoid, value: (parameter: number) => number, fe: number, fn: number, fromCentre: boolean): Projector {
  const { e, e2, fromConformal } = auxiliary(ellipsoid);
  const phiC = value(PARAM.latitudeOfCentre) * RAD;
  const alpha = value(PARAM.azimuth) * RAD;
  const gammaC = value(PARAM.rectifiedAngle) * RAD;
  const south = phiC < 0 ? -1 : 1;
  const sinC = Math.sin(phiC),
    cosC = Math.cos(phiC);
  const B = Math.sqrt(1 + (e2 * cosC ** 4) / (1 - e2));
  const A = (ellipsoid.a * B * value(PARAM.scaleAtCentre) * Math.sqrt(1 - e2)) / (1 - e2 * sinC * sinC);
  const D = Math.max(1, (B * Math.sqrt(1 - e2)) / (cosC * Math.sqrt(1 - e2 * sinC * sinC)));
  const root = Math.sqrt(D * D - 1);
  const F = D + root * south;
  const H = F * Math.pow(conformalT(phiC, e), B);
  const G = (F - 1 / F) / 2;
  const gamma0 = Math.asin(Math.sin(alpha) / D);
  const sin0 = Math.sin(gamma0),
    cos0 = Math.cos(gamma0);
  // degrees; the meridian where the initial line crosses the equator of the aposphere
  const toNode = Math.asin(Math.max(-1, Math.min(1, G * Math.tan(gamma0)))) / B;
  const lon0 = value(PARAM.longitudeOfCentre) - toNode / RAD;
  let uC = 0;
  if (fromCentre) {
    uC = Math.abs(Math.abs(alpha) - Math.PI / 2) < 1e-9 ? A * toNode : (A / B) * Math.atan2(root, Math.cos(alpha)) * south;
  }
  const sinG = Math.sin(gammaC),
    cosG = Math.cos(gammaC);
  return projector(
    lon0,
    fe,
    fn,
    (lam, phi, out) => {
      const Q = H / Math.pow(conformalT(phi, e), B);
      const S = (Q - 1 / Q) / 2,
        T = (Q + 1 / Q) / 2;
      const V = Math.sin(B * lam);
      const U = (S * sin0 - V * cos0) / T;
      const v = (A * Math.log((1 - U) / (1 + U))) / (2 * B);
      const u = (A * Math.atan2(S * cos0 + V * sin0, Math.cos(B * lam))) / B - uC;
      out[0] = v * cosG + u * sinG;
      out[1] = u * cosG - v * sinG;
    },
    (x, y, out) => {
      const v = x * cosG - y * sinG;
      const u = y * cosG + x * sinG + uC;
      const Q = Math.exp((-B * v) / A);
      const S = (Q - 1 / Q) / 2,
        T = (Q + 1 / Q) / 2;
      const V = Math.sin((B * u) / A);
      const U = (V * cos0 + S * sin0) / T;
      const t = Math.pow(H / Math.sqrt((1 + U) / (1 - U)), 1 / B);
      out[0] = -Math.atan2(S * cos0 - V * sin0, Math.cos((B * u) / A)) / B;
      out[1] = fromConformal(Math.PI / 2 - 2 * Math.atan(t));
    },
  );
}
