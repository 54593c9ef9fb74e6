import { RAD } from '../angles';
import type { Ellipsoid } from '../ellipsoid';
import { auxiliary, conformalT, parallelRadius } from './auxiliary';
import { type Projector, projector } from './method';

/** A cone of the Lambert conformal family; latitudes and longitudes in degrees, lengths in metres. */
export interface Cone {
  /** Constant n of the cone and F of the scale, made by `tangentCone` or `secantCone`. */
  n: number;
  F: number;
  latitudeOfOrigin: number;
  longitudeOfOrigin: number;
  easting: number;
  northing: number;
  /** Scales all radii: k0 of one parallel, or the ellipsoid's scaling of Michigan. */
  scale: number;
  /** Turns all of the plane, radians (Belgium). */
  turn?: number;
  /** -1 where the numbers grow to the west. */
  sx?: 1 | -1;
}

/** Touching along one parallel. IOGP Guidance Note 7-2, section 3.1.1.2. */
export function tangentCone(latitude: number, ellipsoid: Ellipsoid): Pick<Cone, 'n' | 'F'> {
  const { e, e2 } = auxiliary(ellipsoid);
  const phi = latitude * RAD;
  const n = Math.sin(phi);
  return { n, F: parallelRadius(phi, e2) / (n * Math.pow(conformalT(phi, e), n)) };
}

/** Cutting through two parallels. IOGP Guidance Note 7-2, section 3.1.1.1. */
export function secantCone(parallel1: number, parallel2: number, ellipsoid: Ellipsoid): Pick<Cone, 'n' | 'F'> {
  if (Math.abs(parallel1 - parallel2) < 1e-10) return tangentCone(parallel1, ellipsoid);
  const { e, e2 } = auxiliary(ellipsoid);
  const phi1 = parallel1 * RAD,
    phi2 = parallel2 * RAD;
  const m1 = parallelRadius(phi1, e2),
    m2 = parallelRadius(phi2, e2);
  const t1 = conformalT(phi1, e),
    t2 = conformalT(phi2, e);
  const n = (Math.log(m1) - Math.log(m2)) / (Math.log(t1) - Math.log(t2));
  return { n, F: m1 / (n * Math.pow(t1, n)) };
}

/** The plane of a cone: r = a k F t^n, theta = n (lambda - lambda0). */
export function lambertCone(ellipsoid: Ellipsoid, cone: Cone): Projector {
  const { n, F, turn = 0 } = cone;
  const { e, fromConformal } = auxiliary(ellipsoid);
  const aF = ellipsoid.a * F * cone.scale;
  const radius = (phi: number): number => aF * Math.pow(conformalT(phi, e), n);
  const rF = radius(cone.latitudeOfOrigin * RAD);
  const sign = Math.sign(n);
  return projector(
    cone.longitudeOfOrigin,
    cone.easting,
    cone.northing,
    (lam, phi, out) => {
      const r = radius(phi),
        theta = n * lam - turn;
      out[0] = r * Math.sin(theta);
      out[1] = rF - r * Math.cos(theta);
    },
    (x, y, out) => {
      const down = rF - y;
      const r = sign * Math.hypot(x, down);
      out[0] = (Math.atan2(sign * x, sign * down) + turn) / n;
      out[1] = fromConformal(Math.PI / 2 - 2 * Math.atan(Math.pow(r / aF, 1 / n)));
    },
    cone.sx ?? 1,
  );
}
