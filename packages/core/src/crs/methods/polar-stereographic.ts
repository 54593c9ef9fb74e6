import { RAD } from '../angles';
import type { Ellipsoid } from '../ellipsoid';
import { PARAM } from '../crs';
import { auxiliary, conformalT, parallelRadius } from './auxiliary';
import { type Method, type Projector, projector } from './method';

/** rho = r t about a pole; `r` in metres, `pole` 1 for the north one. */
function about(ellipsoid: Ellipsoid, pole: 1 | -1, r: number, lon0: number, fe: number, fn: number): Projector {
  const { e, fromConformal } = auxiliary(ellipsoid);
  return projector(
    lon0,
    fe,
    fn,
    (lam, phi, out) => {
      const rho = r * conformalT(pole * phi, e);
      out[0] = rho * Math.sin(lam);
      out[1] = -pole * rho * Math.cos(lam);
    },
    (x, y, out) => {
      out[0] = Math.atan2(x, -pole * y);
      out[1] = pole * fromConformal(Math.PI / 2 - 2 * Math.atan(Math.hypot(x, y) / r));
    },
  );
}

/** r of a scale at the pole. */
function fromScale(ellipsoid: Ellipsoid, k0: number): number {
  const { e } = auxiliary(ellipsoid);
  return (2 * ellipsoid.a * k0) / Math.sqrt(Math.pow(1 + e, 1 + e) * Math.pow(1 - e, 1 - e));
}

/** r of a true parallel, and rho on it. */
function fromParallel(ellipsoid: Ellipsoid, latitude: number): { r: number; rho: number; pole: 1 | -1 } {
  const { e, e2 } = auxiliary(ellipsoid);
  const pole = latitude < 0 ? -1 : 1;
  const phi = Math.abs(latitude) * RAD;
  if (Math.abs(phi - Math.PI / 2) < 1e-10) return { r: fromScale(ellipsoid, 1), rho: 0, pole };
  const rho = ellipsoid.a * parallelRadius(phi, e2);
  return { r: rho / conformalT(phi, e), rho, pole };
}

/** Scale at the pole given. Source: IOGP Guidance Note 7-2, section 3.2.2, variant A (EPSG method 9810). */
export const polarStereographicA: Method = {
  code: 9810,
  name: 'Polar Stereographic (variant A)',
  parameters: [PARAM.latitudeOfOrigin, PARAM.longitudeOfOrigin, PARAM.scaleFactor, PARAM.falseEasting, PARAM.falseNorthing],
  compile: (ellipsoid, value) =>
    about(
      ellipsoid,
      value(PARAM.latitudeOfOrigin) < 0 ? -1 : 1,
      fromScale(ellipsoid, value(PARAM.scaleFactor)),
      value(PARAM.longitudeOfOrigin),
      value(PARAM.falseEasting),
      value(PARAM.falseNorthing),
    ),
};

/** True parallel given. Source: IOGP Guidance Note 7-2, section 3.2.2, variant B (EPSG method 9829). */
export const polarStereographicB: Method = {
  code: 9829,
  name: 'Polar Stereographic (variant B)',
  parameters: [PARAM.standardParallel, PARAM.longitudeFromPole, PARAM.falseEasting, PARAM.falseNorthing],
  compile(ellipsoid, value) {
    const { r, pole } = fromParallel(ellipsoid, value(PARAM.standardParallel));
    return about(ellipsoid, pole, r, value(PARAM.longitudeFromPole), value(PARAM.falseEasting), value(PARAM.falseNorthing));
  },
};

/** False origin on the true parallel. Source: IOGP Guidance Note 7-2, section 3.2.2, variant C (EPSG method 9830). */
export const polarStereographicC: Method = {
  code: 9830,
  name: 'Polar Stereographic (variant C)',
  parameters: [PARAM.standardParallel, PARAM.longitudeFromPole, PARAM.eastingAtFalseOrigin, PARAM.northingAtFalseOrigin],
  compile(ellipsoid, value) {
    const { r, rho, pole } = fromParallel(ellipsoid, value(PARAM.standardParallel));
    return about(
      ellipsoid,
      pole,
      r,
      value(PARAM.longitudeFromPole),
      value(PARAM.eastingAtFalseOrigin),
      value(PARAM.northingAtFalseOrigin) + pole * rho,
    );
  },
};
