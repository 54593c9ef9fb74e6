import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import path from 'node:path';

/** Size of the typeface for capital letters one pixel, or one point, high. Public Sans has capitals of 0.7 em (its OS/2 table, sCapHeight). */
export const EM_PER_CAPITAL = 1 / 0.7;

const files = new Map<string, Buffer>();

/**
 * A typeface that ships with the application, as WOFF.
 * @param family `public-sans` or `spline-sans-mono`
 * @param subset the letters and the weight: `latin-400`
 */
export function fontFile(family: string, subset: string): Buffer {
  const key = `${family} ${subset}`;
  let file = files.get(key);
  if (!file) {
    const folder = path.dirname(createRequire(import.meta.url).resolve(`@fontsource/${family}/package.json`));
    files.set(key, (file = readFileSync(path.join(folder, 'files', `${family}-${subset}-normal.woff`))));
  }
  return file;
}
