import { recogniseFormat } from '@pontrel/core/formats/index';
import { UNWATCHED } from '@pontrel/core/io/bytes';
import { Findings } from '@pontrel/core/model/finding';
import { openStored, type StoredFiles } from './read-source';

/** Texts to show, and records that are looked through for them. */
const SHOWN = 12,
  LOOKED_AT = 200_000;

/** The first different texts of a file with letters beyond ASCII, which each code page reads in its own way. */
export async function sampleTexts(files: StoredFiles): Promise<string[]> {
  const source = await openStored(files);
  const open = await (await recogniseFormat(source)).features.open(source, files.reading);
  const found = new Set<string>();
  let records = 0;
  for await (const batch of open.read(new Findings(), UNWATCHED)) {
    for (const column of batch.columns.values()) {
      for (const value of column) {
        if (typeof value === 'string' && /[^\u0000-\u007f]/.test(value)) found.add(value.slice(0, 120));
        if (found.size >= SHOWN) return [...found];
      }
    }
    records += batch.count;
    if (records >= LOOKED_AT) break;
  }
  return [...found];
}
