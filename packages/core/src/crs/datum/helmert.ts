import { RAD } from '../angles';
import type { Ellipsoid } from '../ellipsoid';
import type { Shift } from './shift';

/**
 * Seven parameters that carry geocentric coordinates of one datum to another. Translations in metres, rotations in
 * arc-seconds by the position vector convention, scale difference in parts per million.
 * Source: IOGP Guidance Note 7-2, section 4.3.3 (EPSG methods 9603, 9606 and 9607 and their geocentric sisters).
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
 * The parameters at another epoch. Source: IOGP Guidance Note 7-2, section 4.3.5 (EPSG methods 1053 and 1056).
 * @param years from the epoch of the parameters
 */
export function atEpoch(h: Helmert, rates: Helmert, years: number): Helmert {
  const moved = { ...h };
  for (const key of Object.keys(moved) as (keyof Helmert)[]) moved[key] += rates[key] * years;
  return moved;
}

/** What a change by seven parameters works with. */
export interface HelmertStep {
  helmert: Helmert;
  /** The point that rotations turn about, geocentric metres. IOGP Guidance Note 7-2, section 4.3.4 (Molodensky-Badekas). */
  pivot: readonly [number, number, number] | null;
  from: Ellipsoid;
  to: Ellipsoid;
  inverse: boolean;
  /** Heights (the third number of each point) are ellipsoidal ones and change as well. */
  heights: boolean;
}

/**
 * Carries geographic coordinates (degrees, longitude first) from one ellipsoid to the other, in place. Without `heights`
 * ellipsoidal heights are taken as zero and not returned: a height in a drawing is not an ellipsoidal one.
 */
export function helmertShift({ helmert: h, pivot, from, to, inverse, heights }: HelmertStep): Shift {
  const a = from.a;
  const e2 = squaredEccentricity(from);
  const a2 = to.a,
    e22 = squaredEccentricity(to);
  const ratio = Math.sqrt(1 - e22); // b / a
  const b2 = a2 * ratio;
  const k = (e22 / (1 - e22)) * b2;
  const rx = h.rx * ARC_SECOND,
    ry = h.ry * ARC_SECOND,
    rz = h.rz * ARC_SECOND,
    m = 1 + h.ds * 1e-6;
  const [px, py, pz] = pivot ?? [0, 0, 0];
  const tx = h.tx + px,
    ty = h.ty + py,
    tz = h.tz + pz;
  return (p, start, count, stride) => {
    for (let i = start, end = start + count * stride; i < end; i += stride) {
      const lon = p[i]! * RAD,
        lat = p[i + 1]! * RAD;
      const height = heights ? p[i + 2]! : 0;
      const sin = Math.sin(lat),
        cos = Math.cos(lat);
      const sinL = Math.sin(lon),
        cosL = Math.cos(lon);
      const nu = a / Math.sqrt(1 - e2 * sin * sin);
      const flat = (nu + height) * cos;
      let x = flat * cosL,
        y = flat * sinL,
        z = (nu * (1 - e2) + height) * sin;
      if (inverse) {
        // the transpose of the small-angle rotation, as PROJ applies it
        x = (x - tx) / m;
        y = (y - ty) / m;
        z = (z - tz) / m;
        const X = x + rz * y - ry * z + px,
          Y = -rz * x + y + rx * z + py,
          Z = ry * x - rx * y + z + pz;
        x = X;
        y = Y;
        z = Z;
      } else {
        x -= px;
        y -= py;
        z -= pz;
        const X = tx + m * (x - rz * y + ry * z),
          Y = ty + m * (rz * x + y - rx * z),
          Z = tz + m * (-ry * x + rx * y + z);
        x = X;
        y = Y;
        z = Z;
      }
      // seen from the old meridian and the old latitude the new ones are small angles, whose arc tangent is a short series
      const ahead = x * cosL + y * sinL,
        aside = y * cosL - x * sinL;
      p[i] = p[i]! + smallAtan(aside, ahead) / RAD;
      // geodetic latitude by Bowring's formula on tangents, exact to the last bits within 100 km of the surface.
      // IOGP Guidance Note 7-2, section 4.1.1; B. R. Bowring, Survey Review 181 (1976)
      const r = Math.sqrt(x * x + y * y);
      const tanBeta = z / (r * ratio);
      const cos2 = 1 / (1 + tanBeta * tanBeta);
      const cosB = Math.sqrt(cos2),
        sinB = tanBeta * cosB;
      let up = z + k * sinB * sinB * sinB,
        along = r - e22 * a2 * cosB * cos2;
      if (!(r > 1e-6)) {
        up = Math.sign(z);
        along = 0;
      }
      p[i + 1] = (lat + smallAtan(up * cos - along * sin, along * cos + up * sin)) / RAD;
      if (heights) {
        const size = Math.sqrt(up * up + along * along);
        const s = up / size,
          c = along / size;
        p[i + 2] = r * c + z * s - a2 * Math.sqrt(1 - e22 * s * s);
      }
    }
  };
}

/** atan2 for angles that are mostly tiny: a series below 1/256, which there is exact to the last bit. */
function smallAtan(y: number, x: number): number {
  const t = y / x;
  if (x > 0 && t < 0.004 && t > -0.004) {
    const q = t * t;
    return t * (1 - q * (1 / 3 - q * (1 / 5 - q * (1 / 7 - q / 9))));
  }
  return Math.atan2(y, x);
}

/** The first eccentricity of an ellipsoid, squared. */
export function squaredEccentricity(e: Ellipsoid): number {
  const f = e.invF === 0 ? 0 : 1 / e.invF;
  return f * (2 - f);
}
