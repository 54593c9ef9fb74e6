import Flatbush from 'flatbush';
import { turn } from '../../geometry/turn';

/** A triangulated surface: one height at every place within its triangles. */
export interface Tin {
  /** x, y and z of the corners, by threes. */
  xyz: Float64Array;
  /** The corners of each triangle, by threes, counter-clockwise. */
  triangles: Uint32Array;
}

/** The other side of each side of the triangles, -1 at the border; side 3t + k of triangle t leads from its corner k to the next. */
export function twinsOf({ triangles }: Pick<Tin, 'triangles'>): Int32Array {
  const twins = new Int32Array(triangles.length).fill(-1);
  const open = new Map<number, number>();
  for (let s = 0; s < triangles.length; s++) {
    const [a, b] = [triangles[s]!, triangles[nextSide(s)]!];
    const other = open.get(b * 2 ** 26 + a);
    if (other === undefined) open.set(a * 2 ** 26 + b, s);
    else {
      twins[s] = other;
      twins[other] = s;
      open.delete(b * 2 ** 26 + a);
    }
  }
  return twins;
}

/** The side after one in its triangle. */
export const nextSide = (s: number): number => (s % 3 === 2 ? s - 2 : s + 1);

/** Finds heights of a surface. */
export class Ground {
  private readonly boxes: Flatbush;
  /** The triangle that answered last: the next place is often in it as well. */
  private last = 0;

  /** @param tin with one triangle at the least */
  constructor(readonly tin: Tin) {
    const { xyz, triangles } = tin;
    this.boxes = new Flatbush(triangles.length / 3);
    for (let t = 0; t < triangles.length; t += 3) {
      const [a, b, c] = [3 * triangles[t]!, 3 * triangles[t + 1]!, 3 * triangles[t + 2]!];
      this.boxes.add(
        Math.min(xyz[a]!, xyz[b]!, xyz[c]!),
        Math.min(xyz[a + 1]!, xyz[b + 1]!, xyz[c + 1]!),
        Math.max(xyz[a]!, xyz[b]!, xyz[c]!),
        Math.max(xyz[a + 1]!, xyz[b + 1]!, xyz[c + 1]!),
      );
    }
    this.boxes.finish();
  }

  /** The height at a place; NaN outside the surface. */
  at(x: number, y: number): number {
    const t = this.triangleAt(x, y);
    return t < 0 ? NaN : heightIn(this.tin, t, x, y);
  }

  /** Numbers of the triangles whose boxes meet a box. */
  within(minx: number, miny: number, maxx: number, maxy: number): number[] {
    return this.boxes.search(minx, miny, maxx, maxy);
  }

  private triangleAt(x: number, y: number): number {
    if (holds(this.tin, this.last, x, y)) return this.last;
    for (const t of this.boxes.search(x, y, x, y)) if (holds(this.tin, t, x, y)) return (this.last = t);
    return -1;
  }
}

/** Whether a triangle has a place within it or on its border. */
function holds({ xyz, triangles }: Tin, t: number, x: number, y: number): boolean {
  for (let s = 3 * t; s < 3 * t + 3; s++) {
    const [a, b] = [3 * triangles[s]!, 3 * triangles[nextSide(s)]!];
    if (turn(xyz[a]!, xyz[a + 1]!, xyz[b]!, xyz[b + 1]!, x, y) < 0) return false;
  }
  return true;
}

/** The height of the plane of a triangle at a place. */
export function heightIn({ xyz, triangles }: Tin, t: number, x: number, y: number): number {
  const [a, b, c] = [3 * triangles[3 * t]!, 3 * triangles[3 * t + 1]!, 3 * triangles[3 * t + 2]!];
  const [x0, y0, z0] = [xyz[a]!, xyz[a + 1]!, xyz[a + 2]!];
  const [ux, uy, uz] = [xyz[b]! - x0, xyz[b + 1]! - y0, xyz[b + 2]! - z0];
  const [vx, vy, vz] = [xyz[c]! - x0, xyz[c + 1]! - y0, xyz[c + 2]! - z0];
  const [px, py] = [x - x0, y - y0];
  const across = ux * vy - uy * vx;
  return z0 + ((px * vy - py * vx) * uz + (ux * py - uy * px) * vz) / across;
}
