import { EAST_NORTH } from '../../crs/axes';
import {
  type Crs,
  type Datum,
  type GeographicCrs,
  isOnEarth,
  type LinearUnit,
  positionsOf,
  type ProjectedCrs,
  verticalOf,
} from '../../crs/crs';
import { degreesPerUnit, linearUnit } from '../../crs/definitions/units';
import { LINEAR_UNITS } from './linear-units';
import { localPlane } from '../../crs/local-plane';
import { identifyCrs } from '../../crs/registry/identify';
import { datumByCode, lookup, lookupCrs } from '../../crs/registry/registry';
import { crsOf } from '../../placement/route';
import { ANGLES, PROJECTIONS, RATIOS } from './projections';
import { type Directory, TAG } from './structure';

/** Keys by their names. Source: OGC 19-008r4, section 7. */
const KEY = {
  modelType: 1024,
  rasterType: 1025,
  citation: 1026,
  geographic: 2048,
  geographicCitation: 2049,
  datum: 2050,
  angularUnit: 2054,
  angularUnitSize: 2055,
  ellipsoid: 2056,
  semiMajor: 2057,
  semiMinor: 2058,
  inverseFlattening: 2059,
  meridianLongitude: 2061,
  projected: 3072,
  projectedCitation: 3073,
  projection: 3074,
  transformation: 3075,
  linearUnit: 3076,
  linearUnitSize: 3077,
  vertical: 4096,
} as const;

const USER_DEFINED = 32767;
const MODEL = { projected: 1, geographic: 2 } as const;

/** What the keys of a file say. */
export interface GeoKeys {
  /** Null where they name no system that can be understood. */
  crs: Crs | null;
  /** What they say, for people; null where there are none. */
  text: string | null;
  /** A pixel's position is that of its centre, as for measured heights, and not that of its corner. */
  pixelIsPoint: boolean;
}

type Values = Map<number, number | string>;

/** Source: OGC 19-008r4, section 7.1 (the directory of keys). */
function valuesOf(directory: Directory): Values {
  const keys = directory.numbers(TAG.geoKeys);
  const doubles = directory.numbers(TAG.geoDoubles) ?? new Float64Array(0);
  const ascii = directory.text(TAG.geoAscii) ?? '';
  const values: Values = new Map();
  if (!keys || keys.length < 4) return values;
  for (let k = 0; k < keys[3]! && 4 * k + 7 < keys.length; k++) {
    const [key, place, count, value] = keys.subarray(4 * k + 4, 4 * k + 8) as unknown as [number, number, number, number];
    if (place === 0) values.set(key, value);
    else if (place === TAG.geoDoubles && value < doubles.length) values.set(key, doubles[value]!);
    else if (place === TAG.geoAscii)
      values.set(
        key,
        ascii
          .slice(value, value + count)
          .replace(/\|$/, '')
          .trim(),
      );
    else if (place === TAG.geoKeys && value < keys.length) values.set(key, keys[value]!);
  }
  return values;
}

/** The system that the keys of a directory state. */
export function readGeoKeys(directory: Directory): GeoKeys {
  const values = valuesOf(directory);
  const number = (key: number): number | null => (typeof values.get(key) === 'number' ? (values.get(key) as number) : null);
  const text = [KEY.citation, KEY.projectedCitation, KEY.geographicCitation]
    .map((key) => values.get(key))
    .filter((v): v is string => typeof v === 'string' && v !== '')
    .join('; ');
  const horizontal = systemOf(values, number);
  const code = number(KEY.projected) ?? number(KEY.geographic);
  return {
    crs: horizontal && withHeight(horizontal, number(KEY.vertical)),
    text: values.size === 0 ? null : text || (code !== null && code !== USER_DEFINED ? `EPSG:${code}` : 'keys of its own'),
    pixelIsPoint: number(KEY.rasterType) === 2,
  };
}

function systemOf(values: Values, number: (key: number) => number | null): Crs | null {
  const projected = number(KEY.projected);
  if (projected !== null && projected !== USER_DEFINED && projected !== 0) return lookupCrs(String(projected)) ?? null;
  const model = number(KEY.modelType);
  if (model === USER_DEFINED || (model === null && values.size > 0 && number(KEY.geographic) === null)) return planeOf(values, number);
  const base = geographicOf(values, number);
  if (!base) return null;
  if (model !== MODEL.projected) return identified(base);
  const zone = zoneOf(number(KEY.projection));
  const kind = PROJECTIONS.find((p) => p.transformation === (zone ? 1 : number(KEY.transformation)));
  if (!kind) return null;
  const unit = unitOf(number);
  const parameters: Record<number, number> = { ...zone };
  for (const [parameter, keys] of zone ? [] : Object.entries(kind.keys)) {
    const value = keys.map(number).find((v) => v !== null) ?? (RATIOS.has(+parameter) ? 1 : 0);
    parameters[+parameter] = ANGLES.has(+parameter) ? value * angleOf(number) : RATIOS.has(+parameter) ? value : value * unit.metres;
  }
  const crs: ProjectedCrs = {
    id: null,
    kind: 'projected',
    name: nameOf(values, KEY.projectedCitation) ?? nameOf(values, KEY.citation) ?? 'Projected system of the file',
    area: null,
    base,
    method: kind.method,
    parameters,
    unit,
    axes: kind.method === 9808 ? { ...EAST_NORTH, x: 'west', y: 'south' } : EAST_NORTH,
  };
  return identified(crs);
}

/**
 * The parameters of a zone of the Universal Transverse Mercator by the code of its conversion: 16001 to 16060 north, 16101 to 16160 south of the
 * equator. Source: EPSG registry, coordinate operations.
 */
function zoneOf(code: number | null): Record<number, number> | null {
  const zone = code === null ? 0 : code % 100;
  const south = code !== null && Math.floor(code / 100) === 161;
  if (!(zone >= 1 && zone <= 60) || !(south || Math.floor(code! / 100) === 160)) return null;
  return { 8801: 0, 8802: 6 * zone - 183, 8805: 0.9996, 8806: 500_000, 8807: south ? 10_000_000 : 0 };
}

/** What a person would call it: the first part of a citation, which may have more after bars. */
function nameOf(values: Values, key: number): string | null {
  const value = values.get(key);
  return typeof value === 'string' && value !== ''
    ? value
        .split('|')[0]!
        .replace(/^PCS Name = |^GCS Name = /, '')
        .trim()
    : null;
}

const identified = (crs: ProjectedCrs | GeographicCrs): Crs => identifyCrs(crs) ?? crs;

function planeOf(values: Values, number: (key: number) => number | null): Crs | null {
  const name = nameOf(values, KEY.citation);
  return name === null ? null : { ...localPlane(unitOf(number)), name };
}

function geographicOf(values: Values, number: (key: number) => number | null): GeographicCrs | null {
  const code = number(KEY.geographic);
  if (code !== null && code !== USER_DEFINED && code !== 0) {
    const crs = lookup(String(code));
    return crs?.kind === 'geographic' ? crs : null;
  }
  const name = nameOf(values, KEY.geographicCitation) ?? 'Geographic system of the file';
  const datum = datumIn(number, name);
  return datum && { id: null, kind: 'geographic', name, area: null, datum, dimension: 2, degreesPerUnit: angleOf(number), lonFirst: true };
}

function datumIn(number: (key: number) => number | null, name: string): Datum | null {
  const code = number(KEY.datum);
  if (code !== null && code !== USER_DEFINED && code !== 0) {
    try {
      return datumByCode(String(code));
    } catch {
      return null;
    }
  }
  const a = number(KEY.semiMajor),
    b = number(KEY.semiMinor),
    invF = number(KEY.inverseFlattening) ?? (a !== null && b !== null ? (a === b ? 0 : a / (a - b)) : null);
  if (a === null || invF === null || !(a > 0)) return null;
  return { id: null, name, ellipsoid: { name, a, invF }, primeMeridian: number(KEY.meridianLongitude) ?? 0 };
}

/** Degrees in one unit of its angles; 9102 is the degree. */
function angleOf(number: (key: number) => number | null): number {
  const unit = number(KEY.angularUnit);
  const size = number(KEY.angularUnitSize);
  if (unit === 9101) return 180 / Math.PI;
  if (unit === 9105 || unit === 9106) return 0.9;
  return unit === USER_DEFINED && size !== null ? degreesPerUnit(size) : 1;
}

function unitOf(number: (key: number) => number | null): LinearUnit {
  const code = number(KEY.linearUnit);
  const size = number(KEY.linearUnitSize);
  return (
    LINEAR_UNITS.find((u) => u.code === code)?.unit ??
    (size !== null && size > 0 ? linearUnit('unit of the file', size) : LINEAR_UNITS[0]!.unit)
  );
}

function withHeight(horizontal: Crs, code: number | null): Crs {
  if (code === null || code === 0 || code === USER_DEFINED || !horizontal.id || lookup(String(code))?.kind !== 'vertical')
    return horizontal;
  return crsOf(`${horizontal.id}+${code}`) ?? horizontal;
}

/** What is written of a system: the three tags; `complete` is false where keys cannot state it and a .prj beside the file has to. */
export interface WrittenKeys {
  directory: number[];
  doubles: number[];
  ascii: string;
  complete: boolean;
}

/** Keys for a system. Those of a registered one are its code; another is stated by its parameters. */
export function writeGeoKeys(crs: Crs, pixelIsPoint: boolean): WrittenKeys {
  const keys: [number, number | string | { double: number }][] = [];
  const put = (key: number, value: number | string | { double: number }): void => void keys.push([key, value]);
  const horizontal = positionsOf(crs);
  let complete = true;
  const rasterType = pixelIsPoint ? 2 : 1;
  const code = (id: string | null): number | null => (id && /^EPSG:\d+$/.test(id) && +id.slice(5) < USER_DEFINED ? +id.slice(5) : null);
  const geographic = (base: GeographicCrs): void => {
    const own = code(base.id);
    put(KEY.geographic, own ?? USER_DEFINED);
    put(KEY.geographicCitation, base.name);
    if (own === null) {
      const datum = code(base.datum.id);
      put(KEY.datum, datum ?? USER_DEFINED);
      put(KEY.ellipsoid, USER_DEFINED);
      put(KEY.semiMajor, { double: base.datum.ellipsoid.a });
      put(KEY.inverseFlattening, { double: base.datum.ellipsoid.invF });
      if (base.datum.primeMeridian !== 0) put(KEY.meridianLongitude, { double: base.datum.primeMeridian });
    }
    put(KEY.angularUnit, 9102);
    if (base.degreesPerUnit !== 1) complete = own !== null;
  };
  if (!isOnEarth(horizontal)) {
    put(KEY.modelType, USER_DEFINED);
    put(KEY.rasterType, rasterType);
    put(KEY.citation, horizontal.name);
    putUnit(horizontal.unit, put);
  } else if (horizontal.kind === 'geographic') {
    put(KEY.modelType, MODEL.geographic);
    put(KEY.rasterType, rasterType);
    put(KEY.citation, horizontal.name);
    geographic(horizontal);
  } else {
    const own = code(horizontal.id);
    put(KEY.modelType, MODEL.projected);
    put(KEY.rasterType, rasterType);
    put(KEY.citation, horizontal.name);
    if (own !== null) put(KEY.projected, own);
    else {
      geographic(horizontal.base);
      const kind = PROJECTIONS.find((p) => p.method === horizontal.method);
      complete &&= kind !== undefined;
      put(KEY.projected, USER_DEFINED);
      put(KEY.projectedCitation, horizontal.name);
      if (kind) {
        put(KEY.projection, USER_DEFINED);
        put(KEY.transformation, kind.transformation);
        for (const [parameter, [key]] of Object.entries(kind.keys)) {
          const value = horizontal.parameters[+parameter];
          if (value === undefined) continue;
          put(key!, { double: ANGLES.has(+parameter) || RATIOS.has(+parameter) ? value : value / horizontal.unit.metres });
        }
      }
    }
    putUnit(horizontal.unit, put);
  }
  const vertical = verticalOf(crs);
  const height = vertical && code(vertical.id);
  if (height) put(KEY.vertical, height);
  else if (vertical) complete = false;
  return { ...packed(keys), complete };
}

function putUnit(unit: LinearUnit, put: (key: number, value: number | { double: number }) => void): void {
  const known = LINEAR_UNITS.find((u) => u.unit.metres === unit.metres);
  put(KEY.linearUnit, known?.code ?? USER_DEFINED);
  if (!known) put(KEY.linearUnitSize, { double: unit.metres });
}

/** The three tags; keys stand in the order of their numbers. */
function packed(keys: [number, number | string | { double: number }][]): Omit<WrittenKeys, 'complete'> {
  const doubles: number[] = [];
  let ascii = '';
  const entries: number[] = [];
  keys.sort((a, b) => a[0] - b[0]);
  for (const [key, value] of keys) {
    if (typeof value === 'number') entries.push(key, 0, 1, value);
    else if (typeof value === 'string') {
      // seven bits a letter, and the bar ends a text
      const text = `${value.replace(/[^\x20-\x7e]|\|/g, '?')}|`;
      entries.push(key, TAG.geoAscii, text.length, ascii.length);
      ascii += text;
    } else {
      entries.push(key, TAG.geoDoubles, 1, doubles.length);
      doubles.push(value.double);
    }
  }
  return { directory: [1, 1, 1, keys.length, ...entries], doubles, ascii };
}
