import { eachPart, type FeatureBatch, partRanges } from '../model/batch';
import type { Ellipsoid } from '../crs/crs';
import { ringDepths } from './nesting';

/** Twice the signed area of the ring of vertices [start, end), positive when it runs counter-clockwise. */
export function ringArea2(coords: ArrayLike<number>, start: number, end: number, stride = 3): number {
  if (end - start < 3) return 0;
  // about the first vertex, so that large coordinates do not eat the digits
  const x0 = coords[start * stride]!,
    y0 = coords[start * stride + 1]!;
  let sum = 0;
  let px = 0,
    py = 0;
  for (let v = start + 1; v < end; v++) {
    const x = coords[v * stride]! - x0,
      y = coords[v * stride + 1]! - y0;
    sum += px * y - x * py;
    px = x;
    py = y;
  }
  return sum;
}

/** Plane length of record `i`, all parts, in the unit of its coordinates. */
export function planeLength(batch: FeatureBatch, i: number): number {
  let sum = 0;
  eachPart(batch, i, (start, end) => {
    for (let v = start + 1; v < end; v++) {
      sum += Math.hypot(batch.coords[3 * v]! - batch.coords[3 * v - 3]!, batch.coords[3 * v + 1]! - batch.coords[3 * v - 2]!);
    }
  });
  return sum;
}

/** Plane area of polygon `i`: its outer rings less its holes, in the squared unit of its coordinates. */
export function planeArea(batch: FeatureBatch, i: number): number {
  return outerAndHoles(batch, i, (start, end) => Math.abs(ringArea2(batch.coords, start, end)) / 2);
}

/** Sums what `of` says of the rings of polygon `i`: that of the outer ones less that of the holes. */
export function outerAndHoles(batch: FeatureBatch, i: number, of: (start: number, end: number) => number): number {
  const rings = partRanges(batch, i);
  const depths = ringDepths(batch.coords, rings);
  return rings.reduce((sum, [start, end], k) => sum + (depths[k]! % 2 === 0 ? 1 : -1) * of(start, end), 0);
}

/**
 * Distance (metres) and bearing at the first point (degrees clockwise from north) along the geodesic between two points
 * in degrees. Source: T. Vincenty, "Direct and inverse solutions of geodesics on the ellipsoid", Survey Review 176
 * (1975), inverse formula. NaN for nearly antipodal points, where it does not converge.
 */
export function geodesic(e: Ellipsoid, lon1: number, lat1: number, lon2: number, lat2: number): { distance: number; bearing: number } {
  const rad = Math.PI / 180;
  const f = e.invF === 0 ? 0 : 1 / e.invF;
  const b = e.a * (1 - f);
  const L = (lon2 - lon1) * rad;
  const u1 = Math.atan((1 - f) * Math.tan(lat1 * rad)),
    u2 = Math.atan((1 - f) * Math.tan(lat2 * rad));
  const s1 = Math.sin(u1),
    c1 = Math.cos(u1),
    s2 = Math.sin(u2),
    c2 = Math.cos(u2);
  let lambda = L;
  for (let k = 0; k < 200; k++) {
    const sl = Math.sin(lambda),
      cl = Math.cos(lambda);
    const sinSigma = Math.hypot(c2 * sl, c1 * s2 - s1 * c2 * cl);
    if (sinSigma === 0) return { distance: 0, bearing: 0 };
    const cosSigma = s1 * s2 + c1 * c2 * cl;
    const sigma = Math.atan2(sinSigma, cosSigma);
    const sinAlpha = (c1 * c2 * sl) / sinSigma;
    const cos2Alpha = 1 - sinAlpha * sinAlpha;
    const cos2m = cos2Alpha === 0 ? 0 : cosSigma - (2 * s1 * s2) / cos2Alpha;
    const C = (f / 16) * cos2Alpha * (4 + f * (4 - 3 * cos2Alpha));
    const next = L + (1 - C) * f * sinAlpha * (sigma + C * sinSigma * (cos2m + C * cosSigma * (2 * cos2m * cos2m - 1)));
    const done = Math.abs(next - lambda) < 1e-13;
    lambda = next;
    if (!done) continue;
    const u = (cos2Alpha * (e.a * e.a - b * b)) / (b * b);
    const A = 1 + (u / 16384) * (4096 + u * (-768 + u * (320 - 175 * u)));
    const B = (u / 1024) * (256 + u * (-128 + u * (74 - 47 * u)));
    const dSigma =
      B *
      sinSigma *
      (cos2m + (B / 4) * (cosSigma * (2 * cos2m * cos2m - 1) - (B / 6) * cos2m * (4 * sinSigma * sinSigma - 3) * (4 * cos2m * cos2m - 3)));
    const bearing = Math.atan2(c2 * Math.sin(lambda), c1 * s2 - s1 * c2 * Math.cos(lambda)) / rad;
    return { distance: b * A * (sigma - dSigma), bearing: (bearing + 360) % 360 };
  }
  return { distance: NaN, bearing: NaN };
}
