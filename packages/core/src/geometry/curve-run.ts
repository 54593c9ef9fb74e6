import type { BatchBuilder } from '../model/batch-builder';
import { bulgeThrough } from './arc';

/** x, y, z and measure; the latter two are NaN where there is none, and the measure may be left out. */
export type Position = readonly [x: number, y: number, z: number, m?: number];

/** x, y, z, the bulge of the segment that begins there, and the measure. */
type Vertex = readonly [number, number, number, number, number];

const vertexOf = ([x, y, z, m = NaN]: Position, bulge: number): Vertex => [x, y, z, bulge, m];

/** Whether a height or a measure halfway along an arc is what its ends say. A part in 10^9 of rounding is allowed. */
const isEven = (from: number, by: number, to: number, share: number): boolean =>
  Number.isNaN(by) ? Number.isNaN(from) || Number.isNaN(to) : Math.abs(from + (to - from) * share - by) <= 1e-9 * (1 + Math.abs(by));

/** A line or a ring while it is put together of straight runs and arcs, which meet at a vertex that stands once. */
export class CurveRun {
  private readonly vertices: Vertex[] = [];

  straight(positions: readonly Position[]): void {
    this.join(positions.map((p) => vertexOf(p, 0)));
  }

  /**
   * Arcs one after the other, each from the position where the one before ended, by way of the next, to the one after; their
   * number is odd and at least three. A single arc that ends where it begins is a full circle, whose second position lies opposite.
   * Source: ISO/IEC 13249-3, as OGC 06-103r4 has it in clause 6.1.8 (CircularString); OGC 07-036, clause 10.4.7.5.
   * @throws RangeError for another number
   */
  arcs(p: readonly Position[]): void {
    if (p.length < 3 || p.length % 2 === 0)
      throw new RangeError(`arcs have ${p.length} positions, where three, five, seven ... are needed`);
    const out: Vertex[] = [];
    for (let k = 0; k + 2 < p.length; k += 2) {
      const [a, b, c] = [p[k]!, p[k + 1]!, p[k + 2]!];
      if (a[0] === c[0] && a[1] === c[1]) out.push(vertexOf(a, 1), vertexOf(b, 1));
      else out.push(...arcThrough(a, b, c));
    }
    out.push(vertexOf(p.at(-1)!, 0));
    this.join(out);
  }

  /** A full circle through three positions, from the first on, in the direction in which they come. */
  circle(a: Position, b: Position, c: Position): void {
    const one = bulgeThrough(a[0], a[1], b[0], b[1], c[0], c[1]);
    const sweep = 4 * Math.atan(one),
      rest = Math.sign(sweep) * 2 * Math.PI - sweep;
    this.join([vertexOf(a, one), vertexOf(c, Math.tan(rest / 4)), vertexOf(a, 0)]);
  }

  /** Another run, the other way round where it is so wanted: its bulges stand with the vertex where their segment then begins. */
  add({ vertices }: CurveRun, turned: boolean): void {
    this.join(
      turned
        ? vertices.map((_, k) => {
            const at = vertices.length - 1 - k;
            const [x, y, z, , m] = vertices[at]!;
            return [x, y, z, at > 0 ? -vertices[at - 1]![3] : 0, m];
          })
        : vertices,
    );
  }

  /** Puts it into the record at hand as one part, where it has a vertex. */
  put(out: BatchBuilder): void {
    for (const [x, y, z, bulge, m] of this.vertices) out.vertex(x, y, z, bulge, m);
    if (this.vertices.length > 0) out.endPart();
  }

  private join(more: readonly Vertex[]): void {
    const last = this.vertices.at(-1),
      first = more[0];
    if (last && first && last[0] === first[0] && last[1] === first[1]) this.vertices.pop();
    for (const v of more) this.vertices.push(v);
  }
}

/**
 * An arc from `a` by way of `b` to `c`, without its end: one piece, or two that meet at `b` where that has a height or a measure which its
 * ends do not say.
 */
function arcThrough(a: Position, b: Position, c: Position): Vertex[] {
  const whole = bulgeThrough(a[0], a[1], b[0], b[1], c[0], c[1]);
  // the angle at c over the piece from a to b is half of what the piece takes of the circle
  const sweep = 4 * Math.atan(whole);
  const first = 2 * Math.abs(Math.atan2(cross(c, a, b), dot(c, a, b)));
  const [before, after] = [Math.hypot(b[0] - a[0], b[1] - a[1]), Math.hypot(c[0] - b[0], c[1] - b[1])];
  const share = sweep === 0 ? before / (before + after) : Math.min(1, first / Math.abs(sweep));
  if (isEven(a[2], b[2], c[2], share) && isEven(a[3] ?? NaN, b[3] ?? NaN, c[3] ?? NaN, share)) return [vertexOf(a, whole)];
  const sign = Math.sign(whole);
  return [vertexOf(a, sign * Math.tan(first / 4)), vertexOf(b, sign * Math.tan((Math.abs(sweep) - first) / 4))];
}

const cross = (o: Position, p: Position, q: Position): number => (p[0] - o[0]) * (q[1] - o[1]) - (p[1] - o[1]) * (q[0] - o[0]);
const dot = (o: Position, p: Position, q: Position): number => (p[0] - o[0]) * (q[0] - o[0]) + (p[1] - o[1]) * (q[1] - o[1]);
