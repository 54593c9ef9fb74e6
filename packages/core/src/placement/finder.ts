import type { Bounds } from '../geometry/bounds';
import { compilePlacement, type PlacementParameters } from './placement-transform';
import { MISTAKEN_UNITS } from './ratio';
import { holds, toGreenwich, widthOf } from '../crs/area';
import { type EarthCrs, PARAM, type ProjectedCrs } from '../crs/crs';
import { projectorOf } from '../crs/projector';
import { allCrs, isDeprecated } from '../crs/registry/registry';

/** A system in which the numbers of an extent would make sense. */
export interface Candidate {
  crs: EarthCrs;
  parameters: PlacementParameters;
  /** What would have to have gone wrong with the numbers; null when they are taken as they are. */
  mistake: string | null;
  /** Degrees on the CRS's own datum, east of Greenwich, of the middle of the extent. */
  lon: number;
  lat: number;
  /** Share of the extent's corners and middle that lie in the area of use, 0 to 1. */
  inside: number;
  score: number;
  /** Kilometres to the nearest place where work lies already; null when there is none. */
  away_km: number | null;
  /** Kilometres to the place that was pointed at. */
  pointed_km: number | null;
  /** True for the first one, when it is far ahead of the next: then nothing needs deciding. */
  clear: boolean;
}

/** What the work has to do with already. */
export interface Known {
  /** Codes of the systems that this work is in. */
  systems: ReadonlySet<string>;
  /** Codes of the systems that other work is in. */
  familiar?: ReadonlySet<string>;
  /** Longitude and latitude, degrees, of what is placed in this work. */
  places: readonly (readonly [number, number])[];
  /** Metres in the unit that the numbers are said to be in: a system that counts in it, or in one that is taken for it, is likelier. */
  unit_m?: number | null;
  /** A place that was pointed at. */
  near?: readonly [number, number] | null;
}

/** How much better the first candidate must be for it to be taken without asking. */
const CLEAR = 5;
/** Kilometres within which two places are of the same work. */
const NEAR_KM = 60;

/** A way in which numbers may not be those of the system, and how much less likely that makes it. */
interface Guess {
  numbers: PlacementParameters;
  mistake: string | null;
  cost: number;
}

/**
 * Tries an extent in every registered system, as it stands and with the mistakes that happen to numbers: another unit, swapped axes,
 * both signs turned, a false easting or leading millions dropped. Those remain in whose area of use it lies. Best first: near a place
 * where work lies already or that was pointed at, systems that are in use, without a mistake, the usual frame of a datum, a smaller area of
 * use; numbers that can be degrees are taken for degrees first.
 *
 * @param unit_m metres in one unit of the numbers; null when it is not known: then the unit of each system is taken
 */
export function findCandidates(extent: Bounds, unit_m: number | null, known: Known, limit: number): Candidate[] {
  const found: Candidate[] = [];
  for (const { crs, plane } of systems()) {
    for (const guess of guessesFor(crs, plane, extent, unit_m)) {
      if (plane && !middleIn(plane, crs as ProjectedCrs, guess.numbers, extent)) continue;
      const candidate = tried(crs, guess, extent, known);
      if (candidate) found.push(candidate);
    }
  }
  found.sort((a, b) => b.score - a.score || a.crs.id!.localeCompare(b.crs.id!, 'en', { numeric: true }));
  // of one system the likeliest reading is enough, and mistakes are for when nothing better fits
  const seen = new Set<string>();
  const kept = found.filter((c) => !seen.has(c.crs.id!) && seen.add(c.crs.id!));
  const isLikely = (c: Candidate): boolean => c.mistake === null || Math.min(c.away_km ?? Infinity, c.pointed_km ?? Infinity) < NEAR_KM;
  // numbers that can be degrees are degrees: a plane has such numbers within metres of its origin alone
  const [degrees, planes] = [kept.filter((c) => c.crs.kind === 'geographic'), kept.filter((c) => c.crs.kind === 'projected')];
  const listed = [degrees, planes].flatMap((all) => {
    const likely = all.filter(isLikely);
    return spread(likely.length > 0 || (all === planes && degrees.length > 0) ? likely : all);
  });
  const [first, second] = listed;
  if (first) first.clear = !second || first.score - second.score >= CLEAR;
  return listed.slice(0, limit);
}

/** Kilometres within which two readings of the numbers mean the same place. */
const SAME_PLACE_KM = 100;
/** How much a system gives way for each better one at the same place, where nothing says which place is meant. */
const CROWDED = 4;

/** Lets every place that fits be seen before the many systems of one: the versions of a datum differ by centimetres, places by oceans. */
function spread(candidates: Candidate[]): Candidate[] {
  const places: { at: [number, number]; n: number }[] = [];
  const ranked = candidates.map((c) => {
    const known = Math.min(c.away_km ?? Infinity, c.pointed_km ?? Infinity) < NEAR_KM;
    const place = places.find((p) => distance_km(p.at, [c.lon, c.lat]) < SAME_PLACE_KM);
    if (!place) places.push({ at: [c.lon, c.lat], n: 1 });
    return { c, rank: c.score - (place && !known ? CROWDED * place.n++ : 0) };
  });
  return ranked.sort((a, b) => b.rank - a.rank).map((r) => r.c);
}

interface System {
  crs: EarthCrs;
  /** Bounds of the area of use in the plane of the system, in its unit, with room for bends between the points tried; null for degrees. */
  plane: Bounds | null;
}

let every: System[] | null = null;

/** Every system in use, made ready at the first search. */
function systems(): System[] {
  every ??= [...allCrs()]
    .filter((c) => c.area && !isDeprecated(c.id!))
    .map((crs) => ({ crs, plane: crs.kind === 'projected' ? planeOf(crs) : null }));
  return every;
}

function planeOf(crs: ProjectedCrs): Bounds {
  const { west, south, north } = crs.area!;
  const pm = crs.base.datum.primeMeridian;
  const steps = [0, 0.25, 0.5, 0.75, 1];
  const points = Float64Array.from(
    steps.flatMap((s) => steps.flatMap((t) => [west + s * widthOf(crs.area!) - pm, south + t * (north - south)])),
  );
  projectorOf(crs).forward(points, 0, points.length / 2, 2);
  const box: Bounds = [Infinity, Infinity, -Infinity, -Infinity];
  for (let i = 0; i < points.length; i += 2) {
    if (!Number.isFinite(points[i]!)) continue;
    const x = points[i]! / crs.unit.metres,
      y = points[i + 1]! / crs.unit.metres;
    box[0] = Math.min(box[0], x);
    box[1] = Math.min(box[1], y);
    box[2] = Math.max(box[2], x);
    box[3] = Math.max(box[3], y);
  }
  const [dx, dy] = [0.1 * (box[2] - box[0]), 0.1 * (box[3] - box[1])];
  return [box[0] - dx, box[1] - dy, box[2] + dx, box[3] + dy];
}

const FALSE_EASTINGS = [PARAM.falseEasting, PARAM.eastingAtCentre, PARAM.eastingAtFalseOrigin];
const FALSE_NORTHINGS = [PARAM.falseNorthing, PARAM.northingAtCentre, PARAM.northingAtFalseOrigin];

function* guessesFor(crs: EarthCrs, plane: Bounds | null, [minx, miny, maxx, maxy]: Bounds, unit_m: number | null): Iterable<Guess> {
  const degrees = Math.max(Math.abs(minx), Math.abs(maxx)) <= 360 && Math.max(Math.abs(miny), Math.abs(maxy)) <= 360;
  if (crs.kind === 'geographic') {
    if (!degrees) return;
    yield { numbers: { unit_m: null }, mistake: null, cost: 0 };
    yield { numbers: { unit_m: null, axesSwapped: true }, mistake: 'if latitude comes first', cost: 3 };
    return;
  }
  const own = unit_m ?? crs.unit.metres;
  yield { numbers: { unit_m }, mistake: null, cost: 0 };
  yield { numbers: { unit_m, axesSwapped: true }, mistake: `if ${crs.axes.letters[1]} comes before ${crs.axes.letters[0]}`, cost: 5 };
  if (crs.axes.x === 'west' || crs.axes.y === 'south')
    yield { numbers: { unit_m, signReversed: true }, mistake: 'with both signs turned, as drawings in it often are', cost: 1 };
  for (const unit of MISTAKEN_UNITS)
    if (Math.abs(unit.metres - own) > 1e-9 * own)
      yield { numbers: { unit_m: unit.metres }, mistake: `if the numbers are ${unit.plural}`, cost: 6 };
  const sum = (codes: number[]): number => codes.reduce((s, c) => s + (crs.parameters[c] ?? 0), 0) / crs.unit.metres;
  const [fe, fn] = [sum(FALSE_EASTINGS), sum(FALSE_NORTHINGS)];
  if (fe !== 0) yield { numbers: { unit_m, offset: [fe, 0] }, mistake: 'if the false easting was dropped', cost: 7 };
  if (fn !== 0) yield { numbers: { unit_m, offset: [0, fn] }, mistake: 'if the false northing was dropped', cost: 7 };
  if (fe !== 0 && fn !== 0) yield { numbers: { unit_m, offset: [fe, fn] }, mistake: 'if the false origin was dropped', cost: 7 };
  // leading digits: whole millions of metres in either direction, or both, that lead into the plane of the system
  const k = own / crs.unit.metres;
  const most = Math.max(Math.abs(minx), Math.abs(maxx), Math.abs(miny), Math.abs(maxy)) * k;
  if (most >= MILLION || crs.unit.metres !== 1 || !plane) return;
  for (const x of millions(((minx + maxx) / 2) * k, plane[0], plane[2])) {
    for (const y of millions(((miny + maxy) / 2) * k, plane[1], plane[3])) {
      if (x !== 0 || y !== 0)
        yield { numbers: { unit_m, offset: [x, y] }, mistake: 'if leading digits (whole millions) were dropped', cost: 8 };
    }
  }
}

const MILLION = 1e6;

/** Whole millions that bring a number between two others; at most a few, since more would say nothing. */
function millions(value: number, least: number, most: number): number[] {
  const first = Math.max(0, Math.ceil((least - value) / MILLION)),
    last = Math.floor((most - value) / MILLION);
  return last < first || last - first > 3
    ? last - first > 3
      ? [0]
      : []
    : Array.from({ length: last - first + 1 }, (_, i) => (first + i) * MILLION);
}

/** Whether the middle of an extent comes into the plane of a system; rules most guesses out by a few sums. */
function middleIn(
  plane: Bounds,
  crs: ProjectedCrs,
  { unit_m, axesSwapped: swapped, signReversed: turned, offset: plus }: PlacementParameters,
  [minx, miny, maxx, maxy]: Bounds,
): boolean {
  const k = ((turned ? -1 : 1) * (unit_m ?? crs.unit.metres)) / crs.unit.metres / 2;
  const x = (swapped ? miny + maxy : minx + maxx) * k + (plus?.[0] ?? 0),
    y = (swapped ? minx + maxx : miny + maxy) * k + (plus?.[1] ?? 0);
  return x >= plane[0] && x <= plane[2] && y >= plane[1] && y <= plane[3];
}

function tried(crs: EarthCrs, guess: Guess, [minx, miny, maxx, maxy]: Bounds, known: Known): Candidate | null {
  const points = Float64Array.of((minx + maxx) / 2, (miny + maxy) / 2, minx, miny, maxx, miny, maxx, maxy, minx, maxy);
  const numbers = compilePlacement(crs, guess.numbers);
  numbers.forward(points, 0, 5, 2);
  toGreenwich(crs, points, 5, 2);
  const area = crs.area!;
  if (!holds(area, [points[0]!, points[1]!])) return null;
  let inside = 0;
  for (let i = 0; i < 10; i += 2) if (holds(area, [points[i]!, points[i + 1]!])) inside++;
  const [lon, lat] = [points[0]!, points[1]!];
  const distances = known.places.map((p) => distance_km(p, [lon, lat]));
  const away_km = distances.length > 0 ? Math.min(...distances) : null;
  const pointed = known.near ? distance_km(known.near, [lon, lat]) : null;
  // a small area that holds all of the numbers says more than a continent; a place that was pointed at says most
  const score =
    inside * 2 -
    (crs.kind === 'geographic' ? 0.5 : 1) * Math.log2(Math.max(0.5, widthOf(area)) * Math.max(0.5, area.north - area.south)) +
    (away_km !== null && away_km < NEAR_KM ? 20 : 0) +
    (pointed !== null ? Math.max(-10, 20 - 4 * Math.log2(1 + pointed / 20)) : 0) +
    (known.systems.has(crs.id!) ? 10 : known.familiar?.has(crs.id!) ? 2 : 0) +
    usualness(crs) +
    (crs.kind === 'projected' && known.unit_m && Math.abs(crs.unit.metres / known.unit_m - 1) < NEAR_UNIT ? 5 : 0) -
    guess.cost;
  return {
    crs,
    parameters: guess.numbers,
    mistake: guess.mistake,
    lon,
    lat,
    inside: inside / 5,
    score,
    away_km,
    pointed_km: pointed,
    clear: false,
  };
}

/** Relative difference of units that are taken for each other, such as the two feet. */
const NEAR_UNIT = 1e-4;

/** What devices and the web give positions in. Common practice, no source. */
const EVERYWHERE = 'EPSG:4326';

/** Frames that satellites and networks are computed in, and data is hardly ever given in. Common practice, no source. */
const RARE = /^(ITRF|ETRF|ATRF|IGS|IGb|WGS 84 \(|PZ-|GTRF|SLR|ITRS)|\(lon-lat\)/;

/** Years of a datum for one point of the score: a newer one has followed an older one. */
const YEARS = 10;

/** How usual it is for data to be given in a system: the newer of the datums of a place before the older, one of the whole earth before both. */
function usualness(crs: EarthCrs): number {
  const { datum, name } = crs.kind === 'projected' ? crs.base : crs;
  if (RARE.test(name) || RARE.test(crs.name)) return -10;
  if (crs.kind === 'geographic' && crs.dimension === 3) return -10;
  // an ensemble of realisations has no year of its own, and is what is meant by default
  const year = datum.ensemble_m !== undefined ? 2011 : Number(datum.published?.slice(0, 4)) || 1985;
  return (Math.max(1900, year) - 1950) / YEARS + (crs.id === EVERYWHERE ? 6 : 0);
}

function distance_km([lon1, lat1]: readonly [number, number], [lon2, lat2]: readonly [number, number]): number {
  const rad = Math.PI / 180;
  const h =
    Math.sin(((lat2 - lat1) * rad) / 2) ** 2 + Math.cos(lat1 * rad) * Math.cos(lat2 * rad) * Math.sin(((lon2 - lon1) * rad) / 2) ** 2;
  return 2 * 6371 * Math.asin(Math.min(1, Math.sqrt(h)));
}
