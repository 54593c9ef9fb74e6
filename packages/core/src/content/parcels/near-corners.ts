import Flatbush from 'flatbush';
import type { Area } from './coverage';

/** A corner that lies close to the outline of another area without being on it. */
export interface NearCorner {
  at: [number, number];
  /** How far from it, in units of the coordinates. */
  apart: number;
  /** The areas: the one whose corner it is, and the one that it nearly meets. */
  areas: [number, number];
}

/**
 * Corners within reach of the outline of an area that they are not part of. Where two corners nearly meet they are one of these, not two.
 * @param reach in units of the coordinates
 * @param noise what lies no farther apart than this lies together
 */
export function nearCorners(areas: readonly Area[], reach: number, noise: number): NearCorner[] {
  const ax: number[] = [],
    of: number[] = [];
  areas.forEach(({ rings }, n) => {
    for (const ring of rings)
      for (let k = 0; k + 3 < ring.length; k += 2) {
        ax.push(ring[k]!, ring[k + 1]!, ring[k + 2]!, ring[k + 3]!);
        of.push(n);
      }
  });
  if (of.length === 0) return [];
  const boxes = new Flatbush(of.length);
  for (let s = 0; s < ax.length; s += 4)
    boxes.add(
      Math.min(ax[s]!, ax[s + 2]!),
      Math.min(ax[s + 1]!, ax[s + 3]!),
      Math.max(ax[s]!, ax[s + 2]!),
      Math.max(ax[s + 1]!, ax[s + 3]!),
    );
  boxes.finish();
  const out: NearCorner[] = [];
  const told = new Set<string>();
  for (let s = 0; s < of.length; s++) {
    const [x, y, own] = [ax[4 * s]!, ax[4 * s + 1]!, of[s]!];
    // of each area that is near, how near
    const near = new Map<number, { apart: number; corner: string }>();
    for (const e of boxes.search(x - reach, y - reach, x + reach, y + reach)) {
      if (of[e] === own) continue;
      const [x1, y1, x2, y2] = [ax[4 * e]!, ax[4 * e + 1]!, ax[4 * e + 2]!, ax[4 * e + 3]!];
      const [dx, dy] = [x2 - x1, y2 - y1];
      const square = dx * dx + dy * dy;
      const t = square === 0 ? 0 : Math.max(0, Math.min(1, ((x - x1) * dx + (y - y1) * dy) / square));
      const [qx, qy] = [x1 + t * dx, y1 + t * dy];
      const apart = Math.hypot(x - qx, y - qy);
      if (apart > reach || (near.get(of[e]!)?.apart ?? Infinity) <= apart) continue;
      near.set(of[e]!, { apart, corner: t === 0 || t === 1 ? `${qx} ${qy}` : '' });
    }
    for (const [other, { apart, corner }] of near) {
      if (apart <= noise) continue;
      const here = `${x} ${y}`;
      const key = corner === '' ? here : [here, corner].sort().join();
      if (told.has(key)) continue;
      told.add(key);
      out.push({ at: [x, y], apart, areas: [own, other] });
    }
  }
  return out;
}
