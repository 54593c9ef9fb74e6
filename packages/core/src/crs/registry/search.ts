import { type AnyCrs, type AreaOfUse, type Crs, type EarthCrs, type VerticalCrs, withHeights } from '../crs';
import { holds, widthOf } from '../area';
import { isDeprecated, lookup, replacementsOf } from './registry';
import { areaOf, row, rows } from './tables';

/** What a search line is about, in small letters. */
interface Line {
  id: string;
  code: string;
  /** Words of the name. */
  name: string;
  /** Other names, unit and method. */
  other: string;
  area: string;
  deprecated: boolean;
  /** Broad kinds come before special ones of the same score. */
  rank: number;
}

let index: Line[] | null = null;

/** Built at the first search: some 7 000 lines in a few tens of milliseconds. */
function lines(): Line[] {
  if (index) return index;
  const made: Line[] = [];
  const push = (
    table: 'geodetic' | 'projected' | 'vertical' | 'compound',
    extentAt: number,
    rank: number,
    other: (r: string[]) => string,
  ): void => {
    for (const r of rows(table)) {
      const id = `EPSG:${r[0]}`;
      const aliases = row('aliases', r[0]!)?.[1]?.replace(/[=~]/g, ' ') ?? '';
      made.push({
        id,
        code: r[0]!,
        name: words(r[1]!),
        other: words(`${aliases} ${other(r)}`),
        area: words(areaOf(r[extentAt])?.name ?? ''),
        deprecated: isDeprecated(id),
        rank,
      });
    }
  };
  push('projected', 5, 0, (r) => {
    const conversion = row('conversions', r[3]!)!;
    return `${row('methodParameters', conversion[1]!)![1]} ${row('axes', r[4]!)![3]}`;
  });
  push('geodetic', 5, 1, (r) => (r[2] === '2' ? 'geographic degree' : r[2] === '3' ? 'geographic 3d ellipsoidal height' : 'geocentric'));
  push('compound', 4, 2, () => 'compound height');
  push('vertical', 7, 3, (r) => `height ${r[5]}`);
  return (index = made);
}

const fold = (text: string): string =>
  text
    .normalize('NFD')
    .replace(/[\u0300-\u036f]/g, '')
    .toLowerCase();
/** Words with one blank before, between and after, so that a whole word is found as a text. */
const words = (text: string): string =>
  ` ${fold(text)
    .replace(/[^a-z0-9.+]+/g, ' ')
    .trim()} `;

/** How a search for systems is narrowed. */
export interface SearchOptions {
  limit?: number;
  /** Only systems whose area of use holds this longitude and latitude, degrees. */
  point?: readonly [number, number];
  /** Only systems whose area of use meets this box: west, south, east, north, degrees. */
  box?: readonly [number, number, number, number];
}

const POSITIONS: readonly AnyCrs['kind'][] = ['geographic', 'projected'];

/**
 * Search by code, by words of any name, of the area of use, of the method and of the unit; best first. Every word must be
 * found. A deprecated system is found by its code only, and what replaces it comes after it.
 */
export function searchKinds(text: string, kinds: readonly AnyCrs['kind'][], { limit = 20, point, box }: SearchOptions = {}): AnyCrs[] {
  const wanted = words(text.replace(/\bepsg\s*:\s*/gi, ''))
    .split(' ')
    .filter(Boolean);
  if (wanted.length === 0 && !point && !box) return [];
  const hits: { line: Line; score: number }[] = [];
  for (const line of lines()) {
    let score = 0;
    for (const word of wanted) {
      const whole = ` ${word} `;
      if (line.code === word) score += 100;
      else if (line.deprecated) {
        score = -1;
        break;
      } else if (line.name.includes(whole)) score += 12;
      else if (line.name.includes(word)) score += 6;
      else if (line.code.startsWith(word)) score += 4;
      else if (line.other.includes(whole)) score += 5;
      else if (line.area.includes(whole)) score += 3;
      else if (line.other.includes(word) || line.area.includes(word)) score += 1;
      else {
        score = -1;
        break;
      }
    }
    if (score < 0 || (wanted.length === 0 && line.deprecated)) continue;
    if (point || box) {
      const { area } = lookup(line.code)!;
      if (!area || (point && !holds(area, point)) || (box && !meets(area, box))) continue;
      score -= Math.log2(1 + sizeOf(area));
    }
    hits.push({ line, score: score - line.rank / 10 - line.name.length / 1000 });
  }
  hits.sort((a, b) => b.score - a.score);
  const found: AnyCrs[] = [];
  for (const { line } of hits) {
    if (found.length >= limit) break;
    const crs = lookup(line.code)!;
    if (!kinds.includes(crs.kind) || found.includes(crs)) continue;
    found.push(crs);
    if (line.deprecated) for (const id of replacementsOf(line.id)) found.push(lookup(id)!);
  }
  return found.slice(0, limit);
}

/** Systems for positions that are tried with those for heights in one search. */
const TRIED = 3;

/** The same among the kinds that hold positions of maps. "2193 + nzvd2016" means such a system with one for heights, a code alone a compound one too. */
export function searchCrs(text: string, options: SearchOptions = {}): Crs[] {
  const { limit = 20 } = options;
  const [, undated, date] = /^(.*\S)\s*@\s*(\d{4}(?:\.\d+)?)\s*$/.exec(text) ?? [];
  if (undated !== undefined) return searchCrs(undated, options).map((crs) => ({ ...crs, epoch: Number(date) }));
  const [positions, heights] = text.split('+').map((part) => part.trim());
  if (positions && heights && !/[[=]/.test(text)) {
    const verticals = searchKinds(heights, ['vertical'], { limit }) as VerticalCrs[];
    return (searchKinds(positions, POSITIONS, { ...options, limit: TRIED }) as EarthCrs[])
      .flatMap((horizontal) =>
        verticals.map((vertical) => withHeights({ kind: 'compound', id: null, name: '', area: horizontal.area, horizontal, vertical })),
      )
      .slice(0, limit);
  }
  const kinds = /^\s*(epsg\s*:)?\s*\d+\s*$/i.test(text) ? [...POSITIONS, 'compound' as const] : POSITIONS;
  return searchKinds(text, kinds, options).flatMap((crs): Crs[] =>
    crs.kind === 'compound' ? [withHeights(crs)] : crs.kind === 'geographic' || crs.kind === 'projected' ? [crs] : [],
  );
}

function meets(area: AreaOfUse, [west, south, east, north]: readonly [number, number, number, number]): boolean {
  if (area.south > north || area.north < south) return false;
  return area.west <= area.east ? area.west <= east && area.east >= west : east >= area.west || west <= area.east;
}

function sizeOf(area: AreaOfUse): number {
  return widthOf(area) * (area.north - area.south);
}
