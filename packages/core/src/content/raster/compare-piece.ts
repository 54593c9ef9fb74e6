import type { OpenImage } from '../../formats/image-face';
import { cut } from '../../raster/warp';
import { type PixelWindow, type Raster, sameSamples, type Samples, sharedWindow } from '../../model/raster';
import { expectedWindow } from './expected';
import { stateEmpty, statesNothing } from './like';
import type { ImagePlan } from './plan';

/** What a comparison of a piece of a written picture with what it should be says. */
export interface PieceComparison {
  /** Pixels, and those of them that differ. */
  compared: number;
  different: number;
  /** Of the differences, in values of a sample; the mean of its bands for each pixel. */
  sum: number;
  /** How far each cell is off, where values are packed with loss. */
  off: number[];
}

/**
 * Works a piece out once more and compares every pixel of it, in each of the files that have some.
 * @param lossy whether values are packed with loss
 */
export async function comparePiece(plan: ImagePlan, shown: OpenImage, lossy: boolean, piece: PixelWindow): Promise<PieceComparison> {
  if (!shown.parts) return compared(plan, (await expectedWindow(plan, piece)).raster, await shown.read(piece), lossy);
  const all: PieceComparison = { compared: 0, different: 0, sum: 0, off: [] };
  const parts = shown.parts.flatMap((part) => {
    const own = sharedWindow(piece, part.window);
    return own ? [{ ...part, own }] : [];
  });
  // between files there is nothing to be worked out
  if (parts.length === 0) return all;
  const { raster: expected } = await expectedWindow(plan, piece);
  for (const { window, within, image, own } of parts) {
    const wanted = cut(expected, piece, own);
    const mask = within?.(own);
    mask?.forEach((inside, i) => {
      if (!inside) wanted.valid![i] = 0;
    });
    if (mask) stateEmpty(wanted, plan.like);
    const found = compared(plan, wanted, await image.read({ ...own, x: own.x - window.x, y: own.y - window.y }), lossy);
    all.compared += found.compared;
    all.different += found.different;
    all.sum += found.sum;
    all.off.push(...found.off);
  }
  return all;
}

function compared(plan: ImagePlan, expected: Raster, got: Raster, lossy: boolean): PieceComparison {
  const { bands } = plan.target.info;
  const { alpha } = plan.like;
  const emptyCounts = !lossy && statesNothing(plan.like);
  const n = expected.width * expected.height;
  if (!lossy && sameSamples(expected.data, got.data) && (!emptyCounts || sameValid(expected, got)))
    return { compared: n, different: 0, sum: 0, off: [] };
  const cells = lossy ? new Cells(expected.width, expected.height, bands) : null;
  const empty = (r: Raster, i: number): boolean => r.valid !== null && !r.valid[i];
  let different = 0,
    sum = 0;
  for (let i = 0; i < n; i++) {
    // nothing to be seen is nothing, whatever its colour
    if (alpha && expected.data[(i + 1) * bands - 1] === 0 && got.data[(i + 1) * bands - 1] === 0) continue;
    let off = 0;
    for (let b = 0; b < bands; b++) off += apart(expected.data[i * bands + b]!, got.data[i * bands + b]!);
    cells?.at(i).add(expected.data, got.data, i * bands);
    if (off > 0 || (emptyCounts && empty(expected, i) !== empty(got, i))) different++;
    sum += off / bands;
  }
  return { compared: n, different, sum, off: cells?.list() ?? [] };
}

/** Whether two rasters have a value at the same pixels. */
function sameValid({ valid: a }: Raster, { valid: b }: Raster): boolean {
  if (a && b) return a.every((v, i) => v === b[i]);
  return a === b || (a ?? b)!.every((v) => v === 1);
}

/** The share of each band in how light a pixel is. Source: Recommendation ITU-T T.871, section 7. */
const LIGHT = [0.299, 0.587, 0.114];

/**
 * How far the pixels of a cell are from what they should be, in the way that packing with loss keeps them: how light each is, and the colour
 * of all of them together; colours of single pixels are kept coarsely.
 */
class Light {
  private light = 0;
  private pixels = 0;
  private readonly colour: Float64Array;

  constructor(private readonly bands: number) {
    this.colour = new Float64Array(bands);
  }

  add(expected: Samples, got: Samples, at: number): void {
    let apart = 0;
    for (let b = 0; b < this.bands; b++) {
      const d = got[at + b]! - expected[at + b]!;
      apart += (this.bands === LIGHT.length ? LIGHT[b]! : 1 / this.bands) * d;
      this.colour[b] = this.colour[b]! + d;
    }
    this.light += Math.abs(apart);
    this.pixels++;
  }

  /** Values of a sample: the larger of the two. */
  difference(): number {
    return Math.max(this.light, ...this.colour.map(Math.abs)) / this.pixels;
  }
}

/** Pixels along a side of what is looked at by itself where values are packed with loss: a block that is wrong is not to vanish among others. */
const CELL = 64;

class Cells {
  private readonly across: number;
  private readonly cells: Light[];

  constructor(
    private readonly width: number,
    height: number,
    bands: number,
  ) {
    this.across = Math.ceil(width / CELL);
    this.cells = Array.from({ length: this.across * Math.ceil(height / CELL) }, () => new Light(bands));
  }

  at(i: number): Light {
    return this.cells[Math.floor(Math.floor(i / this.width) / CELL) * this.across + Math.floor((i % this.width) / CELL)]!;
  }

  list(): number[] {
    return this.cells.map((cell) => cell.difference());
  }
}

/** Difference of two values; what is not a number equals itself. */
export const apart = (a: number, b: number): number => (a === b || (Number.isNaN(a) && Number.isNaN(b)) ? 0 : Math.abs(a - b) || Infinity);
