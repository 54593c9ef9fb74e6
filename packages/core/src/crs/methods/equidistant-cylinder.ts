import { RAD } from '../angles';
import { PARAM } from '../crs';
import { auxiliary, parallelRadius } from './auxiliary';
import { type Method, projector } from './method';

/** Source: IOGP Guidance Note 7-2, section 3.4.3 (EPSG method 1028). */
export const equidistantCylinder: Method = {
  code: 1028,
  name: 'Equidistant Cylindrical',
  parameters: [PARAM.parallel1, PARAM.longitudeOfOrigin, PARAM.falseEasting, PARAM.falseNorthing],
  compile(ellipsoid, value) {
    const { e2, arc, fromArc } = auxiliary(ellipsoid);
    const r = ellipsoid.a * parallelRadius(value(PARAM.parallel1) * RAD, e2);
    return projector(
      value(PARAM.longitudeOfOrigin),
      value(PARAM.falseEasting),
      value(PARAM.falseNorthing),
      (lam, phi, out) => {
        out[0] = r * lam;
        out[1] = arc(phi);
      },
      (x, y, out) => {
        out[0] = x / r;
        out[1] = fromArc(y);
      },
    );
  },
};

/** On a sphere of the semi-major axis. Source: IOGP Guidance Note 7-2, section 3.4.3 (EPSG method 1029). */
export const equidistantCylinderSpherical: Method = {
  ...equidistantCylinder,
  code: 1029,
  name: 'Equidistant Cylindrical (Spherical)',
  compile: (ellipsoid, value) => equidistantCylinder.compile({ ...ellipsoid, invF: 0 }, value),
};

/** The withdrawn forms of both, whose parallel is called the latitude of origin (9823) or the second of the false origin (9842). */
export const equidistantCylinder9842: Method = {
  ...equidistantCylinder,
  code: 9842,
  parameters: [PARAM.latitudeOfOrigin, PARAM.longitudeOfFalseOrigin, PARAM.falseEasting, PARAM.falseNorthing],
  compile: (ellipsoid, value) => equidistantCylinder.compile(ellipsoid, renamed(value, PARAM.longitudeOfFalseOrigin)),
};
/** Equidistant Cylindrical (Spherical), EPSG method 9823: the same formulas under the parameters that this code has. */
export const equidistantCylinder9823: Method = {
  ...equidistantCylinderSpherical,
  code: 9823,
  parameters: [PARAM.latitudeOfOrigin, PARAM.longitudeOfOrigin, PARAM.falseEasting, PARAM.falseNorthing],
  compile: (ellipsoid, value) => equidistantCylinderSpherical.compile(ellipsoid, renamed(value, PARAM.longitudeOfOrigin)),
};

function renamed(value: (parameter: number) => number, longitude: number): (parameter: number) => number {
  return (p) => value(p === PARAM.parallel1 ? PARAM.latitudeOfOrigin : p === PARAM.longitudeOfOrigin ? longitude : p);
}
