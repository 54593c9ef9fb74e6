import type { FeatureBatch } from '../model/batch';
import { arcOf, chordCount } from './arc';

/**
 * The same records with every curve replaced by chords that stay within `tolerance` of it (in the unit of the
 * coordinates). End points are kept exactly; heights and measures run evenly along an arc. Returns the batch itself when it has no curves.
 */
export function flatten(batch: FeatureBatch, tolerance: number): FeatureBatch {
  const { bulges, coords, measures, partEnds } = batch;
  if (!bulges) return batch;
  const out: number[] = [];
  const measured: number[] | null = measures ? [] : null;
  const ends = new Uint32Array(partEnds.length);
  let start = 0;
  for (let p = 0; p < partEnds.length; p++) {
    const end = partEnds[p]!;
    for (let v = start; v < end; v++) {
      const x1 = coords[3 * v]!,
        y1 = coords[3 * v + 1]!,
        z1 = coords[3 * v + 2]!;
      out.push(x1, y1, z1);
      measured?.push(measures![v]!);
      const bulge = bulges[v]!;
      if (bulge === 0 || v + 1 >= end) continue;
      const x2 = coords[3 * v + 3]!,
        y2 = coords[3 * v + 4]!,
        z2 = coords[3 * v + 5]!;
      const arc = arcOf(x1, y1, x2, y2, bulge);
      if (!(arc.radius > 0) || !Number.isFinite(arc.radius)) continue;
      const n = chordCount(arc.radius, arc.sweep, tolerance);
      for (let k = 1; k < n; k++) {
        const t = k / n;
        const a = arc.start + arc.sweep * t;
        out.push(arc.cx + arc.radius * Math.cos(a), arc.cy + arc.radius * Math.sin(a), z1 + (z2 - z1) * t);
        measured?.push(measures![v]! + (measures![v + 1]! - measures![v]!) * t);
      }
    }
    ends[p] = out.length / 3;
    start = end;
  }
  return {
    ...batch,
    coords: Float64Array.from(out),
    bulges: null,
    measures: measured ? Float64Array.from(measured) : undefined,
    partEnds: ends,
  };
}
