import { type Bounds, emptyBounds, featureBounds, isEmpty } from './bounds';
import { ringHolds } from './ring-holds';
import { eachPart, type FeatureBatch, POLYGON, ROW, vertexRange } from '../model/batch';

/** A piece of the plane: a box, and where there are rings, what lies inside them (even-odd). */
export interface Region {
  box: Bounds;
  /** x, y of each vertex by turns; the first repeated at the end. Empty for the whole box. */
  rings: readonly (readonly number[])[];
}

export const meets = (a: Bounds, b: Bounds): boolean => !isEmpty(a) && a[0] <= b[2] && a[2] >= b[0] && a[1] <= b[3] && a[3] >= b[1];

/** Whether some of record `i` lies in the region. Curves must have been cut into chords before. */
export function touches(batch: FeatureBatch, i: number, region: Region): boolean {
  const box = emptyBounds();
  featureBounds(batch, i, box);
  // what has no place is not outside
  if (isEmpty(box)) return batch.kinds[i] === ROW;
  if (!meets(box, region.box)) return false;
  const { coords } = batch;
  const rings = region.rings.length > 0 ? region.rings : [boxRing(region.box)];
  const [start, end] = vertexRange(batch, i);
  for (let v = start; v < end; v++) if (inside(rings, coords[3 * v]!, coords[3 * v + 1]!)) return true;
  let crosses = false;
  eachPart(batch, i, (s, e) => {
    for (let v = s; v + 1 < e && !crosses; v++) {
      const a = [coords[3 * v]!, coords[3 * v + 1]!] as const, b = [coords[3 * v + 3]!, coords[3 * v + 4]!] as const;
      if (!meets([Math.min(a[0], b[0]), Math.min(a[1], b[1]), Math.max(a[0], b[0]), Math.max(a[1], b[1])], region.box)) continue;
      crosses = rings.some((ring) => {
        for (let k = 0; k + 3 < ring.length; k += 2) if (crossing(a, b, [ring[k]!, ring[k + 1]!], [ring[k + 2]!, ring[k + 3]!])) return true;
        return false;
      });
    }
  });
  if (crosses) return true;
  // a region that lies wholly in an area
  if (batch.kinds[i] !== POLYGON) return false;
  const own: number[][] = [];
  eachPart(batch, i, (s, e) => own.push(Array.from({ length: 2 * (e - s) }, (_, k) => coords[3 * (s + (k >> 1)) + (k & 1)]!)));
  return rings.some((ring) => inside(own, ring[0]!, ring[1]!));
}

const boxRing = ([x0, y0, x1, y1]: Bounds): number[] => [x0, y0, x1, y0, x1, y1, x0, y1, x0, y0];

/** Even-odd over all rings. */
const inside = (rings: readonly (readonly number[])[], x: number, y: number): boolean => rings.filter((ring) => ringHolds(ring, 0, ring.length / 2, x, y, 2)).length % 2 === 1;

type Place = readonly [number, number];

function crossing(a: Place, b: Place, c: Place, d: Place): boolean {
  const side = (p: Place, q: Place, r: Place): number => Math.sign((q[0] - p[0]) * (r[1] - p[1]) - (q[1] - p[1]) * (r[0] - p[0]));
  return side(a, b, c) * side(a, b, d) <= 0 && side(c, d, a) * side(c, d, b) <= 0;
}
