import { type Bounds, emptyBounds, featureBounds, isEmpty } from './bounds';
import { turn } from './turn';
import { ringsHold } from './ring-holds';
import { type FeatureBatch, LINE, partRanges, partsOf, POLYGON, NO_GEOMETRY, vertexRange } from '../model/batch';

/** A piece of the plane: a box, and where there are rings, what lies inside them (even-odd). */
export interface Region {
  box: Bounds;
  /** x, y of each vertex by turns; the first repeated at the end. Empty for the whole box. */
  rings: readonly (readonly number[])[];
}

/** Whether bounds have a point in common, edges counted. */
export const meets = (a: Bounds, b: Bounds): boolean => !isEmpty(a) && a[0] <= b[2] && a[2] >= b[0] && a[1] <= b[3] && a[3] >= b[1];

type Place = readonly [number, number];

/** The edges of a region, and how near to one of them a place counts as being on it: what is left of rounding. */
interface Outline {
  box: Bounds;
  rings: readonly (readonly number[])[];
  near: number;
}

const boxRing = ([x0, y0, x1, y1]: Bounds): number[] => [x0, y0, x1, y0, x1, y1, x0, y1, x0, y0];

function outlineOf({ box, rings }: Region): Outline {
  return { box, rings: rings.length > 0 ? rings : [boxRing(box)], near: 2 ** -49 * Math.max(...box.map(Math.abs)) };
}

/** 1 inside (even-odd over all rings), 0 on an edge, -1 outside. */
function sideOf({ box, rings, near }: Outline, x: number, y: number): -1 | 0 | 1 {
  if (x < box[0] - near || x > box[2] + near || y < box[1] - near || y > box[3] + near) return -1;
  for (const ring of rings)
    for (let k = 0; k + 3 < ring.length; k += 2) if (isOn(near, x, y, ring[k]!, ring[k + 1]!, ring[k + 2]!, ring[k + 3]!)) return 0;
  return ringsHold(rings, x, y) ? 1 : -1;
}

function isOn(near: number, x: number, y: number, x1: number, y1: number, x2: number, y2: number): boolean {
  if (x < Math.min(x1, x2) - near || x > Math.max(x1, x2) + near || y < Math.min(y1, y2) - near || y > Math.max(y1, y2) + near)
    return false;
  return Math.abs((x2 - x1) * (y - y1) - (y2 - y1) * (x - x1)) <= near * (Math.abs(x2 - x1) + Math.abs(y2 - y1));
}

const holds = (box: Bounds, own: Bounds): boolean => own[0] >= box[0] && own[1] >= box[1] && own[2] <= box[2] && own[3] <= box[3];

/**
 * Whether some of record `i` lies in the region or on its edge. Curves must have been cut into chords before.
 * Source: OGC 06-103r4 (Simple Features), section 6.1.15.3, intersects.
 */
export function intersects(batch: FeatureBatch, i: number, region: Region): boolean {
  const own = emptyBounds();
  featureBounds(batch, i, own);
  // what has no place is not outside
  if (isEmpty(own)) return batch.kinds[i] === NO_GEOMETRY;
  if (!meets(own, region.box)) return false;
  if (region.rings.length === 0 && holds(region.box, own)) return true;
  const outline = outlineOf(region);
  const { coords } = batch;
  const [start, end] = vertexRange(batch, i);
  for (let v = start; v < end; v++) if (sideOf(outline, coords[3 * v]!, coords[3 * v + 1]!) >= 0) return true;
  for (const [a, b] of sides(batch, i)) {
    if (!meets([Math.min(a[0], b[0]), Math.min(a[1], b[1]), Math.max(a[0], b[0]), Math.max(a[1], b[1])], region.box)) continue;
    for (const ring of outline.rings)
      for (let k = 0; k + 3 < ring.length; k += 2) if (crossing(a, b, [ring[k]!, ring[k + 1]!], [ring[k + 2]!, ring[k + 3]!])) return true;
  }
  // a region that lies wholly in an area
  if (batch.kinds[i] !== POLYGON) return false;
  const area: Outline = { box: own, rings: partsOf(batch, i), near: outline.near };
  return outline.rings.some((ring) => sideOf(area, ring[0]!, ring[1]!) >= 0);
}

/**
 * Whether record `i` lies in the region with all that it has, and not on its edge alone.
 * Source: OGC 06-103r4 (Simple Features), section 6.1.15.3, within.
 */
export function within(batch: FeatureBatch, i: number, region: Region): boolean {
  const own = emptyBounds();
  featureBounds(batch, i, own);
  if (isEmpty(own) || !holds(region.box, own)) return false;
  const outline = outlineOf(region);
  const { coords } = batch;
  const [start, end] = vertexRange(batch, i);
  const kind = batch.kinds[i]!;
  if (kind !== LINE && kind !== POLYGON) {
    let inner = false;
    for (let v = start; v < end; v++) {
      const side = sideOf(outline, coords[3 * v]!, coords[3 * v + 1]!);
      if (side < 0) return false;
      inner ||= side > 0;
    }
    // a region that is a place alone has no inside but itself
    return inner || (region.box[0] === region.box[2] && region.box[1] === region.box[3]);
  }
  // between the places where it meets the edges a side lies on one side of them
  let inner = kind === POLYGON;
  for (const [a, b] of sides(batch, i)) {
    const cuts = [0, 1];
    for (const ring of outline.rings)
      for (let k = 0; k + 3 < ring.length; k += 2) meetings(a, b, [ring[k]!, ring[k + 1]!], [ring[k + 2]!, ring[k + 3]!], cuts);
    cuts.sort((s, t) => s - t);
    for (let k = 1; k < cuts.length; k++) {
      if (cuts[k] === cuts[k - 1]) continue;
      const t = (cuts[k]! + cuts[k - 1]!) / 2;
      const side = sideOf(outline, a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t);
      if (side < 0) return false;
      inner ||= side > 0;
    }
  }
  if (kind === LINE) return inner;
  // an edge of the region within the area leaves some of the area outside
  const area: Outline = { box: own, rings: partsOf(batch, i), near: outline.near };
  return !outline.rings.some((ring) => {
    for (let k = 0; k + 3 < ring.length; k += 2)
      if (sideOf(area, ring[k]!, ring[k + 1]!) > 0 || sideOf(area, (ring[k]! + ring[k + 2]!) / 2, (ring[k + 1]! + ring[k + 3]!) / 2) > 0)
        return true;
    return false;
  });
}

function* sides({ coords, ...batch }: FeatureBatch, i: number): Generator<[Place, Place]> {
  for (const [s, e] of partRanges({ coords, ...batch }, i))
    for (let v = s; v + 1 < e; v++)
      yield [
        [coords[3 * v]!, coords[3 * v + 1]!],
        [coords[3 * v + 3]!, coords[3 * v + 4]!],
      ];
}

const turnAt = (p: Place, q: Place, r: Place): number => turn(p[0], p[1], q[0], q[1], r[0], r[1]);

function crossing(a: Place, b: Place, c: Place, d: Place): boolean {
  const [ca, cb, ac, ad] = [turnAt(c, d, a), turnAt(c, d, b), turnAt(a, b, c), turnAt(a, b, d)].map(Math.sign) as [
    number,
    number,
    number,
    number,
  ];
  if (ca === 0 && cb === 0 && ac === 0 && ad === 0)
    return (
      Math.max(Math.min(a[0], b[0]), Math.min(c[0], d[0])) <= Math.min(Math.max(a[0], b[0]), Math.max(c[0], d[0])) &&
      Math.max(Math.min(a[1], b[1]), Math.min(c[1], d[1])) <= Math.min(Math.max(a[1], b[1]), Math.max(c[1], d[1]))
    );
  return ac * ad <= 0 && ca * cb <= 0;
}

/** Adds where on a side, 0 at its beginning and 1 at its end, it meets another one. */
function meetings(a: Place, b: Place, c: Place, d: Place, out: number[]): void {
  const along = (p: Place): number =>
    ((p[0] - a[0]) * (b[0] - a[0]) + (p[1] - a[1]) * (b[1] - a[1])) / ((b[0] - a[0]) ** 2 + (b[1] - a[1]) ** 2);
  const add = (t: number): void => void (t > 0 && t < 1 && out.push(t));
  if (!crossing(a, b, c, d)) return;
  const [ac, ad] = [turnAt(a, b, c), turnAt(a, b, d)];
  if (ac === ad) {
    add(along(c));
    add(along(d));
  } else add(along([c[0] + ((d[0] - c[0]) * ac) / (ac - ad), c[1] + ((d[1] - c[1]) * ac) / (ac - ad)]));
}
