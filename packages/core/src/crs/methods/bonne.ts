import { RAD } from '../angles';
import type { Ellipsoid } from '../ellipsoid';
import { PARAM } from '../crs';
import { auxiliary, parallelRadius } from './auxiliary';
import { type Method, type Projector, projector } from './method';

const PARAMETERS = [PARAM.latitudeOfOrigin, PARAM.longitudeOfOrigin, PARAM.falseEasting, PARAM.falseNorthing];

/** Source: IOGP Guidance Note 7-2, section 3.1.5 (EPSG method 9827). */
export const bonne: Method = {
  code: 9827,
  name: 'Bonne',
  parameters: PARAMETERS,
  compile: (ellipsoid, value) => compile(ellipsoid, value, 1),
};

/** With westings and southings. Source: IOGP Guidance Note 7-2, section 3.1.5 (EPSG method 9828). */
export const bonneSouth: Method = {
  code: 9828,
  name: 'Bonne (South Orientated)',
  parameters: PARAMETERS,
  orientation: { x: 'west', y: 'south' },
  compile: (ellipsoid, value) => compile(ellipsoid, value, -1),
};

function compile(ellipsoid: Ellipsoid, value: (parameter: number) => number, sign: 1 | -1): Projector {
  const { e2, arc, fromArc } = auxiliary(ellipsoid);
  const phi0 = value(PARAM.latitudeOfOrigin) * RAD;
  const top = (ellipsoid.a * parallelRadius(phi0, e2)) / Math.sin(phi0);
  const m0 = arc(phi0);
  return projector(
    value(PARAM.longitudeOfOrigin),
    value(PARAM.falseEasting),
    value(PARAM.falseNorthing),
    (lam, phi, out) => {
      const rho = top + m0 - arc(phi);
      const T = (ellipsoid.a * parallelRadius(phi, e2) * lam) / rho;
      out[0] = rho * Math.sin(T);
      out[1] = top - rho * Math.cos(T);
    },
    (x, y, out) => {
      const south = Math.sign(phi0);
      const rho = south * Math.hypot(x, top - y);
      const phi = fromArc(top + m0 - rho);
      out[0] = (rho * Math.atan2(south * x, south * (top - y))) / (ellipsoid.a * parallelRadius(phi, e2));
      out[1] = phi;
    },
    sign,
    sign,
  );
}
