import { type Crs, isPlane, ownSigns } from '@pontrel/core/crs/crs';
import { fieldText, valueText } from '@pontrel/core/filter/expected';
import { GEOMETRY, RECORD } from '@pontrel/core/filter/parse';
import type { RecordView } from '@pontrel/contract/crossing';

/** What picked records are known by when it is no field of theirs: their number in the source. */
export const BY_NUMBER = '';

/** Records that can be picked by hand. */
export const MOST_PICKED = 2000;

type Corner = readonly [number, number];

/** Decimals that a place picked on the map gets: a millimetre or so. */
const decimalsOf = (frame: Crs): number => (isPlane(frame) ? 3 : 8);

/** A box on the map as a filter, in the frame's own signs. */
export function boxFilter(frame: Crs, a: Corner, b: Corner): string {
  const [sx, sy] = ownSigns(frame),
    decimals = decimalsOf(frame);
  const xs = [sx * a[0], sx * b[0]].sort((p, q) => p - q),
    ys = [sy * a[1], sy * b[1]].sort((p, q) => p - q);
  return `S_INTERSECTS(${GEOMETRY}, BBOX(${[xs[0]!, ys[0]!, xs[1]!, ys[1]!].map((v) => Number(v.toFixed(decimals))).join(', ')}))`;
}

/** An outline on the map as a filter. */
export function outlineFilter(frame: Crs, corners: readonly Corner[]): string {
  const [sx, sy] = ownSigns(frame),
    decimals = decimalsOf(frame);
  const ring = [...corners, corners[0]!].map(([x, y]) => `${Number((sx * x).toFixed(decimals))} ${Number((sy * y).toFixed(decimals))}`);
  return `S_INTERSECTS(${GEOMETRY}, POLYGON((${ring.join(', ')})))`;
}

/** Picked records as a filter, by a field or by their number. */
export function picksFilter(records: Iterable<Pick<RecordView, 'place' | 'attributes'>>, by: string): string {
  const values = [...records].map((r) => (by === BY_NUMBER ? r.place : r.attributes[by]!));
  const list = [...new Set(values)].map((v) => valueText(v!)).join(', ');
  return `${by === BY_NUMBER ? `${RECORD}()` : fieldText(by)} IN (${list})`;
}

/** Fields that tell the picked records apart: each has a value of its own. */
export function tellingFields(records: readonly Pick<RecordView, 'attributes'>[], fields: readonly string[]): string[] {
  return fields.filter((f) => {
    const values = new Set(records.map((r) => r.attributes[f] ?? null));
    return !values.has(null) && values.size === records.length;
  });
}
