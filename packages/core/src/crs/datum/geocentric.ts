import { RAD } from '../angles';
import type { Ellipsoid } from '../ellipsoid';
import { squaredEccentricity } from './helmert';
import type { Shift } from './shift';

/** Degrees and ellipsoidal metres to X, Y, Z, in place. IOGP Guidance Note 7-2, section 4.1.1 (EPSG method 9602). */
export function toGeocentric(ellipsoid: Ellipsoid): Shift {
  const e2 = squaredEccentricity(ellipsoid);
  return (p, start, count, stride) => {
    for (let i = start, end = start + count * stride; i < end; i += stride) {
      const lon = p[i]! * RAD,
        lat = p[i + 1]! * RAD,
        h = p[i + 2]!;
      const sin = Math.sin(lat);
      const nu = ellipsoid.a / Math.sqrt(1 - e2 * sin * sin);
      p[i] = (nu + h) * Math.cos(lat) * Math.cos(lon);
      p[i + 1] = (nu + h) * Math.cos(lat) * Math.sin(lon);
      p[i + 2] = (nu * (1 - e2) + h) * sin;
    }
  };
}

/** X, Y, Z to degrees and ellipsoidal metres, in place; by Bowring's formula, repeated so that it holds far above the surface too. */
export function fromGeocentric(ellipsoid: Ellipsoid): Shift {
  const { a } = ellipsoid;
  const e2 = squaredEccentricity(ellipsoid);
  const ratio = Math.sqrt(1 - e2),
    b = a * ratio,
    k = (e2 / (1 - e2)) * b;
  return (p, start, count, stride) => {
    for (let i = start, end = start + count * stride; i < end; i += stride) {
      const x = p[i]!,
        y = p[i + 1]!,
        z = p[i + 2]!;
      const r = Math.hypot(x, y);
      let beta = Math.atan2(z, r * ratio),
        lat = 0;
      for (let round = 0; round < 3; round++) {
        const s = Math.sin(beta),
          c = Math.cos(beta);
        lat = Math.atan2(z + k * s * s * s, r - e2 * a * c * c * c);
        beta = Math.atan2(ratio * Math.sin(lat), Math.cos(lat));
      }
      const s = Math.sin(lat);
      p[i] = Math.atan2(y, x) / RAD;
      p[i + 1] = lat / RAD;
      p[i + 2] = r * Math.cos(lat) + z * s - a * Math.sqrt(1 - e2 * s * s);
    }
  };
}
