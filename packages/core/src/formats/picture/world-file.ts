import type { ByteSource, FolderSink } from '../../io/bytes';
import { plainDecimal } from '../../io/plain-decimal';
import { Problem } from '../../model/problem';
import type { GridMap } from '../../raster/pixel-grid';
import { putText, textOf } from '../prj';

/** Suffixes of the world file of a picture: first and last letter with a w, all letters with a w, and the plain one. Common practice, no source. */
export function worldSuffixes(extension: string): string[] {
  const letters = extension.replace(/^\./, '').toLowerCase();
  return [...new Set([`.${letters[0]}${letters.at(-1)}w`, `.${letters}w`, '.wld'])];
}

/**
 * The six lines of a world file: the step of a column in x and in y, that of a row in x and in y, and where the centre of the first pixel
 * lies. Common practice, no source; that they mean the centre is held by a check against the tags of a GeoTIFF.
 * @throws Problem `world-file-damaged`
 */
export function readWorldFile(text: string, name: string): GridMap {
  const lines = text.split(/\r?\n|\r/).map((l) => l.trim());
  while (lines.at(-1) === '') lines.pop();
  const damaged = (what: string): Problem =>
    new Problem(
      'world-file-damaged',
      `${name} ${what}. A world file has six lines with a number each. Ask for it again, or take it away and place the picture by hand.`,
      {
        file: name,
      },
    );
  if (lines.length < 6) throw damaged(`has ${lines.length} ${lines.length === 1 ? 'line' : 'lines'}`);
  const numbers = lines.slice(0, 6).map((line, k) => {
    const value = /^[-+]?(\d+[.,]?\d*|[.,]\d+)([eE][-+]?\d+)?$/.test(line) ? Number(line.replace(',', '.')) : NaN;
    if (!Number.isFinite(value)) throw damaged(`has "${line.slice(0, 40)}" in line ${k + 1}`);
    return value;
  });
  const [a, d, b, e, x, y] = numbers as [number, number, number, number, number, number];
  if (a * e - b * d === 0) throw damaged('gives the pixels no area');
  return [x - (a + b) / 2, a, b, y - (d + e) / 2, d, e];
}

/** The six lines. */
export function worldFileText([x, a, b, y, d, e]: GridMap): string {
  return `${[a, d, b, e, x + (a + b) / 2, y + (d + e) / 2].map((v) => plainDecimal(v)).join('\n')}\n`;
}

/** The world file beside a picture; null where there is none. */
export async function worldFileBeside(source: ByteSource, extension: string): Promise<{ map: GridMap; name: string } | null> {
  for (const suffix of worldSuffixes(extension)) {
    const beside = await source.sibling(suffix);
    if (!beside) continue;
    return { map: readWorldFile((await textOf(beside)) ?? '', beside.name), name: beside.name };
  }
  return null;
}

/** Writes a world file. */
export async function putWorldFile(folder: FolderSink, name: string, map: GridMap): Promise<void> {
  await putText(folder, name, worldFileText(map));
}
