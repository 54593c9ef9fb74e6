import type { Bounds } from '../geometry/bounds';
import type { Crs } from './crs';
import { allCrs, isDeprecated, lookupCrs } from './registry/registry';
import { compileTransform, type Transform } from './transform';

/** A system in which the numbers of an extent would make sense. */
export interface Candidate {
  crs: Crs;
  /** Metres in one unit of the numbers; null when they are in the unit of the CRS. */
  unit_m: number | null;
  /** Degrees on the CRS's own datum, of the middle of the extent. */
  lon: number;
  lat: number;
  /** Share of the extent's corners and middle that lie in the area of use, 0 to 1. */
  inside: number;
  score: number;
  /** It would lie near a place where work lies already. */
  near: boolean;
  /** True for the first one, when it is far ahead of the next: then nothing needs deciding. */
  clear: boolean;
}

/**
 * Tries an extent, in the unit that the source states, in every registered system, and keeps those in whose area of use
 * it lies. Best first: those that put it near a place where work lies already, then systems that are in use, then the
 * smaller area of use.
 *
 * @param unit_m metres in one unit of the numbers; null when it is not known: then the unit of each system is taken
 */
export function findCandidates(extent: Bounds, unit_m: number | null, known: Known, limit: number): Candidate[] {
  const [minx, miny, maxx, maxy] = extent;
  const probes = [(minx + maxx) / 2, (miny + maxy) / 2, minx, miny, maxx, miny, maxx, maxy, minx, maxy];
  const degrees = Math.max(Math.abs(minx), Math.abs(maxx)) <= 360 && Math.max(Math.abs(miny), Math.abs(maxy)) <= 90;
  const found: Candidate[] = [];
  for (const crs of allCrs()) {
    if (isDeprecated(crs.id!) || !crs.area || (crs.kind === 'geographic') !== degrees) continue;
    const factor = crs.kind === 'projected' && unit_m !== null ? unit_m / crs.unit.metres : 1;
    const points = Float64Array.from(probes, (v) => v * factor);
    toOwnDegrees(crs)?.apply(points, 0, 5, 2);
    let inside = 0;
    for (let i = 0; i < 10; i += 2) if (within(points[i]!, points[i + 1]!, crs.area)) inside++;
    if (!within(points[0]!, points[1]!, crs.area)) continue;
    const [lon, lat] = [points[0]!, points[1]!];
    const near = known.places.some(([x, y]) => Math.abs(x - lon) * Math.cos((lat * Math.PI) / 180) < NEAR && Math.abs(y - lat) < NEAR);
    found.push({ crs, unit_m: crs.kind === 'projected' ? unit_m : null, lon, lat, near, inside: inside / 5, score: scoreOf(crs, inside / 5, near, known.systems.has(crs.id!)), clear: false });
  }
  found.sort((a, b) => b.score - a.score || a.crs.id!.localeCompare(b.crs.id!, 'en', { numeric: true }));
  const [first, second] = found;
  if (first) first.clear = !second || first.score - second.score >= CLEAR;
  return found.slice(0, limit);
}

/** What the work has to do with already. */
export interface Known {
  /** Codes of systems in use. */
  systems: ReadonlySet<string>;
  /** Longitude and latitude, degrees, of what is placed. */
  places: readonly [number, number][];
}

/** How much better the first candidate must be for it to be taken without asking. */
const CLEAR = 5;
/** Degrees within which two places are of the same work. */
const NEAR = 0.6;

const own = new Map<string, Transform | null>();

/** The way from a projected system to its own geographic one; kept, since every system is asked again and again. */
function toOwnDegrees(crs: Crs): Transform | null {
  if (crs.kind === 'geographic') return null;
  let way = own.get(crs.id!);
  if (way === undefined) own.set(crs.id!, (way = compileTransform(crs, lookupCrs(crs.base.id!)!)));
  return way;
}

function scoreOf(crs: Crs, inside: number, near: boolean, used: boolean): number {
  const { west, east, south, north } = crs.area!;
  const width = east >= west ? east - west : east - west + 360;
  // a system for a small area that holds all of the numbers says more than one for a continent
  return inside * 10 - Math.log2(Math.max(0.5, width) * Math.max(0.5, north - south)) + (near ? 20 : 0) + (used ? 10 : 0);
}

function within(lon: number, lat: number, area: NonNullable<Crs['area']>): boolean {
  if (!(lat >= area.south && lat <= area.north)) return false;
  return area.west <= area.east ? lon >= area.west && lon <= area.east : lon >= area.west || lon <= area.east;
}
