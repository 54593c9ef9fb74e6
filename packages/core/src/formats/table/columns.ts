import { FreeNames } from '../../model/free-names';
import { looksLikeWkt } from '../wkt';

/** Where a table has the places of its records. */
export type PlaceColumns = { kind: 'xy'; x: number; y: number; z: number | null } | { kind: 'wkt'; column: number } | { kind: 'none' };

/** Names of columns with coordinates. Common practice, no source. */
const X = [
  'x',
  'east',
  'easting',
  'eastings',
  'e',
  'lon',
  'long',
  'lng',
  'longitude',
  'xcoord',
  'coordx',
  'pointx',
  'westing',
  'nztme',
  'mapx',
];
const Y = ['y', 'north', 'northing', 'northings', 'n', 'lat', 'latitude', 'ycoord', 'coordy', 'pointy', 'southing', 'nztmn', 'mapy'];
const Z = ['z', 'height', 'elevation', 'elev', 'level', 'rl', 'altitude', 'alt', 'h', 'zcoord', 'reducedlevel'];
const WKT = ['wkt', 'geometry', 'geom', 'shape', 'thegeom'];

/** Share of the values of a column that is called as coordinates are from which it holds coordinates: bad cells are told one by one. */
const MOSTLY = 0.5;

const plainName = (name: string): string =>
  name
    .slice(0, LONGEST)
    .toLowerCase()
    .replace(/\(.*\)|\[.*\]/g, '')
    .replace(/[^\p{L}]/gu, '')
    .replace(/(metres|meters|deg|degrees)$/, '');

/**
 * Finds the columns that tell where the records are, by their names first and by what stands in them second.
 * @param rows some of the table's rows
 * @param comma whether numbers have a decimal comma
 */
export function placeColumns(names: readonly string[], rows: readonly (readonly string[])[], comma: boolean): PlaceColumns {
  const filled = (column: number): string[] => rows.map((r) => r[column]?.trim() ?? '').filter((v) => v !== '');
  const wkt = names.findIndex((name, k) => {
    const values = filled(k);
    return values.length > 0 && values.every(looksLikeWkt) && (WKT.includes(plainName(name)) || values.length > 0);
  });
  if (wkt >= 0) return { kind: 'wkt', column: wkt };
  const numeric = (column: number): boolean => {
    const values = filled(column);
    return values.length > 0 && values.filter((v) => Number.isFinite(coordinateOf(v, comma))).length >= MOSTLY * values.length;
  };
  const named = (wanted: readonly string[]): number => {
    for (const word of wanted) {
      const column = names.findIndex((n, k) => plainName(n) === word && numeric(k));
      if (column >= 0) return column;
    }
    return -1;
  };
  const x = named(X),
    y = named(Y);
  if (x < 0 || y < 0) return { kind: 'none' };
  const z = named(Z);
  return { kind: 'xy', x, y, z: z < 0 ? null : z };
}

const DMS =
  /^([NSEW])?\s*([+-]?\d+(?:[.,]\d+)?)\s*[°ºd:\s]\s*(?:(\d+(?:[.,]\d+)?)\s*['′m:\s]?\s*(?:(\d+(?:[.,]\d+)?)\s*(?:"|″|''|s)?)?)?\s*([NSEW])?$/i;

/** Letters of a number or an angle as somebody would write it, or of a column's name; more are none of them, and not looked at. */
const LONGEST = 400;

/** A coordinate as it stands in a table: a number, with a decimal comma, or degrees with minutes and seconds; NaN where it is none. */
export function coordinateOf(text: string, comma: boolean): number {
  const trimmed = text.length > LONGEST ? '' : text.trim();
  if (trimmed === '') return NaN;
  // blanks between thousands
  const plain = numberOf(trimmed.replace(/(\d)[\u00a0\u2009\u202f ](?=\d{3}(\D|$))/g, '$1'), comma);
  if (plain !== null) return plain;
  const [, before, degrees, minutes, seconds, after] = DMS.exec(trimmed.replaceAll('−', '-')) ?? [];
  if (degrees === undefined) return NaN;
  const part = (t: string | undefined): number => (t === undefined ? 0 : Number(t.replace(',', '.')));
  const side = (before ?? after ?? '').toUpperCase();
  const size = Math.abs(part(degrees)) + part(minutes) / 60 + part(seconds) / 3600;
  return degrees.startsWith('-') || side === 'S' || side === 'W' ? -size : size;
}

/** A number as it stands in a table, or null. */
export function numberOf(text: string, comma: boolean): number | null {
  if (text.length > LONGEST) return null;
  const point = comma ? text.replace(/\.(?=\d{3}(\D|$))/g, '').replace(',', '.') : text;
  return /^[+-]?(\d+\.?\d*|\.\d+)(e[+-]?\d+)?$/i.test(point) ? Number(point) : null;
}

/** Whether the numbers of a table have a decimal comma: some have one, and none has a point where a comma would be. */
export function hasComma(rows: readonly (readonly string[])[], separator: string): boolean {
  if (separator === ',') return false;
  let commas = 0,
    points = 0;
  for (const row of rows) {
    for (const value of row) {
      if (value.length > LONGEST) continue;
      if (/^\s*[+-]?(\d+|\d{1,3}(\.\d{3})+),\d+\s*$/.test(value)) commas++;
      else if (/^\s*[+-]?\d+\.\d+\s*$/.test(value)) points++;
    }
  }
  return commas > points;
}

/** A name for every column, each one once. */
export function uniqueNames(row: readonly string[]): string[] {
  const names = new FreeNames();
  return row.map((raw, k) => names.take(raw.trim() || `column_${k + 1}`));
}
