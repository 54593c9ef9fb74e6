import Flatbush from 'flatbush';
import { eachPart, type FeatureBatch, LINE, NO_GEOMETRY, partCount, POLYGON, vertexRange } from '../../model/batch';
import { segmentDistance } from '../../geometry/distance';
import { Doubles } from '../../model/doubles';
import type { Finding } from '../../model/finding';
import { Problem } from '../../model/problem';
import type { Fault } from '../derived/fault';
import { NOISE } from '../parcels/node-linework';
import { NodeTable } from '../parcels/node-table';
import { type Tin, nextSide, twinsOf } from './tin';
import { triangulate } from './triangulate';

/** How a surface is made of records. Lengths are in units of the coordinates. */
export interface SurfaceOptions {
  /** The field that heights are in, a text as well; those of the vertices where it is "". */
  height: string;
  /** Sides at the edge that are longer belong to no triangle; 0: any. */
  longest: number;
  /** A point that stands out of all its neighbours by more is a spike. */
  spike: number;
  unit_m: number;
}

/** A surface, and what is to be known of it. */
export interface SurfaceRead {
  tin: Tin;
  faults: Fault[];
  findings: Finding[];
  /** Points, lines that are kept, triangles of the source, and triangles that lie flat. */
  counts: { points: number; breaklines: number; flat: number };
}

/**
 * The surface that records make: the triangles that they are, where they are triangles with heights; else those between points, texts and
 * the corners of lines, in which lines are sides (breaklines, contours).
 * @param batches without curves, in one plane
 * @throws Problem `no-surface` where there are not three places with heights that lie apart
 */
export async function surfaceFrom(batches: AsyncIterable<FeatureBatch>, options: SurfaceOptions): Promise<SurfaceRead> {
  const read = new HeightsRead(options.height);
  for await (const batch of batches) read.add(batch);
  return read.surface(options);
}

class HeightsRead {
  private readonly xyz = new Doubles();
  /** Pairs of vertices, as numbers of `xyz`, that lines lead between. */
  private readonly sides = new Doubles();
  private readonly triangles = new Doubles();
  private breaklines = 0;
  private others = 0;
  private readonly without = { height: 0, geometry: 0 };

  constructor(private readonly field: string) {}

  add(batch: FeatureBatch): void {
    for (let i = 0; i < batch.count; i++) {
      const kind = batch.kinds[i]!;
      if (kind === NO_GEOMETRY) this.without.geometry++;
      else if (kind === POLYGON && this.field === '' && this.triangle(batch, i)) continue;
      else this.heights(batch, i, kind);
    }
  }

  /** @returns whether the record is a triangle with heights */
  private triangle(batch: FeatureBatch, i: number): boolean {
    const [start, end] = vertexRange(batch, i);
    const { coords } = batch;
    if (partCount(batch, i) !== 1 || end - start !== 4) return false;
    for (let k = 3 * start; k < 3 * end; k++) if (!Number.isFinite(coords[k]!)) return false;
    for (let v = start; v < start + 3; v++) this.triangles.push(this.vertex(coords[3 * v]!, coords[3 * v + 1]!, coords[3 * v + 2]!));
    return true;
  }

  private vertex(x: number, y: number, z: number): number {
    this.xyz.push(x);
    this.xyz.push(y);
    this.xyz.push(z);
    return this.xyz.length / 3 - 1;
  }

  private heights(batch: FeatureBatch, i: number, kind: number): void {
    const { coords } = batch;
    const said = this.field === '' ? null : numberOf(batch.columns.get(this.field)?.[i] ?? null);
    let found = false;
    eachPart(batch, i, (start, end) => {
      let before = -1;
      for (let v = start; v < end; v++) {
        const [x, y, z] = [coords[3 * v]!, coords[3 * v + 1]!, this.field === '' ? coords[3 * v + 2]! : (said ?? NaN)];
        if (!Number.isFinite(x) || !Number.isFinite(y) || !Number.isFinite(z)) {
          before = -1;
          continue;
        }
        found = true;
        const at = this.vertex(x, y, z);
        if (before >= 0 && (kind === LINE || kind === POLYGON)) {
          this.sides.push(before);
          this.sides.push(at);
        }
        before = at;
      }
    });
    if (!found) this.without.height++;
    else if (kind === LINE || kind === POLYGON) this.breaklines++;
    else this.others++;
  }

  surface({ longest, spike, unit_m }: SurfaceOptions): SurfaceRead {
    const faults: Fault[] = [];
    const findings: Finding[] = [
      { code: 'no-height', count: this.without.height, message: 'Records have no height: they have no part in the surface.' },
      { code: 'no-geometry', count: this.without.geometry, message: 'Records have no geometry: they are left out.' },
    ].flatMap((f): Finding[] => (f.count > 0 ? [{ ...f, severity: 'caution' }] : []));
    const given = this.triangles.length / 3;
    if (given > 0 && this.others + this.breaklines > 0)
      findings.push({
        code: 'beside-triangles',
        severity: 'caution',
        message: 'Records are no triangles, and others are: the surface is that of the triangles alone.',
        count: this.others + this.breaklines,
      });
    const { xyz, of } = this.merged(unit_m, faults);
    const tin = given > 0 ? this.ownTriangles(xyz, of, faults) : trimmed(between(xyz, of, this.sides.take(), unit_m, faults), longest);
    if (tin.triangles.length === 0)
      throw new Problem(
        'no-surface',
        'A surface takes three places with heights that are not on one line. Choose layers whose records have heights, or the field that they are in.',
      );
    spikesOf(tin, spike, unit_m, faults);
    return {
      tin,
      faults: faults.sort((a, b) => (b.size ?? 0) - (a.size ?? 0)),
      findings,
      counts: { points: tin.xyz.length / 3, breaklines: this.breaklines, flat: flatOf(tin) },
    };
  }

  /** Vertices of one place as one, and which one each became; the first height holds. */
  private merged(unit_m: number, faults: Fault[]): { xyz: Float64Array; of: Uint32Array } {
    const all = this.xyz.take();
    let most = 0;
    for (const v of all) most = Math.max(most, Math.abs(v));
    const table = new NodeTable(Math.max(most * NOISE, Number.MIN_VALUE));
    const of = new Uint32Array(all.length / 3);
    const z = new Doubles();
    for (let v = 0; v < of.length; v++) {
      const n = table.take(all[3 * v]!, all[3 * v + 1]!);
      of[v] = n;
      if (n === z.length) z.push(all[3 * v + 2]!);
      const off = Math.abs(z.data[n]! - all[3 * v + 2]!);
      if (off > HEIGHTS_DIFFER_M / unit_m)
        faults.push({ kind: 'two-heights', at: [all[3 * v]!, all[3 * v + 1]!], size: off * unit_m, about: '' });
    }
    const xyz = new Float64Array(3 * table.count);
    for (let n = 0; n < table.count; n++) xyz.set([table.x(n), table.y(n), z.data[n]!], 3 * n);
    return { xyz, of };
  }

  private ownTriangles(xyz: Float64Array, of: Uint32Array, faults: Fault[]): Tin {
    const out = new Doubles();
    const sides = new Set<number>();
    const given = this.triangles.take();
    for (let t = 0; t < given.length; t += 3) {
      const a = of[given[t]!]!;
      let [b, c] = [of[given[t + 1]!]!, of[given[t + 2]!]!];
      const across = areaOf(xyz, a, b, c);
      if (across < 0) [b, c] = [c, b];
      const own = [a * 2 ** 26 + b, b * 2 ** 26 + c, c * 2 ** 26 + a];
      // a side has one triangle on its left
      if (across === 0 || own.some((s) => sides.has(s))) {
        faults.push({ kind: across === 0 ? 'upright' : 'triangles-overlap', at: [xyz[3 * a]!, xyz[3 * a + 1]!], size: null, about: '' });
        continue;
      }
      for (const s of own) sides.add(s);
      for (const n of [a, b, c]) out.push(n);
    }
    return { xyz, triangles: Uint32Array.from(out.take()) };
  }
}

/** Heights of one place that differ by more are two. */
const HEIGHTS_DIFFER_M = 1e-6;

/** A number, or a text that is one; null where it is none. */
export function numberOf(value: unknown): number | null {
  if (typeof value === 'number') return value;
  if (typeof value === 'bigint') return Number(value);
  if (typeof value !== 'string' || value.trim() === '') return null;
  const number = Number(value.trim().replace(',', '.'));
  return Number.isFinite(number) ? number : null;
}

const areaOf = (xyz: Float64Array, a: number, b: number, c: number): number =>
  (xyz[3 * b]! - xyz[3 * a]!) * (xyz[3 * c + 1]! - xyz[3 * a + 1]!) - (xyz[3 * b + 1]! - xyz[3 * a + 1]!) * (xyz[3 * c]! - xyz[3 * a]!);

/** The triangles between points, in which lines are sides. */
function between(xyz: Float64Array, of: Uint32Array, sides: Float64Array, unit_m: number, faults: Fault[]): Tin {
  const flat = new Float64Array((xyz.length / 3) * 2);
  for (let n = 0; n < flat.length / 2; n++) flat.set([xyz[3 * n]!, xyz[3 * n + 1]!], 2 * n);
  if (flat.length < 6) return { xyz, triangles: new Uint32Array(0) };
  const lines = new Doubles();
  const known = new Set<number>();
  for (let s = 0; s < sides.length; s += 2) {
    const [a, b] = [of[sides[s]!]!, of[sides[s + 1]!]!];
    const key = Math.min(a, b) * 2 ** 26 + Math.max(a, b);
    if (a === b || known.has(key)) continue;
    known.add(key);
    lines.push(a);
    lines.push(b);
  }
  const ends = Uint32Array.from(lines.take());
  const { points, triangles } = triangulate(flat, ends);
  const out = new Float64Array((points.length / 2) * 3);
  out.set(xyz);
  if (ends.length > 0) heightsOnLines(points, xyz, ends, out, unit_m, faults);
  return { xyz: out, triangles };
}

/** Gives points where lines cross the heights of these, and tells of lines that go through a point at another height. */
function heightsOnLines(
  points: Float64Array,
  xyz: Float64Array,
  ends: Uint32Array,
  out: Float64Array,
  unit_m: number,
  faults: Fault[],
): void {
  const boxes = new Flatbush(ends.length / 2);
  let most = 0;
  for (let k = 0; k < ends.length; k += 2) {
    const [a, b] = [3 * ends[k]!, 3 * ends[k + 1]!];
    const box = [
      Math.min(xyz[a]!, xyz[b]!),
      Math.min(xyz[a + 1]!, xyz[b + 1]!),
      Math.max(xyz[a]!, xyz[b]!),
      Math.max(xyz[a + 1]!, xyz[b + 1]!),
    ];
    boxes.add(box[0]!, box[1]!, box[2]!, box[3]!);
    for (const v of box) most = Math.max(most, Math.abs(v));
  }
  boxes.finish();
  const reach = NODED * NOISE * most;
  const given = xyz.length / 3;
  for (let p = 0; p < points.length / 2; p++) {
    const [x, y] = [points[2 * p]!, points[2 * p + 1]!];
    const heights: number[] = [];
    for (const line of boxes.search(x - reach, y - reach, x + reach, y + reach)) {
      const [a, b] = [3 * ends[2 * line]!, 3 * ends[2 * line + 1]!];
      if (a === 3 * p || b === 3 * p || segmentDistance(xyz[a]!, xyz[a + 1]!, xyz[b]!, xyz[b + 1]!, x, y) > reach) continue;
      const [dx, dy] = [xyz[b]! - xyz[a]!, xyz[b + 1]! - xyz[a + 1]!];
      const along = ((x - xyz[a]!) * dx + (y - xyz[a + 1]!) * dy) / (dx * dx + dy * dy);
      heights.push(xyz[a + 2]! + along * (xyz[b + 2]! - xyz[a + 2]!));
    }
    if (p < given) {
      const off = heights.reduce((m, z) => Math.max(m, Math.abs(z - xyz[3 * p + 2]!)), 0) * unit_m;
      if (off > HEIGHTS_DIFFER_M) faults.push({ kind: 'two-heights', at: [x, y], size: off, about: '' });
      continue;
    }
    out.set([x, y, heights.reduce((n, z) => n + z, 0) / heights.length], 3 * p);
    const apart = (Math.max(...heights) - Math.min(...heights)) * unit_m;
    if (apart > HEIGHTS_DIFFER_M) faults.push({ kind: 'breaklines-cross', at: [x, y], size: apart, about: '' });
  }
}

/** Noding bends lines by some of what numbers lose, each time that they go through a point. */
const NODED = 16;

/** A surface without triangles at its edge that have a long side there; what is within stays. */
function trimmed(tin: Tin, longest: number): Tin {
  if (longest === 0) return tin;
  const { xyz, triangles } = tin;
  const twins = twinsOf(tin);
  const gone = new Uint8Array(triangles.length / 3);
  const edge = [...twins.keys()].filter((s) => twins[s] === -1);
  for (let s = edge.pop(); s !== undefined; s = edge.pop()) {
    const t = Math.floor(s / 3);
    const [a, b] = [3 * triangles[s]!, 3 * triangles[nextSide(s)]!];
    if (gone[t] || Math.hypot(xyz[b]! - xyz[a]!, xyz[b + 1]! - xyz[a + 1]!) <= longest) continue;
    gone[t] = 1;
    for (let own = 3 * t; own < 3 * t + 3; own++) if (twins[own]! >= 0) edge.push(twins[own]!);
  }
  return { xyz, triangles: triangles.filter((_, k) => !gone[Math.floor(k / 3)]) };
}

/** Corners that are higher or lower than all their neighbours by more than a spike may be. */
function spikesOf({ xyz, triangles }: Tin, spike: number, unit_m: number, faults: Fault[]): void {
  if (spike === 0) return;
  const low = new Float64Array(xyz.length / 3).fill(Infinity),
    high = new Float64Array(xyz.length / 3).fill(-Infinity);
  for (let s = 0; s < triangles.length; s++) {
    const [a, b] = [triangles[s]!, triangles[nextSide(s)]!];
    for (const [n, m] of [
      [a, b],
      [b, a],
    ] as const) {
      low[n] = Math.min(low[n]!, xyz[3 * m + 2]!);
      high[n] = Math.max(high[n]!, xyz[3 * m + 2]!);
    }
  }
  for (let n = 0; n < low.length; n++) {
    const z = xyz[3 * n + 2]!;
    const off = Math.max(z - high[n]!, low[n]! - z);
    if (off > spike && Number.isFinite(off))
      faults.push({ kind: 'spike-height', at: [xyz[3 * n]!, xyz[3 * n + 1]!], size: off * unit_m, about: '' });
  }
}

const flatOf = ({ xyz, triangles }: Tin): number => {
  let flat = 0;
  for (let t = 0; t < triangles.length; t += 3) {
    const z = xyz[3 * triangles[t]! + 2]!;
    if (z === xyz[3 * triangles[t + 1]! + 2] && z === xyz[3 * triangles[t + 2]! + 2]) flat++;
  }
  return flat;
};
