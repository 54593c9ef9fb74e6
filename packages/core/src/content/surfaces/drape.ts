import { nextSide, type Ground } from './tin';

/**
 * The vertices of a line that lies on a surface: its own, and one where it goes over a side of a triangle.
 * @param xy its vertices, x and y by twos
 * @returns x, y and z by threes; z is NaN outside the surface
 */
export function onGround(ground: Ground, xy: ArrayLike<number>): number[] {
  const out: number[] = [];
  for (let k = 0; k + 1 < xy.length; k += 2) {
    const [x, y] = [xy[k]!, xy[k + 1]!];
    out.push(x, y, ground.at(x, y));
    if (k + 3 >= xy.length) continue;
    for (const { t, z } of sidesMet(ground, x, y, xy[k + 2]!, xy[k + 3]!)) out.push(x + t * (xy[k + 2]! - x), y + t * (xy[k + 3]! - y), z);
  }
  return out;
}

/** Two sides that are met no farther apart than this share of a way are met in one place: where they meet. */
const APART = 1e-9;

/** Where a way goes over sides of triangles, in order, how far along it (0 to 1, neither included) and at what height. */
function sidesMet(ground: Ground, x1: number, y1: number, x2: number, y2: number): { t: number; z: number }[] {
  const { xyz, triangles } = ground.tin;
  const met: { t: number; z: number }[] = [];
  const [dx, dy] = [x2 - x1, y2 - y1];
  for (const triangle of ground.within(Math.min(x1, x2), Math.min(y1, y2), Math.max(x1, x2), Math.max(y1, y2)))
    for (let s = 3 * triangle; s < 3 * triangle + 3; s++) {
      const [a, b] = [3 * triangles[s]!, 3 * triangles[nextSide(s)]!];
      const [ex, ey] = [xyz[b]! - xyz[a]!, xyz[b + 1]! - xyz[a + 1]!];
      const across = dx * ey - dy * ex;
      if (across === 0) continue;
      const [fx, fy] = [xyz[a]! - x1, xyz[a + 1]! - y1];
      const t = (fx * ey - fy * ex) / across,
        on = (fx * dy - fy * dx) / across;
      if (t > APART && t < 1 - APART && on >= 0 && on <= 1) met.push({ t, z: xyz[a + 2]! + on * (xyz[b + 2]! - xyz[a + 2]!) });
    }
  met.sort((a, b) => a.t - b.t);
  return met.filter((m, k) => k === 0 || m.t - met[k - 1]!.t > APART);
}
