import type { BatchBuilder } from '../model/batch-builder';
import { eachPart, type FeatureBatch } from '../model/batch';
import { arcOf } from './arc';
import { followCurve } from './curve';
import { ocs } from './ocs';

/** An affine map of space: three rows of four numbers, x' = m[0] x + m[1] y + m[2] z + m[3] and so on. */
export type Affine = readonly number[];

/** How a block stands in a drawing. */
export interface Insertion {
  /** Where its base point comes to lie, in the world's frame. */
  at: readonly [number, number, number];
  /** Degrees counter-clockwise, about the normal. */
  angle: number;
  scale: readonly [number, number, number];
  /** Normal of the plane on which it stands. */
  normal: readonly [number, number, number];
}

/** Source: DXF Reference, INSERT: scaled about the base point, turned, and put on the plane of its normal. */
export function insertionMap({ at, angle, scale, normal }: Insertion, base: readonly [number, number, number]): Affine {
  const plane = ocs(...normal);
  const turn = (angle * Math.PI) / 180,
    c = Math.cos(turn),
    s = Math.sin(turn);
  const columns = [
    plane.toWorld(c * scale[0], s * scale[0], 0),
    plane.toWorld(-s * scale[1], c * scale[1], 0),
    plane.toWorld(0, 0, scale[2]),
  ];
  const rows: number[] = [];
  for (let k = 0; k < 3; k++) {
    const [a, b, d] = [columns[0]![k]!, columns[1]![k]!, columns[2]![k]!];
    rows.push(a, b, d, at[k]! - a * base[0] - b * base[1] - d * base[2]);
  }
  return rows;
}

/** Carries a point through a map into `out`. */
export function mapPoint(m: Affine, x: number, y: number, z: number, out: Float64Array): void {
  out[0] = m[0]! * x + m[1]! * y + m[2]! * z + m[3]!;
  out[1] = m[4]! * x + m[5]! * y + m[6]! * z + m[7]!;
  out[2] = m[8]! * x + m[9]! * y + m[10]! * z + m[11]!;
}

/** Direction, degrees, and length of what was a unit at `angle` degrees. */
export function mapDirection(m: Affine, angle: number): { angle: number; length: number } {
  const a = (angle * Math.PI) / 180,
    x = Math.cos(a),
    y = Math.sin(a);
  const dx = m[0]! * x + m[1]! * y,
    dy = m[4]! * x + m[5]! * y;
  return { angle: (Math.atan2(dy, dx) * 180) / Math.PI, length: Math.hypot(dx, dy) };
}

/** Share of a curve's size within which it is followed by arcs where the map makes ellipses of circles. */
const FOLLOWED = 1e-7;

/** Whether circles in plan stay circles in plan. */
function keepsCircles(m: Affine): boolean {
  const size = Math.hypot(m[0]!, m[4]!);
  const dot = m[0]! * m[1]! + m[4]! * m[5]!;
  return (
    Math.abs(Math.hypot(m[1]!, m[5]!) - size) <= 1e-12 * size &&
    Math.abs(dot) <= 1e-12 * size * size &&
    Math.abs(m[8]!) + Math.abs(m[9]!) <= 1e-12 * size
  );
}

/** Adds the geometry of record `i`, mapped, to the record that `out` is at. Arcs become arcs along the ellipse where they have to. */
export function addMapped(batch: FeatureBatch, i: number, m: Affine, out: BatchBuilder): void {
  const { coords, bulges, measures } = batch;
  const p = new Float64Array(3);
  const circles = keepsCircles(m);
  const hand = m[0]! * m[5]! - m[1]! * m[4]! < 0 ? -1 : 1;
  eachPart(batch, i, (start, end) => {
    for (let v = start; v < end; v++) {
      const x = coords[3 * v]!,
        y = coords[3 * v + 1]!,
        z = Number.isNaN(coords[3 * v + 2]!) ? 0 : coords[3 * v + 2]!;
      const bulge = bulges?.[v] ?? 0;
      if (bulge === 0 || circles || v + 1 === end) {
        mapPoint(m, x, y, z, p);
        out.vertex(p[0]!, p[1]!, p[2]!, v + 1 === end ? 0 : bulge * hand, measures?.[v] ?? NaN);
        continue;
      }
      const arc = arcOf(x, y, coords[3 * v + 3]!, coords[3 * v + 4]!, bulge);
      const rise = (Number.isNaN(coords[3 * v + 5]!) ? z : coords[3 * v + 5]!) - z;
      const along = (t: number, q: Float64Array): void =>
        mapPoint(
          m,
          arc.cx + arc.radius * Math.cos(arc.start + t * arc.sweep),
          arc.cy + arc.radius * Math.sin(arc.start + t * arc.sweep),
          z + rise * t,
          q,
        );
      const pieces = Math.max(1, Math.ceil(Math.abs(arc.sweep) / (Math.PI / 2) - 1e-9));
      const size = arc.radius * Math.max(Math.hypot(m[0]!, m[4]!), Math.hypot(m[1]!, m[5]!));
      for (let k = 0; k < pieces; k++)
        followCurve(along, k / pieces, (k + 1) / pieces, FOLLOWED * size, (ax, ay, az, b) => out.vertex(ax, ay, az, b));
    }
    out.endPart();
  });
}
