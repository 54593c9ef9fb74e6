import type { SourceState } from '@pontrel/contract/crossing';
import { grouped } from '../parts/numbers';

type Extent = readonly [number, number, number, number] | null;

/** "1.24 × 0.86 km" when the source states its unit, else the bare numbers. */
export function realSize(source: SourceState, extent: Extent): string {
  if (!extent) return 'no extent';
  const metres = source.unit?.metres ?? null;
  const [w, h] = [extent[2] - extent[0], extent[3] - extent[1]];
  if (metres === null) return `${short(w)} × ${short(h)} units`;
  const largest = Math.max(w, h) * metres;
  return largest >= 100 ? `${(w * metres / 1000).toFixed(2)} × ${(h * metres / 1000).toFixed(2)} km` : `${(w * metres).toFixed(2)} × ${(h * metres).toFixed(2)} m`;
}

const short = (n: number): string => (Math.abs(n) >= 100 ? grouped(n) : String(Number(n.toPrecision(3))));
