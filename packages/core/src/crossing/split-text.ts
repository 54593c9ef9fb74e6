import type { Split } from '../content/raster/split';
import { Problem } from '../model/problem';
import type { ImageSettings } from './recipe';

const SAID = 'Say it as rows by columns (2x3), or as the size of a tile: 1000 px, 1000x800 px, 500 m.';

/** Reads how a picture is to be split. @param unit_m metres on the ground in a unit of the target @throws Problem `split-text` */
export function splitOf({ into = '', overlap = 0, names = 'number' }: NonNullable<ImageSettings['split']>, unit_m: number): Split {
  const match = /^\s*(\d+(?:\.\d+)?)\s*(?:[x×]\s*(\d+(?:\.\d+)?))?\s*(px|m|km)?\s*$/i.exec(into);
  const [, first, second, unit] = match ?? [];
  const [a, b] = [Number(first), Number(second ?? first)];
  const fault = (): Problem => new Problem('split-text', `"${into}" does not say how to split. ${SAID}`);
  if (!match || !(a > 0 && b > 0)) throw fault();
  const rest = { overlap, names };
  switch (unit?.toLowerCase()) {
    case undefined:
      if (second === undefined || !Number.isInteger(a) || !Number.isInteger(b)) throw fault();
      return { by: 'grid', rows: a, columns: b, ...rest };
    case 'px':
      return { by: 'pixels', width: Math.round(a), height: Math.round(b), ...rest };
    default: {
      const metres = unit!.toLowerCase() === 'km' ? 1000 : 1;
      return { by: 'ground', width: (a * metres) / unit_m, height: (b * metres) / unit_m, ...rest };
    }
  }
}
