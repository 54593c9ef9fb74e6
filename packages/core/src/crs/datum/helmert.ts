import type { Ellipsoid } from '../crs';
import { RAD } from '../methods/method';

/**
 * Seven parameters that carry geocentric coordinates of one datum to another. Translations in metres, rotations in
 * arc-seconds by the position vector convention, scale difference in parts per million.
 * Source: IOGP Guidance Note 7-2, section 4.3.3 (EPSG methods 9603, 9606 and 9607).
 */
export interface Helmert {
  tx: number;
  ty: number;
  tz: number;
  rx: number;
  ry: number;
  rz: number;
  ds: number;
}

const ARC_SECOND = RAD / 3600;

/**
 * Carries geographic coordinates (degrees, longitude first) from one ellipsoid to the other, in place. Ellipsoidal
 * heights are taken as zero and not returned: a height in a drawing is not an ellipsoidal one.
 */
export function helmertShift(
  h: Helmert,
  from: Ellipsoid,
  to: Ellipsoid,
  inverse: boolean,
): (p: Float64Array, start: number, count: number, stride: number) => void {
  const a = from.a;
  const e2 = squaredEccentricity(from);
  const b2 = to.a;
  const e22 = squaredEccentricity(to);
  const rx = h.rx * ARC_SECOND, ry = h.ry * ARC_SECOND, rz = h.rz * ARC_SECOND, m = 1 + h.ds * 1e-6;
  return (p, start, count, stride) => {
    const end = start + count * stride;
    for (let i = start; i < end; i += stride) {
      const lon = p[i]! * RAD;
      const lat = p[i + 1]! * RAD;
      const sin = Math.sin(lat), cos = Math.cos(lat);
      const nu = a / Math.sqrt(1 - e2 * sin * sin);
      let x = nu * cos * Math.cos(lon), y = nu * cos * Math.sin(lon), z = nu * (1 - e2) * sin;
      if (inverse) {
        // the transpose of the small-angle rotation, as PROJ applies it
        x = (x - h.tx) / m; y = (y - h.ty) / m; z = (z - h.tz) / m;
        const X = x + rz * y - ry * z, Y = -rz * x + y + rx * z, Z = ry * x - rx * y + z;
        x = X; y = Y; z = Z;
      } else {
        const X = h.tx + m * (x - rz * y + ry * z), Y = h.ty + m * (rz * x + y - rx * z), Z = h.tz + m * (-ry * x + rx * y + z);
        x = X; y = Y; z = Z;
      }
      p[i] = Math.atan2(y, x) / RAD;
      p[i + 1] = latitude(Math.sqrt(x * x + y * y), z, b2, e22) / RAD;
    }
  };
}

function squaredEccentricity(e: Ellipsoid): number {
  const f = e.invF === 0 ? 0 : 1 / e.invF;
  return f * (2 - f);
}

/**
 * Geodetic latitude by Bowring's formula on tangents, iterated once more than it needs near the surface. IOGP Guidance
 * Note 7-2, section 4.1.1; B. R. Bowring, Survey Review 181 (1976).
 * @param r distance from the axis, metres @param z height above the equator's plane, metres
 */
function latitude(r: number, z: number, a: number, e2: number): number {
  if (r < 1e-6) return z < 0 ? -Math.PI / 2 : Math.PI / 2;
  const ratio = Math.sqrt(1 - e2); // b / a
  const b = a * ratio;
  const k = (e2 / (1 - e2)) * b;
  let tanBeta = z / (r * ratio);
  let tanPhi = 0;
  for (let n = 0; n < 2; n++) {
    const cos2 = 1 / (1 + tanBeta * tanBeta);
    const cos = Math.sqrt(cos2);
    const sin = tanBeta * cos;
    tanPhi = (z + k * sin * sin * sin) / (r - e2 * a * cos * cos2);
    tanBeta = ratio * tanPhi;
  }
  return Math.atan(tanPhi);
}
