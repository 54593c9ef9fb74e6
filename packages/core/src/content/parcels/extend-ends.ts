import Flatbush from 'flatbush';
import type { Linework } from './node-linework';

/**
 * What has to be added for loose ends to reach the next line straight on.
 * @param most in units of the coordinates; an end that meets nothing within it stays as it is
 * @returns from each end that is extended to where it meets a line
 */
export function extendEnds({ nodes, edges }: Linework, most: number): { from: [number, number]; to: [number, number] }[] {
  const degree = new Uint32Array(nodes.length / 2);
  for (const n of edges) degree[n]!++;
  const boxes = new Flatbush(edges.length / 2);
  const at = (n: number): [number, number] => [nodes[2 * n]!, nodes[2 * n + 1]!];
  for (let e = 0; e < edges.length; e += 2) {
    const [[ax, ay], [bx, by]] = [at(edges[e]!), at(edges[e + 1]!)];
    boxes.add(Math.min(ax, bx), Math.min(ay, by), Math.max(ax, bx), Math.max(ay, by));
  }
  boxes.finish();
  const out: { from: [number, number]; to: [number, number] }[] = [];
  for (let h = 0; h < edges.length; h++) {
    const end = edges[h]!;
    if (degree[end] !== 1) continue;
    const [from, back] = [at(end), at(edges[h ^ 1]!)];
    const length = Math.hypot(from[0] - back[0], from[1] - back[1]);
    const far: [number, number] = [from[0] + ((from[0] - back[0]) / length) * most, from[1] + ((from[1] - back[1]) / length) * most];
    let nearest = Infinity;
    for (const e of boxes.search(
      Math.min(from[0], far[0]),
      Math.min(from[1], far[1]),
      Math.max(from[0], far[0]),
      Math.max(from[1], far[1]),
    ))
      if (e !== h >> 1) nearest = Math.min(nearest, meetsAt(from, far, at(edges[2 * e]!), at(edges[2 * e + 1]!)));
    if (nearest <= 1) out.push({ from, to: [from[0] + nearest * (far[0] - from[0]), from[1] + nearest * (far[1] - from[1])] });
  }
  return out;
}

/** How far along a way a line is met, as a share of it; Infinity where it is not, or where both run alike. */
function meetsAt(from: [number, number], far: [number, number], a: [number, number], b: [number, number]): number {
  const [dx, dy, ex, ey] = [far[0] - from[0], far[1] - from[1], b[0] - a[0], b[1] - a[1]];
  const across = dx * ey - dy * ex;
  if (across === 0) return Infinity;
  const [fx, fy] = [a[0] - from[0], a[1] - from[1]];
  const along = (fx * ey - fy * ex) / across,
    on = (fx * dy - fy * dx) / across;
  return along > 0 && on >= 0 && on <= 1 ? along : Infinity;
}
