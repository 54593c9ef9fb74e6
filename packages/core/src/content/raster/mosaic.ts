import type { Bounds } from '../../geometry/bounds';
import { extentOfGrid, pixelSize } from '../../raster/pixel-grid';
import { gridOf, type ImageMember } from './profile';

/** Overlaps that are looked at, and gaps that are told. */
const MOST_OVERLAPS = 400,
  MOST_GAPS = 50;

/** Pixels by which tiles that only touch may seem to overlap, or to lie apart. */
const SLACK_PX = 0.5;

/**
 * Where tiles lie over each other, and where between them there is none: what no tile covers and what does not reach the outside, or is
 * narrower than a quarter of a tile. Tiles count by their bounds.
 */
export function mosaicLayout(members: readonly ImageMember[]): {
  overlaps: { a: ImageMember; b: ImageMember; box: Bounds }[];
  gaps: Bounds[];
} {
  const boxes = members.map((m) => extentOfGrid(gridOf(m)));
  const slack = SLACK_PX * Math.min(...members.map((m) => Math.min(...pixelSize(gridOf(m)))));
  const overlaps: { a: ImageMember; b: ImageMember; box: Bounds }[] = [];
  for (let i = 0; i < boxes.length; i++)
    for (let k = i + 1; k < boxes.length && overlaps.length < MOST_OVERLAPS; k++) {
      const box = shared(boxes[i]!, boxes[k]!);
      if (box[2] - box[0] > slack && box[3] - box[1] > slack) overlaps.push({ a: members[i]!, b: members[k]!, box });
    }
  return { overlaps, gaps: gapsBetween(boxes, slack).slice(0, MOST_GAPS) };
}

const shared = (a: Bounds, b: Bounds): Bounds => [Math.max(a[0], b[0]), Math.max(a[1], b[1]), Math.min(a[2], b[2]), Math.min(a[3], b[3])];

function gapsBetween(boxes: readonly Bounds[], slack: number): Bounds[] {
  const xs = edges(
      boxes.flatMap((b) => [b[0], b[2]]),
      slack,
    ),
    ys = edges(
      boxes.flatMap((b) => [b[1], b[3]]),
      slack,
    );
  const [w, h] = [xs.length - 1, ys.length - 1];
  const covered = new Uint8Array(w * h);
  for (const b of boxes) {
    const [c0, c1, r0, r1] = [nearest(xs, b[0]), nearest(xs, b[2]), nearest(ys, b[1]), nearest(ys, b[3])];
    for (let r = r0; r < r1; r++) covered.fill(1, r * w + c0, r * w + c1);
  }
  const narrow = 0.25 * Math.min(...boxes.map((b) => Math.min(b[2] - b[0], b[3] - b[1])));
  const gaps: Bounds[] = [];
  for (let i = 0; i < covered.length; i++) {
    if (covered[i]) continue;
    const [c0, r0, c1, r1] = filled(covered, w, h, i);
    const box: Bounds = [xs[c0]!, ys[r0]!, xs[c1 + 1]!, ys[r1 + 1]!];
    const inside = c0 > 0 && r0 > 0 && c1 < w - 1 && r1 < h - 1;
    if (inside || Math.min(box[2] - box[0], box[3] - box[1]) < narrow) gaps.push(box);
  }
  return gaps;
}

/** Numbers in order; those nearer to each other than `slack` are one. */
function edges(values: number[], slack: number): number[] {
  values.sort((a, b) => a - b);
  return values.filter((v, k) => k === 0 || v - values[k - 1]! > slack);
}

/** The number of the edge that is nearest to a value. */
function nearest(sorted: readonly number[], value: number): number {
  let k = 0;
  while (k + 1 < sorted.length && Math.abs(sorted[k + 1]! - value) <= Math.abs(sorted[k]! - value)) k++;
  return k;
}

/** Fills what hangs together around a cell. @returns first and last column and row of it: c0, r0, c1, r1 */
function filled(cells: Uint8Array, w: number, h: number, start: number): [number, number, number, number] {
  let [c0, r0, c1, r1] = [w, h, -1, -1];
  const open = [start];
  cells[start] = 1;
  for (let i = open.pop(); i !== undefined; i = open.pop()) {
    const c = i % w,
      r = Math.floor(i / w);
    c0 = Math.min(c0, c);
    c1 = Math.max(c1, c);
    r0 = Math.min(r0, r);
    r1 = Math.max(r1, r);
    for (const [dc, dr] of [
      [1, 0],
      [-1, 0],
      [0, 1],
      [0, -1],
    ] as const) {
      const [x, y] = [c + dc, r + dr];
      const to = y * w + x;
      if (x < 0 || y < 0 || x >= w || y >= h || cells[to]) continue;
      cells[to] = 1;
      open.push(to);
    }
  }
  return [c0, r0, c1, r1];
}
