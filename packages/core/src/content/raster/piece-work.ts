import type { PixelWindow } from '../../model/raster';
import type { Expected } from './expected';
import type { PieceComparison } from './compare-piece';

/** What is asked of a plan piece by piece: worked on where the plan is, or in threads each of which has made the same plan for itself. */
export interface PieceWork {
  /** Pieces that are asked for at once. */
  atOnce: number;
  /** A piece as it is to be. */
  expected(window: PixelWindow): Promise<Expected>;
  /** A comparison of a piece of what was written with what it should be. */
  compared(window: PixelWindow): Promise<PieceComparison>;
  /** How many pixels of a window of a source met each fate. @param source its number in the plan */
  fates(source: number, window: PixelWindow): Promise<number[]>;
  close(): Promise<void>;
}

/** Work on each of some things, so many of them under way at once, and given in their order. */
export async function* ahead<T, R>(things: Iterable<T>, atOnce: number, work: (thing: T) => Promise<R>): AsyncGenerator<[T, R]> {
  const underWay: { thing: T; result: Promise<R> }[] = [];
  const rest = things[Symbol.iterator]();
  const begin = (): void => {
    const next = rest.next();
    if (next.done) return;
    const result = work(next.value);
    // its failure is met when its turn comes
    result.catch(() => undefined);
    underWay.push({ thing: next.value, result });
  };
  for (let k = 0; k < atOnce; k++) begin();
  for (let first = underWay.shift(); first; first = underWay.shift()) {
    const result = await first.result;
    begin();
    yield [first.thing, result];
  }
}
