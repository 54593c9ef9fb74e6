import { type FeatureBatch, sliceOf, vertexRange } from '../model/batch';
import { type Arc, arcOf, chordCount, MOST_CHORDS } from './arc';

/** Chords of one record at most, whatever the tolerance: of a record with more, all are longer. */
const MOST_OF_RECORD = 500_000;
/** Vertices of a batch once its curves are cut; one that would have more is cut piece by piece. */
const MOST_OF_BATCH = 1_000_000;

/** The arc that begins at a vertex of a part that ends at `end`; null where there is none. */
function arcAt({ coords, bulges }: FeatureBatch, v: number, end: number): Arc | null {
  const bulge = bulges![v]!;
  if (bulge === 0 || v + 1 >= end) return null;
  const arc = arcOf(coords[3 * v]!, coords[3 * v + 1]!, coords[3 * v + 3]!, coords[3 * v + 4]!, bulge);
  return arc.radius > 0 && Number.isFinite(arc.radius) ? arc : null;
}

/** Chords of the arc that begins at each vertex; 0 where there is none. */
function chordsOf(batch: FeatureBatch, tolerance: number): Uint32Array {
  const { partEnds, featureEnds } = batch;
  const chords = new Uint32Array(batch.bulges!.length);
  let [v, p] = [0, 0];
  for (let i = 0; i < batch.count; i++) {
    const first = v;
    let total = 0;
    for (; p < featureEnds[i]!; p++) {
      for (; v < partEnds[p]!; v++) {
        const arc = arcAt(batch, v, partEnds[p]!);
        if (arc) total += chords[v] = chordCount(arc.radius, arc.sweep, tolerance);
      }
    }
    if (total <= MOST_OF_RECORD) continue;
    for (let k = first; k < v; k++) if (chords[k]! > 0) chords[k] = Math.max(1, Math.floor((chords[k]! * MOST_OF_RECORD) / total));
  }
  return chords;
}

/**
 * The same records with every curve replaced by chords that stay within `tolerance` of it (in the unit of the
 * coordinates), unless {@link leastTolerance} is more. End points are kept exactly; heights and measures run evenly along an arc.
 * Returns the batch itself when it has no curves.
 */
export function flatten(batch: FeatureBatch, tolerance: number): FeatureBatch {
  return batch.bulges ? cut(batch, chordsOf(batch, tolerance)) : batch;
}

/** The records of a batch in several, where one would have too many vertices once its curves are cut. */
export function* pieces(batch: FeatureBatch, tolerance: number): Generator<FeatureBatch> {
  if (!batch.bulges) return yield batch;
  const chords = chordsOf(batch, tolerance);
  let [start, total] = [0, 0];
  for (let i = 0; i < batch.count; i++) {
    const [first, end] = vertexRange(batch, i);
    let own = end - first;
    for (let v = first; v < end; v++) own += chords[v]!;
    if (total > 0 && total + own > MOST_OF_BATCH) {
      yield sliceOf(batch, start, i);
      [start, total] = [i, 0];
    }
    total += own;
  }
  yield sliceOf(batch, start, batch.count);
}

function cut(batch: FeatureBatch, chords: Uint32Array): FeatureBatch {
  const { coords, measures, partEnds } = batch;
  let vertices = chords.length;
  for (const n of chords) if (n > 1) vertices += n - 1;
  const out = new Float64Array(3 * vertices);
  const measured = measures ? new Float64Array(vertices) : null;
  const ends = new Uint32Array(partEnds.length);
  let at = 0;
  const add = (x: number, y: number, z: number, v: number, t: number): void => {
    out[3 * at] = x;
    out[3 * at + 1] = y;
    out[3 * at + 2] = z;
    if (measured) measured[at] = t === 0 ? measures![v]! : measures![v]! + (measures![v + 1]! - measures![v]!) * t;
    at++;
  };
  let v = 0;
  for (let p = 0; p < partEnds.length; p++) {
    for (const end = partEnds[p]!; v < end; v++) {
      const [z1, z2] = [coords[3 * v + 2]!, coords[3 * v + 5]!];
      add(coords[3 * v]!, coords[3 * v + 1]!, z1, v, 0);
      const n = chords[v]!;
      if (n < 2) continue;
      const arc = arcAt(batch, v, end)!;
      for (let k = 1; k < n; k++) {
        const t = k / n;
        const a = arc.start + arc.sweep * t;
        add(arc.cx + arc.radius * Math.cos(a), arc.cy + arc.radius * Math.sin(a), z1 + (z2 - z1) * t, v, t);
      }
    }
    ends[p] = at;
  }
  return { ...batch, coords: out, bulges: null, measures: measured ?? undefined, partEnds: ends };
}

/** What the curves of a record ask for. */
export interface CurveLoad {
  /** Sum over its arcs of sweep (radians) times the root of the radius: what their chords are counted from. 0 where it has no arc. */
  load: number;
  /** How near its chords come to its curves at the best, in the unit of the coordinates: as many as there may be are no nearer. */
  leastTolerance: number;
}

/** @returns the load of record `i`; null where it has no curve. A curve beyond all numbers is followed by none. */
export function curveLoad(batch: FeatureBatch, i: number): CurveLoad | null {
  if (!batch.bulges) return null;
  const [start, end] = vertexRange(batch, i);
  let [load, most, curved] = [0, 0, false];
  for (let v = start; v + 1 < end; v++) {
    if (batch.bulges[v] === 0) continue;
    curved = true;
    const arc = arcAt(batch, v, end);
    const own = arc ? Math.abs(arc.sweep) * Math.sqrt(arc.radius) : Infinity;
    load += Number.isFinite(own) ? own : 0;
    most = Math.max(most, own);
  }
  if (!curved) return null;
  // n chords of an arc stand off by load² / 8n²
  const share = Math.max(most / MOST_CHORDS, load / MOST_OF_RECORD);
  return { load, leastTolerance: Math.min(Number.MAX_VALUE, (share * share) / 8) };
}
