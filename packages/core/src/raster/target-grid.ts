import { type Bounds, emptyBounds, grow, isEmpty } from '../geometry/bounds';
import type { MapPoints } from './approximate';
import { gridOver, isNorthUp, type PixelGrid, pixelSize, toGround } from './pixel-grid';

/** A picture with the way of its own numbers into the plane of the target. */
export interface Outlined {
  grid: PixelGrid;
  /** Carries its own numbers into the target's plane, by twos, in place; NaN where there is no image. */
  toTarget: MapPoints;
}

/** Places along a side, and across the inside, by which a picture's outline in the target is found. */
const ALONG = 64,
  ACROSS = 16;

/** Share of a pixel by which grids that are one may differ. */
const SAME = 1e-3;

/** What of the target's plane a picture covers; null where none of it has an image there. */
export function extentInTarget({ grid, toTarget }: Outlined): Bounds | null {
  const { width: w, height: h } = grid;
  const points: number[] = [];
  for (let k = 0; k <= ALONG; k++) {
    const t = k / ALONG;
    points.push(t * w, 0, t * w, h, 0, t * h, w, t * h);
  }
  for (let r = 1; r < ACROSS; r++) for (let c = 1; c < ACROSS; c++) points.push((c * w) / ACROSS, (r * h) / ACROSS);
  const p = Float64Array.from(points);
  toGround(grid, p);
  toTarget(p);
  const box = emptyBounds();
  for (let k = 0; k < p.length; k += 2) if (Number.isFinite(p[k]! + p[k + 1]!)) grow(box, p[k]!, p[k + 1]!);
  return isEmpty(box) ? null : box;
}

/**
 * The pixel size in the target at which a picture neither loses nor invents pixels: the steps along the target's axes that make one pixel of
 * it, in the middle of what they are over the picture.
 * @param square whether both are to be the same, as in a plane
 */
export function nativePixelSize({ grid, toTarget }: Outlined, square: boolean): [number, number] {
  const sizes: [number[], number[]] = [[], []];
  for (let r = 0; r < 5; r++)
    for (let c = 0; c < 5; c++) {
      const u = ((c + 0.5) / 5) * grid.width,
        v = ((r + 0.5) / 5) * grid.height;
      const p = Float64Array.of(u - 0.5, v, u + 0.5, v, u, v - 0.5, u, v + 0.5);
      toGround(grid, p);
      toTarget(p);
      // the Jacobian of target over pixels, and the rows of its inverse
      const [a, b, d, e] = [p[2]! - p[0]!, p[6]! - p[4]!, p[3]! - p[1]!, p[7]! - p[5]!];
      const det = Math.abs(a * e - b * d);
      const x = det / Math.hypot(e, d),
        y = det / Math.hypot(b, a);
      if (!(Number.isFinite(x + y) && x > 0 && y > 0)) continue;
      sizes[0].push(x);
      sizes[1].push(y);
    }
  const middle = (list: number[]): number => list.sort((m, n) => m - n)[list.length >> 1] ?? 1;
  const [x, y] = [middle(sizes[0]), middle(sizes[1])];
  return square ? [Math.sqrt(x * y), Math.sqrt(x * y)] : [x, y];
}

/**
 * The grid of a target that holds several pictures in their own pixels. Where they lie on one grid already, that is kept, so that no value
 * changes.
 * @param same whether the pictures' numbers are those of the target
 * @param size wanted pixel size; the native one of the first picture when absent
 * @param bounds what is wanted of the plane; all that the pictures cover when absent
 * @param aligned whether the edges of the bounds are moved outwards, onto the pixels of the pictures or to multiples of the size
 * @returns null where none of them has an image in the target
 */
export function targetGrid(
  pictures: readonly Outlined[],
  {
    same,
    square,
    size,
    bounds,
    aligned,
  }: {
    same: boolean;
    square: boolean;
    size?: readonly [number, number] | undefined;
    bounds?: Bounds | undefined;
    aligned?: boolean | undefined;
  },
): PixelGrid | null {
  const [first] = pictures as [Outlined];
  if (same && !size && !bounds && pictures.length === 1) return first.grid;
  const common = same && pictures.every((p) => isNorthUp(p.grid) && onGridOf(first.grid, p.grid));
  const wanted = size ?? (common ? pixelSize(first.grid) : nativePixelSize(first, square));
  if (bounds) return gridOver(aligned ? outwards(bounds, wanted, common && !size ? first.grid.map : null) : bounds, wanted);
  const box = emptyBounds();
  for (const picture of pictures) {
    const own = extentInTarget(picture);
    if (own) {
      grow(box, own[0], own[1]);
      grow(box, own[2], own[3]);
    }
  }
  return isEmpty(box) ? null : gridOver(box, wanted);
}

/** Whether the pixels of two north-up grids lie on each other. */
function onGridOf({ map: a }: PixelGrid, { map: b }: PixelGrid): boolean {
  const near = (v: number, size: number): boolean => Math.abs(v / size - Math.round(v / size)) < SAME;
  const equal = (m: number, n: number): boolean => Math.abs(m - n) < 1e-9 * Math.abs(m);
  return equal(a[1], b[1]) && equal(a[5], b[5]) && near(b[0] - a[0], a[1]) && near(b[3] - a[3], a[5]);
}

/** A box grown to whole pixels, counted from the corner of a grid, or from the origin of the plane. */
function outwards(box: Bounds, [dx, dy]: readonly [number, number], from: PixelGrid['map'] | null): Bounds {
  const [x, y] = from ? [from[0], from[3]] : [0, 0];
  const down = (value: number, size: number, origin: number): number => origin + Math.floor((value - origin) / size + SAME) * size;
  const up = (value: number, size: number, origin: number): number => origin + Math.ceil((value - origin) / size - SAME) * size;
  return [down(box[0], dx, x), down(box[1], dy, y), up(box[2], dx, x), up(box[3], dy, y)];
}
