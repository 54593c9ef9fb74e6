import type { SourceState } from '@pontrel/contract/crossing';
import { isPlane, METRES_PER_DEGREE, metresPerUnit } from '@pontrel/core/crs/crs';
import { lookupCrs } from '@pontrel/core/crs/registry/registry';
import { grouped } from '../components/numbers';

type Extent = readonly [number, number, number, number] | null;

/** "1.24 × 0.86 km" when the source states its unit or its system, else the bare numbers. */
export function realSize(source: SourceState, extent: Extent): string {
  if (!extent) return 'no extent';
  const [w, h] = [extent[2] - extent[0], extent[3] - extent[1]];
  const unit = metresOf(source, (extent[1] + extent[3]) / 2);
  if (unit === null) return `${short(w)} × ${short(h)} units`;
  const [wide, high] = [w * unit[0], h * unit[1]];
  return Math.max(wide, high) >= 100
    ? `${(wide / 1000).toFixed(2)} × ${(high / 1000).toFixed(2)} km`
    : `${wide.toFixed(2)} × ${high.toFixed(2)} m`;
}

/** Metres in one unit, to the east and to the north, at a latitude where the numbers are degrees. */
function metresOf(source: SourceState, latitude: number): [number, number] | null {
  if (source.unit) return [source.unit.metres, source.unit.metres];
  const crs = source.crs?.id ? lookupCrs(source.crs.id) : undefined;
  if (!crs) return null;
  if (isPlane(crs)) return [metresPerUnit(crs, null), metresPerUnit(crs, null)];
  return [METRES_PER_DEGREE * Math.cos((latitude * Math.PI) / 180), METRES_PER_DEGREE];
}

const short = (n: number): string => (Math.abs(n) >= 100 ? grouped(n) : String(Number(n.toPrecision(3))));
