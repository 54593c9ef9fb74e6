import { geodesic } from '../geometry/geodesic';
import { planarPart } from './planar-part';
import { outerAndHoles } from '../geometry/measure';
import { eachPart, type FeatureBatch } from '../model/batch';
import { type EarthCrs, datumOf, type GeographicCrs } from './crs';
import { compileTransform, type Transform } from './transform';

const ways = new WeakMap<EarthCrs, Transform>();

/** The way from a system to the degrees of its own ellipsoid. */
function toDegrees(crs: EarthCrs): Transform {
  let way = ways.get(crs);
  if (!way) ways.set(crs, (way = compileTransform(crs, baseOf(crs))));
  return way;
}

const baseOf = (crs: EarthCrs): GeographicCrs => (crs.kind === 'projected' ? crs.base : crs);

/** Length of record `i` along the geodesics between its vertices, all parts, metres. NaN where a vertex is nowhere. */
export function lengthOnEllipsoid(batch: FeatureBatch, i: number, crs: EarthCrs): number {
  const { ellipsoid } = datumOf(crs);
  const unit = baseOf(crs).degreesPerUnit;
  let sum = 0;
  eachPart(batch, i, (start, end) => {
    const p = batch.coords.slice(3 * start, 3 * end);
    toDegrees(crs).apply(p, 0, end - start, 3);
    for (let v = 1; v < end - start; v++)
      sum += geodesic(ellipsoid, p[3 * v - 3]! * unit, p[3 * v - 2]! * unit, p[3 * v]! * unit, p[3 * v + 1]! * unit).distance;
  });
  return sum;
}

const shortWay = (d: number): number => (d > Math.PI ? d - 2 * Math.PI : d < -Math.PI ? d + 2 * Math.PI : d);

/** Longest piece of an edge, and most pieces of one edge. */
const PIECE_M = 500,
  MOST_PIECES = 2000;

/**
 * Area of polygon `i` on the ellipsoid, its outer rings less its holes, square metres. Edges run as they are drawn: straight in
 * the system's own plane. The area under an edge is that between it and the equator on the authalic sphere, by Simpson's rule
 * over every two of its pieces.
 * Source: J. P. Snyder, "Map Projections: A Working Manual" (1987), equations 3-11 and 3-12 (authalic latitude).
 */
export function areaOnEllipsoid(batch: FeatureBatch, i: number, crs: EarthCrs): number {
  const { a, invF } = datumOf(crs).ellipsoid;
  const f = invF === 0 ? 0 : 1 / invF;
  const e2 = f * (2 - f),
    e = Math.sqrt(e2);
  const unit = (baseOf(crs).degreesPerUnit * Math.PI) / 180;
  const q = (lat: number): number => {
    const s = Math.sin(lat);
    return e === 0 ? 2 * s : (1 - e2) * (s / (1 - e2 * s * s) + Math.atanh(e * s) / e);
  };
  return outerAndHoles(batch, i, (start, end) => {
    const p = planarPart(batch.coords, start, end, crs, PIECE_M, MOST_PIECES);
    const n = p.length / 3;
    toDegrees(crs).apply(p, 0, n, 3);
    let sum = 0;
    for (let v = 0; v + 2 < n; v += 2) {
      const [k0, k1, k2] = [3 * v, 3 * v + 3, 3 * v + 6];
      // longitudes from that of the first position on, the short way round
      const d1 = shortWay((p[k1]! - p[k0]!) * unit),
        d2 = shortWay((p[k2]! - p[k0]!) * unit);
      sum += (q(p[k0 + 1]! * unit) * (4 * d1 - d2) + 4 * q(p[k1 + 1]! * unit) * d2 + q(p[k2 + 1]! * unit) * (3 * d2 - 4 * d1)) / 6;
    }
    return Math.abs((sum * a * a) / 2);
  });
}
