import { RAD } from '../angles';
import type { Ellipsoid } from '../ellipsoid';
import { PARAM } from '../crs';
import { auxiliary, conformalT, parallelRadius } from './auxiliary';
import { type Method, type Projector, projector } from './method';

/** Mercator with a scale on the equator; lengths in metres. IOGP Guidance Note 7-2, section 3.5.1. */
function cylinder(ellipsoid: Ellipsoid, k0: number, lon0: number, fe: number, fn: number): Projector {
  const { e, fromConformal } = auxiliary(ellipsoid);
  const r = ellipsoid.a * k0;
  return projector(
    lon0,
    fe,
    fn,
    (lam, phi, out) => {
      out[0] = r * lam;
      out[1] = Math.abs(phi) < Math.PI / 2 ? -r * Math.log(conformalT(phi, e)) : NaN;
    },
    (x, y, out) => {
      out[0] = x / r;
      out[1] = fromConformal(Math.PI / 2 - 2 * Math.atan(Math.exp(-y / r)));
    },
  );
}

/** Source: IOGP Guidance Note 7-2, section 3.5.1, variant A (EPSG method 9804). */
export const mercatorA: Method = {
  code: 9804,
  name: 'Mercator (variant A)',
  parameters: [PARAM.latitudeOfOrigin, PARAM.longitudeOfOrigin, PARAM.scaleFactor, PARAM.falseEasting, PARAM.falseNorthing],
  compile: (ellipsoid, value) =>
    cylinder(ellipsoid, value(PARAM.scaleFactor), value(PARAM.longitudeOfOrigin), value(PARAM.falseEasting), value(PARAM.falseNorthing)),
};

/** Source: IOGP Guidance Note 7-2, section 3.5.1, variant B (EPSG method 9805). */
export const mercatorB: Method = {
  code: 9805,
  name: 'Mercator (variant B)',
  parameters: [PARAM.parallel1, PARAM.longitudeOfOrigin, PARAM.falseEasting, PARAM.falseNorthing],
  compile: (ellipsoid, value) =>
    cylinder(
      ellipsoid,
      parallelRadius(value(PARAM.parallel1) * RAD, auxiliary(ellipsoid).e2),
      value(PARAM.longitudeOfOrigin),
      value(PARAM.falseEasting),
      value(PARAM.falseNorthing),
    ),
};

/** The same on a sphere of the semi-major axis. Source: IOGP Guidance Note 7-2, section 3.5.1.2 (EPSG method 9841, withdrawn). */
export const mercatorSpherical: Method = {
  ...mercatorA,
  code: 9841,
  name: 'Mercator (1SP) (Spherical)',
  compile: (ellipsoid, value) => mercatorA.compile({ ...ellipsoid, invF: 0 }, value),
};
