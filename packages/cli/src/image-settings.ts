import type { ImageSettings } from '@pontrel/core/crossing/recipe';
import { Usage } from './result';

/** What may be said of an image with --option besides the options of its format. */
export const IMAGE_OPTIONS: readonly { id: string; says: string }[] = [
  { id: 'outline', says: 'a file whose areas it is cut to' },
  { id: 'beyond', says: 'nothing (first), stays: what becomes of pixels beyond the outline' },
  { id: 'packed', says: 'jpeg (first), png, tiff: how an image below a drawing is packed' },
  { id: 'first', says: 'order (first), newest, centre: which image gives a pixel that several have' },
  { id: 'feather', says: 'metres over which images pass into each other' },
  { id: 'scale', says: 'the scale of a map that the records are drawn as: 500 for 1 to 500' },
  { id: 'dpi', says: 'dots an inch of such a map; 300 when absent' },
  { id: 'stretch', says: 'low,high: the values that a map shows as black and white, for images of more than 8 bits' },
  { id: 'split', says: 'rows by columns (2x3), the size of a tile (1000 px, 500 m), or areas: a tile for each area of the outline' },
  { id: 'overlap', says: 'pixels by which tiles reach over each other' },
  { id: 'names', says: 'number (first), row-column: how tiles are named; for areas, a field' },
];

export interface SaidOfImage {
  settings: Pick<ImageSettings, 'split' | 'outside' | 'first' | 'feather_m' | 'drawn'>;
  /** The values that are shown as black and white; null where they are not said. */
  stretch: [number, number] | null;
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
  const scale = said.get('scale'),
    dpi = said.get('dpi');
  if (scale === undefined && dpi !== undefined) throw new Usage('--option dpi is for a map: say its scale with --option scale=500.');
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
      ...(scale === undefined ? {} : { drawn: { scale: scaleOf(scale), dpi: dpiOf(dpi) } }),
    },
    stretch: stretchOf(said.get('stretch')),
    outline: said.get('outline') ?? null,
    packed: one('packed', ['jpeg', 'png', 'tiff']),
    areas: byAreas ? { field: said.get('names') } : null,
    rest,
  };
}

/** The denominator of a scale: "500", "1:500". */
function scaleOf(text: string): number {
  const scale = Number(/^(?:1\s*:\s*)?([\d.]+(?:e\d+)?)$/.exec(text.trim())?.[1]);
  if (!(scale >= 1 && scale <= 1e9))
    throw new Usage(`--option scale wants the scale of a map, such as 500 for 1 to 500; "${text}" is none.`);
  return scale;
}

/** Dots an inch of a map that nobody said any of: those of print. Common practice, no source. */
const USUAL_DPI = 300;

function dpiOf(text: string | undefined): number {
  const dpi = Number(text ?? USUAL_DPI);
  if (!(dpi >= 10 && dpi <= 2400)) throw new Usage(`--option dpi wants dots an inch from 10 to 2400; "${text}" is none.`);
  return dpi;
}

function stretchOf(text: string | undefined): [number, number] | null {
  if (text === undefined) return null;
  const [low, high, ...more] = text.split(',').map((part) => (part.trim() === '' ? NaN : Number(part)));
  if (more.length > 0 || !(Number.isFinite(low) && Number.isFinite(high) && low! < high!))
    throw new Usage(`--option stretch wants two values, the one shown as black first, such as 0,400; "${text}" is none.`);
  return [low!, high!];
}
