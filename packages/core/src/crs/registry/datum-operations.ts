import type { AreaOfUse, Datum } from '../crs';
import type { Helmert } from '../datum/helmert';
import { areaOf, row, rows } from './tables';

/** What an operation does to coordinates. Lengths in metres, angles in degrees. */
export type OperationContent =
  /** `helmert` at `epoch` (decimal years) where there are `rates` a year; `pivot` is the point that rotations turn about. */
  | { kind: 'helmert'; helmert: Helmert; rates: Helmert | null; epoch: number | null; pivot: readonly [number, number, number] | null }
  /** Added to latitude, longitude and height. */
  | { kind: 'offset'; lat: number; lon: number; height: number }
  /** Added to heights: at the origin, and by slopes (ratios) along the meridian and the parallel from it. */
  | { kind: 'vertical-offset'; height: number; origin: readonly [number, number]; slopeLat: number; slopeLon: number }
  | GridContent
  | { kind: 'chain'; steps: readonly { operation: DatumOperation; inverse: boolean }[] };

/** Shifts of latitude and longitude, of geocentric coordinates, or heights, in a file by one of these names. */
export interface GridContent {
  kind: 'grid';
  files: readonly GridName[];
  carries: 'horizontal' | 'geoid' | 'height' | 'geocentric';
}

/** A grid file that an operation names. */
export interface GridName {
  name: string;
  /** The file of this name leads from target to source. */
  reversed: boolean;
}

/** A registered change of datum, of positions or of heights, between two systems. */
export interface DatumOperation {
  /** "EPSG:1234"; "" when a definition states it. */
  id: string;
  name: string;
  /** EPSG code of the method, and its name. */
  method: number;
  methodName: string;
  /** EPSG codes of the systems that it joins. */
  source: string;
  target: string;
  /** Metres; null when the registry does not say. */
  accuracy_m: number | null;
  area: AreaOfUse | null;
  content: OperationContent;
  /** Operations between the same systems that the registry puts in its place. */
  supersededBy: readonly string[];
  /** Where it begins and ends, when it comes from a definition and not from the registry. */
  ends?: readonly [Datum, Datum];
}

/** Sign of the registered rotations against the position vector convention, by method; those not listed have none of their own. */
const COORDINATE_FRAME = new Set([9607, 1032, 1056, 1066, 9636, 1034]);
const HELMERT = new Set([9603, 1031, 9606, 1033, 9607, 1032, 1053, 1056, 1065, 1066, 9636, 1034, 1061, 1063]);
const GEOCENTRIC_GRID = new Set([1087]);
const HORIZONTAL_GRID = new Set([9613, 9614, 9615, 1074]);
const HEIGHT_GRID = new Set([1071, 1080, 1084, 1085, 1101, 1112, 9658]);

const PARAM_HELD = {
  lat: '8601',
  lon: '8602',
  height: '8603',
  geoidHeight: '8604',
  slopeLat: '8730',
  slopeLon: '8731',
  originLat: '8617',
  originLon: '8618',
};

interface Index {
  byId: Map<string, DatumOperation>;
  byEnd: Map<string, DatumOperation[]>;
}

let index: Index | null = null;

function load(): Index {
  if (index) return index;
  const byId = new Map<string, DatumOperation>();
  const alternatives = new Map<string, GridName[]>();
  for (const [original, packaged, older, reversed] of rows('gridNames')) {
    const list = alternatives.get(original!) ?? [];
    for (const name of [packaged, older]) if (name && name !== original) list.push({ name, reversed: reversed === '-' });
    alternatives.set(original!, list);
  }
  for (const [code, name, method, source, target, accuracy, area, values, superseded] of rows('operations')) {
    const id = idOf(code!);
    byId.set(id, {
      id,
      name: name!,
      method: +method!,
      methodName: row('methodNames', method!)?.[1] ?? `method ${method}`,
      source: `EPSG:${source}`,
      target: `EPSG:${target}`,
      accuracy_m: accuracy ? +accuracy : null,
      area: areaOf(area),
      content: contentOf(+method!, values ?? '', alternatives),
      supersededBy: superseded ? superseded.split(' ').map(idOf) : [],
    });
  }
  for (const [code, name, source, target, accuracy, area, steps, superseded] of rows('concatenated')) {
    const parts = steps!.split(' ').map((s) => byId.get(idOf(s))!);
    const id = idOf(code!);
    byId.set(id, {
      id,
      name: name!,
      method: 0,
      methodName: 'Concatenated operation',
      source: `EPSG:${source}`,
      target: `EPSG:${target}`,
      accuracy_m: accuracy ? +accuracy : null,
      area: areaOf(area),
      content: { kind: 'chain', steps: oriented(parts, `EPSG:${source}`) },
      supersededBy: superseded ? superseded.split(' ').map(idOf) : [],
    });
  }
  const byEnd = new Map<string, DatumOperation[]>();
  for (const operation of byId.values()) {
    for (const end of [operation.source, operation.target]) byEnd.set(end, [...(byEnd.get(end) ?? []), operation]);
  }
  return (index = { byId, byEnd });
}

const idOf = (code: string): string => (code.includes(':') ? code : `EPSG:${code}`);

/** Each step in the direction in which it carries on from the one before. */
function oriented(parts: DatumOperation[], start: string): { operation: DatumOperation; inverse: boolean }[] {
  let at = start;
  return parts.map((operation, k) => {
    // systems of one datum may follow each other under different codes: then the next step tells
    const next = parts[k + 1];
    const inverse =
      operation.target === at ||
      (operation.source !== at && next !== undefined && (operation.source === next.source || operation.source === next.target));
    at = inverse ? operation.source : operation.target;
    return { operation, inverse };
  });
}

function contentOf(method: number, values: string, alternatives: Map<string, GridName[]>): OperationContent {
  if (HELMERT.has(method)) {
    const v = values.split(' ').map(Number);
    const sign = COORDINATE_FRAME.has(method) ? -1 : 1;
    const seven = (at: number): Helmert => ({
      tx: v[at]!,
      ty: v[at + 1]!,
      tz: v[at + 2]!,
      rx: sign * v[at + 3]!,
      ry: sign * v[at + 4]!,
      rz: sign * v[at + 5]!,
      ds: v[at + 6]!,
    });
    return {
      kind: 'helmert',
      helmert: seven(0),
      rates: v.length === 15 ? seven(7) : null,
      epoch: v.length === 15 ? v[14]! : null,
      pivot: v.length === 10 ? [v[7]!, v[8]!, v[9]!] : null,
    };
  }
  if (!values.includes('=')) {
    const files = values.split(';').flatMap((name): GridName[] => [{ name, reversed: false }, ...(alternatives.get(name) ?? [])]);
    const carries = HORIZONTAL_GRID.has(method)
      ? 'horizontal'
      : GEOCENTRIC_GRID.has(method)
        ? 'geocentric'
        : HEIGHT_GRID.has(method)
          ? 'height'
          : 'geoid';
    return { kind: 'grid', files, carries };
  }
  const held = new Map(values.split(' ').map((pair) => pair.split('=') as [string, string]));
  const get = (code: string): number => Number(held.get(code) ?? 0);
  if (method === 9616 || method === 1046) {
    return {
      kind: 'vertical-offset',
      height: get(PARAM_HELD.height),
      origin: [get(PARAM_HELD.originLon), get(PARAM_HELD.originLat)],
      slopeLat: get(PARAM_HELD.slopeLat),
      slopeLon: get(PARAM_HELD.slopeLon),
    };
  }
  return { kind: 'offset', lat: get(PARAM_HELD.lat), lon: get(PARAM_HELD.lon), height: get(PARAM_HELD.geoidHeight) };
}

/** Every operation that is not deprecated. */
export function datumOperations(): Iterable<DatumOperation> {
  return load().byId.values();
}

/** Operations that begin or end at a system. */
export function operationsAt(crs: string): readonly DatumOperation[] {
  return load().byEnd.get(crs) ?? [];
}
