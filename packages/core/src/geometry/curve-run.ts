import type { BatchBuilder } from '../model/batch-builder';
import { bulgeThrough } from './arc';

/** x, y, and z, which is NaN where there is none. */
export type Position = readonly [number, number, number];

/** A line or a ring while it is put together of straight runs and arcs, which meet at a vertex that stands once. */
export class CurveRun {
  private readonly vertices: [number, number, number, number][] = [];

  straight(positions: readonly Position[]): void {
    this.join(positions.map(([x, y, z]) => [x, y, z, 0]));
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
    const out: [number, number, number, number][] = [];
    for (let k = 0; k + 2 < p.length; k += 2) {
      const [a, b, c] = [p[k]!, p[k + 1]!, p[k + 2]!];
      if (a[0] === c[0] && a[1] === c[1]) out.push([...a, 1], [...b, 1]);
      else out.push([...a, bulgeThrough(a[0], a[1], b[0], b[1], c[0], c[1])]);
    }
    out.push([...p.at(-1)!, 0]);
    this.join(out);
  }

  /** A full circle through three positions, from the first on, in the direction in which they come. */
  circle(a: Position, b: Position, c: Position): void {
    const one = bulgeThrough(a[0], a[1], b[0], b[1], c[0], c[1]);
    const sweep = 4 * Math.atan(one),
      rest = Math.sign(sweep) * 2 * Math.PI - sweep;
    this.join([
      [...a, one],
      [...c, Math.tan(rest / 4)],
      [...a, 0],
    ]);
  }

  /** Another run, the other way round where it is so wanted: its bulges stand with the vertex where their segment then begins. */
  add({ vertices }: CurveRun, turned: boolean): void {
    this.join(
      turned
        ? vertices.map((_, k) => {
            const at = vertices.length - 1 - k;
            const [x, y, z] = vertices[at]!;
            return [x, y, z, at > 0 ? -vertices[at - 1]![3] : 0];
          })
        : vertices,
    );
  }

  /** Puts it into the record at hand as one part, where it has a vertex. */
  put(out: BatchBuilder): void {
    for (const [x, y, z, bulge] of this.vertices) out.vertex(x, y, z, bulge);
    if (this.vertices.length > 0) out.endPart();
  }

  private join(more: readonly (readonly [number, number, number, number])[]): void {
    const last = this.vertices.at(-1),
      first = more[0];
    if (last && first && last[0] === first[0] && last[1] === first[1]) this.vertices.pop();
    for (const v of more) this.vertices.push([...v]);
  }
}
