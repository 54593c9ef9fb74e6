import { ringsHold } from '../../geometry/ring-holds';
import { Doubles } from '../../model/doubles';
import { NOISE } from '../parcels/node-linework';
import { NodeTable } from '../parcels/node-table';
import type { Tin } from './tin';
import { triangulate } from './triangulate';

/** An area as triangles without heights, by the even-odd rule. @param rings x and y of corners by twos, the first repeated at the end */
export function outlineTin(rings: readonly (readonly number[])[]): Tin {
  let most = 0;
  for (const ring of rings) for (const v of ring) most = Math.max(most, Math.abs(v));
  const table = new NodeTable(Math.max(most * NOISE, Number.MIN_VALUE));
  const sides = new Doubles();
  for (const ring of rings)
    for (let k = 0; k + 3 < ring.length; k += 2) {
      const [a, b] = [table.take(ring[k]!, ring[k + 1]!), table.take(ring[k + 2]!, ring[k + 3]!)];
      if (a === b) continue;
      sides.push(a);
      sides.push(b);
    }
  const { points, triangles } = triangulate(table.all(), Uint32Array.from(sides.take()));
  const xyz = new Float64Array((points.length / 2) * 3);
  for (let n = 0; n < points.length / 2; n++) xyz.set([points[2 * n]!, points[2 * n + 1]!, 0], 3 * n);
  const kept: number[] = [];
  for (let t = 0; t < triangles.length; t += 3) {
    const own = [triangles[t]!, triangles[t + 1]!, triangles[t + 2]!];
    const [x, y] = [0, 1].map((k) => own.reduce((n, p) => n + points[2 * p + k]!, 0) / 3) as [number, number];
    if (ringsHold(rings, x, y)) kept.push(...own);
  }
  return { xyz, triangles: Uint32Array.from(kept) };
}
