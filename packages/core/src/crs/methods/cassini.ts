import { RAD } from '../angles';
import type { Ellipsoid } from '../ellipsoid';
import { PARAM } from '../crs';
import { auxiliary, meridional, primeVertical } from './auxiliary';
import { type Formula, type Method, newtonInverse, type Projector, projector } from './method';

const PARAMETERS = [PARAM.latitudeOfOrigin, PARAM.longitudeOfOrigin, PARAM.falseEasting, PARAM.falseNorthing];

/** Source: IOGP Guidance Note 7-2, section 3.4.1 (EPSG method 9806). */
export const cassini: Method = {
  code: 9806,
  name: 'Cassini-Soldner',
  parameters: PARAMETERS,
  compile: (ellipsoid, value) => compile(ellipsoid, value, false),
};

/** Its northings bent by X3 / (6 rho nu). Source: IOGP Guidance Note 7-2, section 3.4.1.1 (EPSG method 9833). */
export const hyperbolicCassini: Method = {
  code: 9833,
  name: 'Hyperbolic Cassini-Soldner',
  parameters: PARAMETERS,
  compile: (ellipsoid, value) => compile(ellipsoid, value, true),
};

function compile(ellipsoid: Ellipsoid, value: (parameter: number) => number, hyperbolic: boolean): Projector {
  const { a } = ellipsoid;
  const { e2, arc, fromArc } = auxiliary(ellipsoid);
  const m0 = arc(value(PARAM.latitudeOfOrigin) * RAD);
  const forward: Formula = (lam, phi, out) => {
    const cos = Math.cos(phi),
      tan = Math.tan(phi);
    const A = lam * cos,
      T = tan * tan,
      C = (e2 * cos * cos) / (1 - e2);
    const nu = primeVertical(phi, a, e2);
    const X = arc(phi) - m0 + nu * tan * A * A * (1 / 2 + ((5 - T + 6 * C) * A * A) / 24);
    out[0] = nu * A * (1 - A * A * T * (1 / 6 + ((8 - T + 8 * C) * A * A) / 120));
    out[1] = hyperbolic ? X - X ** 3 / (6 * meridional(phi, a, e2) * nu) : X;
  };
  return projector(
    value(PARAM.longitudeOfOrigin),
    value(PARAM.falseEasting),
    value(PARAM.falseNorthing),
    forward,
    newtonInverse(forward, (x, y, out) => {
      const phi = fromArc(m0 + y);
      out[0] = x / (primeVertical(phi, a, e2) * Math.cos(phi));
      out[1] = phi;
    }),
  );
}
