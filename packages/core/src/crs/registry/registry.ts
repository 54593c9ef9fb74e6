import { type Axes, EAST_NORTH } from '../axes';
import {
  type AnyCrs,
  type CompoundCrs,
  type EarthCrs,
  isOnEarth,
  withHeights,
  type Datum,
  type GeocentricCrs,
  type GeographicCrs,
  type ProjectedCrs,
  type VerticalCrs,
} from '../crs';
import { METHODS } from '../methods/index';
import { areaOf, row, rows } from './tables';

export { REGISTRY_VERSION } from './tables';

const made = new Map<string, AnyCrs>();

/** The system of a code such as "EPSG:2193" or "2193", of any kind; undefined when the registry does not hold it. */
export function lookup(code: string): AnyCrs | undefined {
  const bare = bareCode(code);
  if (bare === null) return undefined;
  let crs = made.get(bare);
  if (!crs) {
    crs = geodeticOf(bare) ?? projectedOf(bare) ?? verticalOf(bare) ?? compoundOf(bare);
    if (crs) made.set(bare, crs);
  }
  return crs;
}

/** The same, of the kinds that hold positions of maps: geographic and projected; of a compound system its horizontal part, which keeps the whole of it. */
export function lookupCrs(code: string): EarthCrs | undefined {
  const crs = lookup(code);
  if (crs?.kind === 'compound') return isOnEarth(crs.horizontal) ? (withHeights(crs) as EarthCrs) : undefined;
  return crs?.kind === 'geographic' || crs?.kind === 'projected' ? crs : undefined;
}

function bareCode(code: string): string | null {
  return /^(?:(?:urn:ogc:def:crs:)?EPSG:(?:[\d.]*:)?)?(\d+)$/i.exec(code.trim())?.[1] ?? null;
}

/** A datum of the registry. @throws Error where the code is none of it */
export function datumByCode(code: string): Datum {
  let datum = datums.get(code);
  if (!datum) {
    const [, name, ellipsoid, meridian, published, , ensemble] = row('datums', code)!;
    const [, ellipsoidName, a, invF] = row('ellipsoids', ellipsoid!)!;
    datum = {
      id: `EPSG:${code}`,
      name: name!,
      ellipsoid: { name: ellipsoidName!, a: +a!, invF: +invF! },
      primeMeridian: +row('meridians', meridian!)![2]!,
      published: published ?? '',
      ...(ensemble ? { ensemble_m: +ensemble } : {}),
    };
    datums.set(code, datum);
  }
  return datum;
}

/** Whether the registry has a datum of this code. */
export function hasDatum(code: string): boolean {
  return row('datums', code) !== undefined;
}

const datums = new Map<string, Datum>();

/** Prime meridians, degrees east of Greenwich. */
export function meridianRows(): { name: string; degrees: number }[] {
  return rows('meridians').map(([, name, degrees]) => ({ name: name!, degrees: +degrees! }));
}

/** Names of the members of an ensemble; empty when a datum is none. */
export function ensembleMembers(id: string): string[] {
  return row('ensembles', id.slice(5))?.[1]?.split(';') ?? [];
}

/** Other names of a registered datum, those of the .prj dialect first ("D_NZGD_2000"). */
export function datumAliases(id: string): string[] {
  return row('datums', id.slice(5))?.[7]?.split(';') ?? [];
}

function geodeticOf(code: string): GeographicCrs | GeocentricCrs | undefined {
  const r = row('geodetic', code);
  if (!r) return undefined;
  const [, name, type, datum, unit, area, , first] = r;
  const base = { id: `EPSG:${code}`, name: name!, datum: datumByCode(datum!), area: areaOf(area) };
  if (type === 'c') return { kind: 'geocentric', ...base };
  return {
    kind: 'geographic',
    ...base,
    dimension: type === '3' ? 3 : 2,
    degreesPerUnit: +unit!,
    ...(first === 'e' ? { lonFirst: true as const } : {}),
  };
}

function projectedOf(code: string): ProjectedCrs | undefined {
  const r = row('projected', code);
  if (!r) return undefined;
  const [, name, base, conversion, system, area] = r;
  const [, methodCode, values] = row('conversions', conversion!)!;
  const method = +methodCode!;
  const codes = row('methodParameters', methodCode!)![2]!.split(' ');
  const parameters: Record<number, number> = {};
  values!.split(' ').forEach((value, k) => {
    parameters[+codes[k]!] = +value;
  });
  const [, first, second, unitName, metres] = row('axes', system!)!;
  return {
    kind: 'projected',
    id: `EPSG:${code}`,
    name: name!,
    base: lookup(base!) as GeographicCrs,
    method,
    parameters,
    unit: { name: unitName!, metres: +metres! },
    axes: axesOf(first!, second!, method),
    area: areaOf(area),
  };
}

/** Axes as registered, "<abbreviation> <direction>" each; those about a pole grow along meridians, and their letters tell which is which. */
function axesOf(first: string, second: string, method: number): Axes {
  const [letter1, direction1] = parted(first),
    [letter2, direction2] = parted(second);
  const northFirst = direction1 === 'north' || direction1 === 'south' || (/ along /.test(direction1) && letter1 === 'N');
  const { x = 'east', y = 'north' } = METHODS.get(method)?.orientation ?? {};
  const either = [direction1, direction2];
  const along = [meridianOf(direction1), meridianOf(direction2)];
  return {
    x: either.includes('west') ? 'west' : x,
    y: either.includes('south') ? 'south' : y,
    northFirst,
    letters: northFirst ? [plainLetter(letter2, 'E'), plainLetter(letter1, 'N')] : [plainLetter(letter1, 'E'), plainLetter(letter2, 'N')],
    ...(along[0] !== null && along[1] !== null
      ? {
          along: {
            toward: direction1.startsWith('South') ? ('south' as const) : ('north' as const),
            meridians: northFirst ? ([along[1]!, along[0]!] as const) : ([along[0]!, along[1]!] as const),
          },
        }
      : {}),
  };
}

function parted(axis: string): [string, string] {
  const at = axis.indexOf(' ');
  return [axis.slice(0, at), axis.slice(at + 1)];
}

/** Degrees of "North along 90°E"; null when a direction is of another kind. */
function meridianOf(direction: string): number | null {
  const match = /along (\d+)°([EW])?/.exec(direction);
  return match ? Number(match[1]) * (match[2] === 'W' ? -1 : 1) : null;
}

const plainLetter = (letter: string, otherwise: string): string => (letter === 'none' ? otherwise : letter.replace(/\(.*/, ''));

function verticalOf(code: string): VerticalCrs | undefined {
  const r = row('vertical', code);
  if (!r) return undefined;
  const [, name, datum, datumName, direction, unit, metres, area] = r;
  return {
    kind: 'vertical',
    id: `EPSG:${code}`,
    name: name!,
    datum: { id: `EPSG:${datum}`, name: datumName! },
    unit: { name: unit!, metres: +metres! },
    direction: direction === 'down' ? 'down' : 'up',
    area: areaOf(area),
  };
}

function compoundOf(code: string): CompoundCrs | undefined {
  const r = row('compound', code);
  if (!r) return undefined;
  const [, name, horizontal, vertical, area] = r;
  return {
    kind: 'compound',
    id: `EPSG:${code}`,
    name: name!,
    horizontal: lookupCrs(horizontal!)!,
    vertical: lookup(vertical!) as VerticalCrs,
    area: areaOf(area),
  };
}

/** The column of a table that says that a row is deprecated, counted from 0. */
const DEPRECATED_AT = { geodetic: 6, projected: 6, vertical: 8, compound: 5 } as const;
const KINDS = Object.keys(DEPRECATED_AT) as (keyof typeof DEPRECATED_AT)[];

/** Whether the registry has withdrawn what an id ("EPSG:27200") names. */
export function isDeprecated(id: string): boolean {
  const code = id.slice(5);
  return KINDS.some((table) => row(table, code)?.[DEPRECATED_AT[table]] === '1');
}

/** Codes of what the registry puts in the place of a deprecated system. */
export function replacementsOf(id: string): string[] {
  return (
    row('replacements', id.slice(5))?.[1]
      ?.split(' ')
      .map((code) => `EPSG:${code}`) ?? []
  );
}

/** Other names of a system: `common` ones, and the one of the .prj dialect. */
export function aliasesOf(id: string): { common: string[]; dialect: string | null } {
  const code = id.slice(5);
  const names = row('aliases', code)?.[1]?.split(';') ?? [];
  const own = row('projected', code)?.[1]?.split(' / ')[0] ?? '';
  return {
    common: names.filter((n) => !n.startsWith('=')).map((n) => n.replace(/^~/, `${own} / `)),
    dialect: names.find((n) => n.startsWith('='))?.slice(1) ?? null,
  };
}

/** Every system for positions in the plane or on the ellipsoid: geographic 2D ones first, by ascending code, then projected ones. */
export function* allCrs(): Iterable<EarthCrs> {
  for (const r of rows('geodetic')) if (r[2] === '2') yield lookup(r[0]!) as EarthCrs;
  for (const r of rows('projected')) yield lookup(r[0]!) as EarthCrs;
}

/** Every registered geodetic system of a datum, of two, three dimensions and from the centre of the earth. */
export function geodeticOfDatum(datum: string): readonly string[] {
  if (!byDatum) {
    byDatum = new Map();
    for (const r of rows('geodetic')) {
      if (r[6] === '1') continue;
      const id = `EPSG:${r[3]}`;
      byDatum.set(id, [...(byDatum.get(id) ?? []), `EPSG:${r[0]}`]);
    }
  }
  return byDatum.get(datum) ?? [];
}

let byDatum: Map<string, string[]> | null = null;

/** Axes of a method where no registered system says more. */
export function axesOfMethod(method: number): Axes {
  const orientation = METHODS.get(method)?.orientation;
  return orientation ? { ...EAST_NORTH, ...orientation, letters: ['Y', 'X'] } : EAST_NORTH;
}
