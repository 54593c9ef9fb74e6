import type { PixelWindow, Raster } from '../../model/raster';
import { exactPositions, sourcePositions } from '../../raster/approximate';
import { type Seamed, seamedWindow } from '../../raster/seams';
import { warpWindow } from '../../raster/warp';
import { layOver } from '../map/lay-over';
import { keepApart, stateEmpty } from './like';
import type { ImagePlan } from './plan';

/** Columns and rows that are worked out at once. Positions are approximated over a piece, so the proof works them out over the same ones. */
export const PIECE = 512;

/** A piece of the picture as it is to be. */
export interface Expected {
  raster: Raster;
  /** Pixels whose value would have been read as none. */
  keptApart: number;
}

/** A window of the picture as it is to be, with what says that there is nothing where there is nothing. */
export async function expectedWindow(plan: ImagePlan, window: PixelWindow): Promise<Expected> {
  return finished(plan, window, (await seamed(plan, window, sourcePositions)).raster, await plan.drawn?.read(window));
}

/**
 * The same without any approximation.
 * @returns with `apart`, how far an approximated mask may put each sample off where pictures pass into each other
 */
export async function exactWindow(
  plan: ImagePlan,
  window: PixelWindow,
): Promise<{ raster: Raster; apart: ((at: number) => number) | null }> {
  const { raster, spread } = await seamed(plan, window, exactPositions);
  const { raster: own } = finished(plan, window, raster, await plan.drawn?.read(window));
  const share = EDGE_PX / ((plan.seams?.feather ?? 0) + 1);
  return { raster: own, apart: spread && ((at) => share * spread[at]!) };
}

/** Pixels by which the edge of a picture may lie off in an approximated mask: a pixel's centre lies on this side of it or on that. */
const EDGE_PX = 1;

async function seamed(plan: ImagePlan, window: PixelWindow, positionsIn: typeof sourcePositions): Promise<Seamed> {
  const { target, sources, like, resampling, seams } = plan;
  if (seams) return seamedWindow(target.grid, sources, like, resampling, window, seams, positionsIn);
  return { raster: await warpWindow(target.grid, sources, like, resampling, window, positionsIn), spread: null };
}

function finished(plan: ImagePlan, window: PixelWindow, raster: Raster, drawn: Uint8ClampedArray | undefined): Expected {
  if (drawn) layOver(raster, drawn, plan.like.alpha);
  plan.within?.(window).forEach((inside, i) => {
    if (!inside) raster.valid![i] = 0;
  });
  stateEmpty(raster, plan.like);
  return { raster, keptApart: keepApart(raster, plan.like) };
}

/** The pieces of a picture, row after row. */
export function* piecesOf(width: number, height: number): Generator<PixelWindow> {
  for (let y = 0; y < height; y += PIECE)
    for (let x = 0; x < width; x += PIECE) yield { x, y, width: Math.min(PIECE, width - x), height: Math.min(PIECE, height - y) };
}
