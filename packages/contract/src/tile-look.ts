import type { Symbolizer } from '@pontrel/core/symbology/symbolizer';

/** What a tile says of how a record is drawn, besides its colour. */
export type TileLook = Pick<Symbolizer, 'fill' | 'opacity' | 'width_mm' | 'width_m' | 'dash_mm' | 'marker' | 'marker_mm'>;

const LETTERS = { f: 'fill', o: 'opacity', w: 'width_mm', g: 'width_m', d: 'dash_mm', m: 'marker', s: 'marker_mm' } as const;
const NUMBERS: ReadonlySet<string> = new Set(['o', 'w', 'g', 's']);

/** The one text of a tile that says it, letters before values; null where there is nothing to say. A fill of the colour of its line is none. */
export function lookText(look: Symbolizer): string | null {
  const words = Object.entries(LETTERS).flatMap(([letter, member]) => {
    const value = look[member];
    return value === null || (member === 'fill' && value === look.color)
      ? []
      : [`${letter}${typeof value === 'object' ? value.join(',') : String(value)}`];
  });
  return words.length === 0 ? null : words.join('\t');
}

export function readLookText(text: string): TileLook {
  const out: Record<string, unknown> = {
    fill: null,
    opacity: null,
    width_mm: null,
    width_m: null,
    dash_mm: null,
    marker: null,
    marker_mm: null,
  };
  for (const word of text.split('\t')) {
    const letter = word[0] as keyof typeof LETTERS,
      value = word.slice(1);
    if (letter in LETTERS)
      out[LETTERS[letter]] = letter === 'd' ? value.split(',').map(Number) : NUMBERS.has(letter) ? Number(value) : value;
  }
  return out as unknown as TileLook;
}
