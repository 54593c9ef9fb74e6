import type { Bounds } from './bounds';

/**
 * The pieces of a line that lie inside a box. `line` holds x, y pairs; each piece is such a list too.
 * Source: Y. Liang and B. Barsky, "A new concept and method for line clipping", ACM TOG 3 (1984).
 */
export function clipLine(line: readonly number[], box: Bounds): number[][] {
  const pieces: number[][] = [];
  let open: number[] | null = null;
  for (let i = 0; i + 3 < line.length; i += 2) {
    const x1 = line[i]!,
      y1 = line[i + 1]!,
      x2 = line[i + 2]!,
      y2 = line[i + 3]!;
    const dx = x2 - x1,
      dy = y2 - y1;
    let enter = 0,
      leave = 1;
    const inside = [
      [-dx, x1 - box[0]],
      [dx, box[2] - x1],
      [-dy, y1 - box[1]],
      [dy, box[3] - y1],
    ].every(([p, q]) => {
      if (p === 0) return q! >= 0;
      const t = q! / p!;
      if (p! < 0) enter = Math.max(enter, t);
      else leave = Math.min(leave, t);
      return enter <= leave;
    });
    if (!inside) {
      open = null;
      continue;
    }
    if (!open || enter > 0) pieces.push((open = [x1 + enter * dx, y1 + enter * dy]));
    open.push(x1 + leave * dx, y1 + leave * dy);
    if (leave < 1) open = null;
  }
  return pieces;
}

/**
 * A ring cut to a box; empty when nothing of it is inside. Where a ring leaves the box and comes back, its pieces stay
 * joined along the edge of the box. Source: I. Sutherland and G. Hodgman, "Reentrant polygon clipping", CACM 17 (1974).
 */
export function clipRing(ring: readonly number[], box: Bounds): number[] {
  let points: readonly number[] = ring;
  for (let side = 0; side < 4 && points.length > 0; side++) points = cutSide(points, side % 2, box[side]!, side < 2 ? 1 : -1);
  return [...points];
}

/** Keeps what is on the inner side of one edge of the box; `axis` 0 is x, `sign` 1 when inside is the greater side. */
function cutSide(points: readonly number[], axis: number, limit: number, sign: number): number[] {
  const out: number[] = [];
  const n = points.length / 2;
  for (let i = 0; i < n; i++) {
    const j = (i + n - 1) % n;
    const a = (points[2 * j + axis]! - limit) * sign;
    const b = (points[2 * i + axis]! - limit) * sign;
    if (a >= 0 !== b >= 0) {
      const t = a / (a - b);
      out.push(points[2 * j]! + t * (points[2 * i]! - points[2 * j]!), points[2 * j + 1]! + t * (points[2 * i + 1]! - points[2 * j + 1]!));
    }
    if (b >= 0) out.push(points[2 * i]!, points[2 * i + 1]!);
  }
  return out;
}
