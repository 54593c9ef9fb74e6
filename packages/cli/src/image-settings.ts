import type { ImageSettings } from '@pontrel/core/crossing/recipe';
import { Usage } from './result';

/** What may be said of an image with --option besides the options of its format. */
export const IMAGE_OPTIONS: readonly { id: string; says: string }[] = [
  { id: 'outline', says: 'a file whose areas it is cut to' },
  { id: 'beyond', says: 'nothing (first), stays: what becomes of pixels beyond the outline' },
  { id: 'packed', says: 'jpeg (first), png, tiff: how an image below a drawing is packed' },
  { id: 'first', says: 'order (first), newest, centre: which image gives a pixel that several have' },
  { id: 'feather', says: 'metres over which images pass into each other' },
  { id: 'split', says: 'rows by columns (2x3), the size of a tile (1000 px, 500 m), or areas: a tile for each area of the outline' },
  { id: 'overlap', says: 'pixels by which tiles reach over each other' },
  { id: 'names', says: 'number (first), row-column: how tiles are named; for areas, a field' },
];

export interface SaidOfImage {
  settings: Pick<ImageSettings, 'split' | 'outside' | 'first' | 'feather_m'>;
  /** The file whose areas it is cut to. */
  outline: string | null;
  /** Whether its tiles are those areas, and the field that names them. */
  areas: { field: string | undefined } | null;
  packed: ImageSettings['packed'];
  /** The pairs that are about the format. */
  rest: string[];
}

/** Takes what is said of an image out of the pairs NAME=VALUE. @throws Usage */
export function imageSettingsOf(pairs: readonly string[]): SaidOfImage {
  const said = new Map<string, string>();
  const rest: string[] = [];
  for (const pair of pairs) {
    const [, name, value] = /^([^=]+)=(.*)$/s.exec(pair) ?? [];
    if (name !== undefined && IMAGE_OPTIONS.some((o) => o.id === name)) said.set(name, value!);
    else rest.push(pair);
  }
  const one = <T extends string>(name: string, choices: readonly T[]): T | undefined => {
    const value = said.get(name);
    if (value === undefined || (choices as readonly string[]).includes(value)) return value as T | undefined;
    throw new Usage(`--option ${name} takes ${choices.join(', ')}; "${value}" is none of them.`);
  };
  const overlap = Number(said.get('overlap') ?? 0);
  if (!Number.isInteger(overlap) || overlap < 0 || overlap > 4096)
    throw new Usage(`--option overlap wants a number of pixels from 0 to 4096; "${said.get('overlap')}" is none.`);
  const byAreas = said.get('split')?.trim().toLowerCase() === 'areas';
  const names = byAreas ? undefined : one('names', ['number', 'row-column']);
  const outside = one('beyond', ['nothing', 'stays']);
  const first = one('first', ['order', 'newest', 'centre']);
  const feather = Number(said.get('feather') ?? 0);
  if (!(feather >= 0 && feather <= 1e5))
    throw new Usage(`--option feather wants metres on the ground; "${said.get('feather')}" is no such number.`);
  const into = said.get('split');
  if (byAreas && !said.has('outline'))
    throw new Usage('--option split=areas wants the file with the areas: say it with --option outline=FILE.');
  if (into === undefined && (said.has('overlap') || names))
    throw new Usage('--option overlap and names are for tiles: say with split how it is split.');
  return {
    settings: {
      ...(into === undefined ? {} : { split: { ...(byAreas ? {} : { into }), overlap, ...(names ? { names } : {}) } }),
      ...(outside ? { outside } : {}),
      ...(first && first !== 'order' ? { first } : {}),
      ...(feather > 0 ? { feather_m: feather } : {}),
    },
    outline: said.get('outline') ?? null,
    packed: one('packed', ['jpeg', 'png', 'tiff']),
    areas: byAreas ? { field: said.get('names') } : null,
    rest,
  };
}
