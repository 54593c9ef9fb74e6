import { type AreaOfUse, type Crs, type Datum, type GeographicCrs, type ProjectedCrs } from '../crs';
import type { Helmert } from '../datum/helmert';
import { METHODS } from '../methods/index';
import packed from './registry.json' with { type: 'json' };

/** A registered change of datum between two geographic systems. */
export interface DatumOperation {
  id: string;
  name: string;
  /** EPSG codes of the geographic systems that it joins. */
  source: string;
  target: string;
  helmert: Helmert;
  /** Metres; null when the registry does not say. */
  accuracy_m: number | null;
  area: AreaOfUse | null;
}

export const REGISTRY_VERSION: string = packed.version;

const rows = (table: string): string[][] => table.split('\n').map((line) => line.split('|'));

function areaOf(columns: string[]): AreaOfUse | null {
  const [name, west, south, east, north] = columns;
  return name ? { name, west: +west!, south: +south!, east: +east!, north: +north! } : null;
}

interface Tables {
  crs: Map<string, Crs>;
  deprecated: Set<string>;
  operations: DatumOperation[];
}

let tables: Tables | null = null;

function load(): Tables {
  if (tables) return tables;
  const datums = new Map<string, Datum>();
  for (const [code, name, ellipsoid, a, invF, pm] of rows(packed.datums)) {
    datums.set(code!, { id: `EPSG:${code}`, name: name!, ellipsoid: { name: ellipsoid!, a: +a!, invF: +invF! }, primeMeridian: +pm! });
  }
  const crs = new Map<string, Crs>();
  const deprecated = new Set<string>();
  for (const [code, name, datum, unit, old, ...area] of rows(packed.geographic)) {
    const id = `EPSG:${code}`;
    crs.set(id, { kind: 'geographic', id, name: name!, datum: datums.get(datum!)!, degreesPerUnit: +unit!, area: areaOf(area) });
    if (old === '1') deprecated.add(id);
  }
  for (const [code, name, base, method, values, unit, metres, old, ...area] of rows(packed.projected)) {
    const id = `EPSG:${code}`;
    const parameters: Record<number, number> = {};
    for (const pair of values!.split(' ')) {
      const [p, v] = pair.split('=');
      parameters[+p!] = +v!;
    }
    crs.set(id, {
      kind: 'projected', id, name: name!, base: crs.get(`EPSG:${base}`) as GeographicCrs, method: +method!, parameters,
      unit: { name: unit!, metres: +metres! }, area: areaOf(area),
    });
    if (old === '1') deprecated.add(id);
  }
  const operations = rows(packed.operations).map(([code, name, source, target, values, accuracy, ...area]): DatumOperation => {
    const [tx, ty, tz, rx, ry, rz, ds] = values!.split(' ').map(Number) as [number, number, number, number, number, number, number];
    return {
      id: `EPSG:${code}`, name: name!, source: `EPSG:${source}`, target: `EPSG:${target}`,
      helmert: { tx, ty, tz, rx, ry, rz, ds }, accuracy_m: accuracy === '' ? null : +accuracy!, area: areaOf(area),
    };
  });
  return (tables = { crs, deprecated, operations });
}

/** The CRS of a code such as "EPSG:2193" or "2193"; undefined when the registry does not hold it. */
export function lookupCrs(code: string): Crs | undefined {
  const id = /^\d+$/.test(code) ? `EPSG:${code}` : code.toUpperCase();
  return load().crs.get(id);
}

export function isDeprecated(id: string): boolean {
  return load().deprecated.has(id);
}

/** Every CRS of the registry, geographic ones first, by ascending code. */
export function allCrs(): Iterable<Crs> {
  return load().crs.values();
}

export function datumOperations(): readonly DatumOperation[] {
  return load().operations;
}

/** Search by code, by words of the name, or by words of the area of use; at most `limit`, best first. */
export function searchCrs(text: string, limit = 20): Crs[] {
  const words = text.toLowerCase().replace(/^epsg:\s*/, '').split(/[\s/,]+/).filter(Boolean);
  if (words.length === 0) return [];
  const hits: { crs: Crs; score: number }[] = [];
  for (const crs of allCrs()) {
    if (isDeprecated(crs.id!)) continue;
    const code = crs.id!.slice(5);
    const name = crs.name.toLowerCase();
    const area = crs.area?.name.toLowerCase() ?? '';
    let score = 0;
    for (const word of words) {
      if (code === word) score += 100;
      else if (name.split(/[\s/]+/).includes(word)) score += 12;
      else if (name.includes(word)) score += 6;
      else if (code.startsWith(word)) score += 4;
      else if (area.includes(word)) score += 2;
      else { score = 0; break; }
    }
    if (score > 0) hits.push({ crs, score: score - name.length / 1000 });
  }
  return hits.sort((a, b) => b.score - a.score).slice(0, limit).map((h) => h.crs);
}

/**
 * The registered CRS with the same content (method, parameters, ellipsoid, datum's name, unit), whatever it is called.
 * Undefined when there is none. Where several agree, the one that is not deprecated and has the lowest code.
 */
export function identifyCrs(crs: Crs): Crs | undefined {
  let best: Crs | undefined;
  for (const candidate of allCrs()) {
    if (!sameDefinition(candidate, crs)) continue;
    if (!isDeprecated(candidate.id!)) return candidate;
    best ??= candidate;
  }
  return best;
}

/** True when two systems have the same content, whatever they are called. */
export function sameDefinition(a: Crs, b: Crs): boolean {
  if (a.kind === 'geographic' || b.kind === 'geographic') {
    return a.kind === 'geographic' && b.kind === 'geographic' && sameDatum(a.datum, b.datum) && near(a.degreesPerUnit, b.degreesPerUnit, 1e-9);
  }
  return sameProjection(a, b) && sameDatum(a.base.datum, b.base.datum);
}

function sameProjection(a: ProjectedCrs, b: ProjectedCrs): boolean {
  if (a.method !== b.method || !near(a.unit.metres, b.unit.metres, 1e-9)) return false;
  return METHODS.get(a.method)!.parameters.every((p) => near(a.parameters[p] ?? 0, b.parameters[p] ?? 0, 1e-9));
}

/** Datums are the same when their names agree letter by letter, cases, blanks and a leading "D_" apart, and their figures too. */
function sameDatum(a: Datum, b: Datum): boolean {
  return plain(a.name) === plain(b.name) && near(a.ellipsoid.a, b.ellipsoid.a, 1e-9) && near(a.ellipsoid.invF, b.ellipsoid.invF, 1e-8)
    && Math.abs(a.primeMeridian - b.primeMeridian) < 1e-7;
}

const plain = (name: string): string =>
  name.toLowerCase().replace(/^d_/, '').replace(/[^a-z0-9]/g, '').replace(/ensemble$/, '').replace('worldgeodeticsystem', 'wgs');

const near = (a: number, b: number, relative: number): boolean => Math.abs(a - b) <= relative * Math.max(1, Math.abs(a), Math.abs(b));
