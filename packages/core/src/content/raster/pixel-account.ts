import type { Watch } from '../../io/bytes';
import type { ImageInfo, PixelWindow } from '../../model/raster';
import { MOST_OFF_PX, sourcePositions } from '../../raster/approximate';
import { awayFrom, isNearer } from '../../raster/seams';
import { giveBack } from '../../raster/room-for-positions';
import { inverseMap, type PixelGrid, through, toGround } from '../../raster/pixel-grid';
import type { ImageReader } from '../../raster/warp';
import type { AccountRow, LeftBehind } from '../account';
import { piecesOf } from './expected';
import { ahead, type PieceWork } from './piece-work';
import type { ImagePlan, PlannedImage } from './plan';

/** What becomes of a pixel of a source; a number of this list stands for it. */
const FATES = ['kept', 'covered', 'outside', 'nodata', 'clipped', 'no-image', 'edge', 'lost'] as const;
type Fate = (typeof FATES)[number];
const [KEPT, COVERED, OUTSIDE, NODATA, CLIPPED, NO_IMAGE, EDGE, LOST] = FATES.map((_, k) => k) as [
  number,
  number,
  number,
  number,
  number,
  number,
  number,
  number,
];

const LEFT: Record<Exclude<Fate, 'kept' | 'lost'>, { by: LeftBehind['by']; said(n: string): string }> = {
  covered: { by: 'rule', said: (n) => `${n} pixels that another picture covers` },
  outside: { by: 'you', said: (n) => `${n} pixels outside the wanted area` },
  nodata: { by: 'reader', said: (n) => `${n} pixels without a value` },
  clipped: { by: 'rule', said: (n) => `${n} pixels beyond the line to which a drawing cuts the picture` },
  'no-image': { by: 'system', said: (n) => `${n} pixels where the target system has no coordinates` },
  edge: { by: 'rule', said: (n) => `${n} pixels at an edge, in a pixel of the target whose centre lies beyond it` },
};

const grouped = (n: number): string => String(n).replace(/\B(?=(\d{3})+$)/g, ' ');

/**
 * What became of every pixel of every source: kept, covered by another picture, outside, without a value. A pixel is only kept where the
 * written picture, read back, has a value at its centre; one that should have and has not is lost.
 *
 * @param work looks at pieces of the sources and at what was written
 */
export async function pixelAccount(plan: ImagePlan, work: PieceWork, watch: Watch): Promise<AccountRow[]> {
  const rows: AccountRow[] = [];
  for (const [k, source] of plan.sources.entries()) {
    if (source.sheet) continue;
    const { info } = source.image;
    const counts = new Float64Array(FATES.length);
    const count = (fate: Fate): number => counts[FATES.indexOf(fate)]!;
    const pieces = piecesOf(info.width, info.height);
    for await (const [, own] of ahead(pieces, work.atOnce, (window) => work.fates(k, window))) {
      watch.check();
      own.forEach((n, fate) => (counts[fate] = counts[fate]! + n));
    }
    const left = (Object.keys(LEFT) as (keyof typeof LEFT)[])
      .filter((fate) => count(fate) > 0)
      .map((fate): LeftBehind => {
        const { by, said } = LEFT[fate];
        return { reason: fate, by, count: count(fate), message: said(grouped(count(fate))), locations: [] };
      });
    rows.push({
      source: source.source,
      layer: source.name === source.source ? 'image' : source.name,
      read: info.width * info.height,
      crossed: count('kept'),
      left,
      changed: [],
      missing: count('lost'),
    });
  }
  return rows;
}

/** How many pixels of a window of a source met each fate. @param k the number of the source @param shown the written picture */
export async function fateCounts(plan: ImagePlan, k: number, shown: ImageReader, window: PixelWindow): Promise<number[]> {
  const counts = FATES.map(() => 0);
  for (const fate of await fatesOf(plan, plan.sources[k]!, othersOver(plan, k), shown, window)) counts[fate] = counts[fate]! + 1;
  return counts;
}

/** A picture that covers another one, wherever it has a value and `wins`. */
interface Other {
  picture: PlannedImage;
  /** At a place of the target, in pixels; everywhere when absent. */
  wins?: (x: number, y: number) => boolean;
}

/** The pictures that may cover one: those above it, or those whose middle is nearer. */
function othersOver({ sources, seams }: ImagePlan, k: number): Other[] {
  if (seams?.first !== 'centre') return sources.slice(0, k).map((picture) => ({ picture }));
  // a pixel of the target has one centre, at which it was decided
  const away = (n: number, x: number, y: number): number => awayFrom(seams, n, Math.floor(x) + 0.5, Math.floor(y) + 0.5);
  const wins =
    (n: number): Other['wins'] =>
    (x, y) => {
      const [theirs, own] = [away(n, x, y), away(k, x, y)];
      return n < k ? !isNearer(own, theirs) : isNearer(theirs, own);
    };
  return sources.map((picture, n) => ({ picture, wins: wins(n) })).filter((_, n) => n !== k);
}

async function fatesOf(
  plan: ImagePlan,
  source: PlannedImage,
  above: readonly Other[],
  shown: ImageReader,
  window: PixelWindow,
): Promise<Uint8Array> {
  const { grid } = plan.target;
  const n = window.width * window.height;
  const valid = source.whole ? null : (await source.image.read(window)).valid;
  const toTarget = (points: Float64Array): void => {
    toGround(source.grid, points);
    source.toTarget(points);
    through(inverseMap(grid.map), points);
  };
  const places = sourcePositions(toTarget, window.x, window.y, window.width, window.height);
  try {
    const fates = await fatesAt(plan, source, above, shown, places, valid, n);
    const kept = source.kept?.(window);
    kept?.forEach((inside, i) => {
      if (!inside) fates[i] = CLIPPED;
    });
    return fates;
  } finally {
    giveBack(places);
  }
}

/** The fates of pixels whose centres lie at these places of the target. @param valid which of them have a value; null where all have */
async function fatesAt(
  plan: ImagePlan,
  source: PlannedImage,
  above: readonly Other[],
  shown: ImageReader,
  places: Float64Array,
  valid: Uint8Array | null,
  n: number,
): Promise<Uint8Array> {
  const { grid } = plan.target;
  const fates = new Uint8Array(n);
  const all = new Int32Array(n);
  let count = 0;
  // where all was wanted, nothing but what rounding leaves at the edge may lie outside
  const outside = (u: number, v: number): number =>
    plan.bounded ? OUTSIDE : u > -1 && v > -1 && u < grid.width + 1 && v < grid.height + 1 ? EDGE : LOST;
  for (let i = 0; i < n; i++) {
    const u = places[2 * i]!,
      v = places[2 * i + 1]!;
    if (valid && !valid[i]) fates[i] = NODATA;
    else if (Number.isNaN(u + v)) fates[i] = NO_IMAGE;
    else if (!(u >= 0 && v >= 0 && u < grid.width && v < grid.height)) fates[i] = outside(u, v);
    else all[count++] = i;
  }
  if (count === 0) return fates;
  let open = all.subarray(0, count);
  if (plan.within) {
    const inside = await validAt(masked(plan, plan.within), places, open);
    open.forEach((i, k) => {
      if (!inside[k]) fates[i] = OUTSIDE;
    });
    open = open.filter((_, k) => inside[k]);
  }
  const covered = await coveredBy(above, grid, places, open);
  const seen = await validAt(shown, places, open);
  open.forEach((i, k) => (fates[i] = covered?.[k] ? COVERED : seen[k] ? KEPT : LOST));
  const lost = open.filter((i) => fates[i] === LOST);
  if (lost.length > 0) await settleEdges(source, grid, places, lost, fates);
  return fates;
}

/** The area of a picture as a picture whose pixels have a value within it. */
const masked = ({ target: { info } }: ImagePlan, within: NonNullable<ImagePlan['within']>): ImageReader => ({
  info,
  read: (window) => Promise.resolve({ ...window, bands: 0, data: new Uint8Array(0), valid: within(window) }),
});

/** Which of some places of the target, by their numbers, have a value in pictures that lie above. */
async function coveredBy(above: readonly Other[], grid: PixelGrid, places: Float64Array, open: Int32Array): Promise<Uint8Array | null> {
  if (above.length === 0) return null;
  const covered = new Uint8Array(open.length);
  const all = open.map((_, k) => k);
  for (const { picture: other, wins } of above) {
    const p = new Float64Array(2 * open.length);
    open.forEach((i, k) => p.set([places[2 * i]!, places[2 * i + 1]!], 2 * k));
    toGround(grid, p);
    other.toSource(p);
    through(inverseMap(other.grid.map), p);
    const valid = other.whole ? within(other.image.info, p, all) : await validAt(other.image, p, all);
    valid.forEach((v, k) => {
      if (v && (!wins || wins(places[2 * open[k]!]!, places[2 * open[k]! + 1]!))) covered[k] = 1;
    });
  }
  return covered;
}

/** Whether positions lie in a picture: one for each of them that does. */
function within({ width, height }: Pick<ImageInfo, 'width' | 'height'>, places: Float64Array, which: Int32Array): Uint8Array {
  return Uint8Array.from(which, (i) => {
    const u = places[2 * i]!,
      v = places[2 * i + 1]!;
    return Number(u >= 0 && v >= 0 && u < width && v < height);
  });
}

/** Whether a picture has a value at positions in it: one for each of them that has. */
async function validAt(image: ImageReader, places: Float64Array, which: Int32Array): Promise<Uint8Array> {
  const { width, height } = image.info;
  const out = new Uint8Array(which.length);
  let [x0, y0, x1, y1] = [Infinity, Infinity, -1, -1];
  for (const i of which) {
    const c = Math.floor(places[2 * i]!),
      r = Math.floor(places[2 * i + 1]!);
    if (!(c >= 0 && r >= 0 && c < width && r < height)) continue;
    if (c < x0) x0 = c;
    if (r < y0) y0 = r;
    if (c > x1) x1 = c;
    if (r > y1) y1 = r;
  }
  if (x1 < x0) return out;
  // a picture that is shrunk far or lies across is read in pieces
  if ((x1 - x0 + 1) * (y1 - y0 + 1) > 1 << 24 && which.length > 1) {
    const half = which.length >> 1;
    out.set(await validAt(image, places, which.slice(0, half)));
    out.set(await validAt(image, places, which.slice(half)), half);
    return out;
  }
  const window = { x: x0, y: y0, width: x1 - x0 + 1, height: y1 - y0 + 1 };
  const { valid } = await image.read(window);
  which.forEach((i, k) => {
    const c = Math.floor(places[2 * i]!),
      r = Math.floor(places[2 * i + 1]!);
    if (c >= 0 && r >= 0 && c < width && r < height) out[k] = valid === null ? 1 : valid[(r - y0) * window.width + c - x0]!;
  });
  return out;
}

/**
 * A pixel of the target whose centre lies beyond the source, or so near to its edge that an approximated position may lie there, has no value
 * for good reason.
 */
async function settleEdges(
  source: PlannedImage,
  grid: PixelGrid,
  places: Float64Array,
  lost: Int32Array,
  fates: Uint8Array,
): Promise<void> {
  const p = new Float64Array(2 * lost.length);
  lost.forEach((i, k) => p.set([Math.floor(places[2 * i]!) + 0.5, Math.floor(places[2 * i + 1]!) + 0.5], 2 * k));
  toGround(grid, p);
  source.toSource(p);
  through(inverseMap(source.grid.map), p);
  const all = lost.map((_, k) => k);
  for (const [du, dv] of NEAR) {
    const near = p.map((v, k) => v + (k % 2 === 0 ? du : dv));
    const has = source.whole ? within(source.image.info, near, all) : await validAt(source.image, near, all);
    lost.forEach((i, k) => {
      if (!has[k]) fates[i] = EDGE;
    });
  }
}

/** Steps to the corners of what an approximated position may be. */
const NEAR = [
  [-MOST_OFF_PX, -MOST_OFF_PX],
  [MOST_OFF_PX, -MOST_OFF_PX],
  [-MOST_OFF_PX, MOST_OFF_PX],
  [MOST_OFF_PX, MOST_OFF_PX],
] as const;
