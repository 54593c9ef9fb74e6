import { type Crs, northUp } from '../crs/crs';
import { type Bounds, emptyBounds, growAlong, isEmpty } from '../geometry/bounds';
import type { Region } from '../geometry/within';
import { Problem } from '../model/problem';
import { crsOf, routeTo } from '../placement/route';
import type { Deliverable, Recipe } from './recipe';

/** Corners that are set along each side of a ring, so that it keeps its shape in another system. */
const ALONG = 32;

/** What of a target a picture is asked for: bounds, and rings beyond which there is nothing. */
export interface ImageArea {
  bounds: Bounds;
  rings: number[][] | undefined;
}

/**
 * The area of interest of a deliverable that is a picture, in its target.
 * @param region in the frame
 * @throws Problem `area-no-image` when it has none in the target
 */
export function imageArea(recipe: Recipe, deliverable: Deliverable, region: Region, target: Crs): ImageArea {
  const { area, image } = deliverable;
  // a box in the very system of the target is taken as it is
  if (area?.kind === 'box' && recipe.frame?.crs === deliverable.crs) return { bounds: [...area.box], rings: undefined };
  const [minx, miny, maxx, maxy] = region.box;
  const asRings = region.rings.length > 0 ? region.rings : [[minx, miny, maxx, miny, maxx, maxy, minx, maxy]];
  const rings = ringsInTarget(recipe, asRings, target);
  const bounds = emptyBounds();
  for (const ring of rings) growAlong(bounds, ring);
  if (isEmpty(bounds))
    throw new Problem(
      'area-no-image',
      `The area of ${deliverable.name} has no coordinates in ${target.name}. Choose another area or system.`,
    );
  return { bounds, rings: region.rings.length > 0 && image?.outside !== 'stays' ? rings : undefined };
}

/** Rings of the frame in a target, with so many corners that they keep their shape; corners that have no coordinates there are left out. */
export function ringsInTarget(recipe: Recipe, rings: readonly (readonly number[])[], target: Crs): number[][] {
  const frame = northUp(crsOf(recipe.frame!.crs)!);
  const extent = emptyBounds();
  for (const ring of rings) growAlong(extent, ring);
  const { transform } = routeTo({ crs: frame, parameters: { unit_m: null }, extent }, target);
  return rings.map((ring) => {
    const corners = densified(ring);
    transform.apply(corners, 0, corners.length / 2, 2);
    const own: number[] = [];
    for (let k = 0; k < corners.length; k += 2) if (!Number.isNaN(corners[k]! + corners[k + 1]!)) own.push(corners[k]!, corners[k + 1]!);
    return own;
  });
}

function densified(ring: readonly number[]): Float64Array {
  const out = new Float64Array(ring.length * ALONG);
  for (let k = 0, at = 0; k < ring.length; k += 2) {
    const next = (k + 2) % ring.length;
    for (let s = 0; s < ALONG; s++, at += 2) {
      out[at] = ring[k]! + ((ring[next]! - ring[k]!) * s) / ALONG;
      out[at + 1] = ring[k + 1]! + ((ring[next + 1]! - ring[k + 1]!) * s) / ALONG;
    }
  }
  return out;
}
