import { holds, widthOf } from './area';
import { type Box, boxesOf, common, sizeOf } from './boxes';
import type { AreaOfUse, EarthCrs, GeocentricCrs } from './crs';
import { wrapDegrees } from './methods/method';
import { type DatumPath, datumPaths, detours, nameOf } from './operations';

/** Longitude and latitude, degrees. */
export type Position = readonly [number, number];

/** A path that would serve a part of the data better than the one for all of it. */
export interface BetterPart {
  path: DatumPath;
  /** How much of the area of the data it is about, 0 to 1. */
  share: number;
}

/**
 * The operations between two systems, from which one is chosen by where the data lies: of those whose area holds it the most accurate one,
 * of two equally accurate ones that whose area is a part of the other's, and one for land before one that is only for the sea.
 *
 * Source: PROJ 9.1, `pj_get_suggested_operation` in 4D_api.cpp, which chooses so at run time. Where none of the operations holds the data PROJ
 * takes the numbers over as they are; here a detour through a third system is looked for, and then the operation whose area is nearest.
 */
export class OperationSet {
  /** All of them in the order of `datumPaths`, those that lack a grid last. */
  readonly paths: readonly DatumPath[];
  private readonly usable: readonly DatumPath[];
  private around: readonly DatumPath[] | null = null;

  constructor(
    private readonly from: EarthCrs | GeocentricCrs,
    private readonly to: EarthCrs | GeocentricCrs,
  ) {
    this.paths = datumPaths(from, to);
    this.usable = this.paths.filter((p) => p.missing.length === 0);
  }

  private get detours(): readonly DatumPath[] {
    return (this.around ??= detours(this.from, this.to));
  }

  /** Whether there is more than one to choose from. */
  get isChoice(): boolean {
    return this.usable.length > 1 || (this.usable.length === 1 && this.usable[0]!.area !== null && this.detours.length > 0);
  }

  /** The path for one position. */
  at(position: Position): DatumPath {
    const holding = (paths: readonly DatumPath[]): DatumPath | null => bestOf(paths.filter((p) => holdsPosition(p, position)));
    return holding(this.usable) ?? holding(this.detours) ?? this.nearest(position);
  }

  /** The path for data that lies in an area: the best of those that hold all of it, else of those that hold most of it, else the nearest one. */
  forArea(area: AreaOfUse): DatumPath {
    const most = (paths: readonly DatumPath[]): number => Math.max(0, ...paths.map((p) => shareOf(p, area)));
    const direct = most(this.usable);
    const [paths, share] = direct > WHOLE || most(this.detours) <= direct ? [this.usable, direct] : [this.detours, most(this.detours)];
    return share > 0 ? bestOf(paths.filter((p) => shareOf(p, area) > share - (1 - WHOLE)))! : this.nearest(middleOf(area));
  }

  /** The paths that are better than the chosen one in some part of an area, the largest part first; none where it is the best throughout. */
  betterParts(chosen: DatumPath, area: AreaOfUse): BetterPart[] {
    const better = new Set<DatumPath>();
    for (const position of sampleOf(area)) {
      const path = this.at(position);
      if (path !== chosen && isMoreAccurate(path, chosen) && holdsPosition(path, position)) better.add(path);
    }
    return [...better].map((path) => ({ path, share: shareOf(path, area) })).sort((a, b) => b.share - a.share);
  }

  /** The most accurate path that would serve a whole area better than the chosen one if its grid were at hand; null where there is none. */
  betterWithGrid(chosen: DatumPath, area: AreaOfUse): DatumPath | null {
    return bestOf(this.paths.filter((p) => p.missing.length > 0 && isMoreAccurate(p, chosen) && shareOf(p, area) > WHOLE));
  }

  /** The path whose area is nearest to a position that lies in none; the first of those that are equally near. */
  private nearest([lon, lat]: Position): DatumPath {
    const away = ({ area }: DatumPath): number =>
      Math.min(
        ...(area ?? []).map(([west, south, east, north]) => {
          const aside = Math.min(...[-360, 0, 360].map((turn) => Math.max(west - (lon + turn), 0, lon + turn - east)));
          return Math.hypot(aside * Math.cos((lat * Math.PI) / 180), Math.max(south - lat, 0, lat - north));
        }),
      );
    return this.usable.reduce((best, path) => (away(path) < away(best) ? path : best), this.usable[0] ?? this.paths[0]!);
  }
}

/** A share from which all of an area is held, but for arithmetic. */
const WHOLE = 1 - 1e-6;

/** How much of an area a path holds, 0 to 1; all of it where the registry does not say. */
const shareOf = (path: DatumPath, area: AreaOfUse): number => (path.area ? shareWithin(area, path.area) : 1);

const isMoreAccurate = (path: DatumPath, other: DatumPath): boolean =>
  path.accuracy_m !== null && (other.accuracy_m === null || path.accuracy_m < other.accuracy_m);

/** Null transformations that PROJ does not replace by one of the same accuracy. */
const PRIORITY = /^(NAD83 to NAD83\(HARN\) \(47\)|(Inverse of )?GDA94 to WGS 84 \(1\)|(Inverse of )?WGS 84 to GDA2020 \(1\))$/;

function bestOf(paths: readonly DatumPath[]): DatumPath | null {
  let best: DatumPath | null = null;
  for (const path of paths) if (best === null || goesBefore(path, best)) best = path;
  return best;
}

function goesBefore(path: DatumPath, best: DatumPath): boolean {
  if (path.areaOf?.offshore) return false;
  if (isMoreAccurate(path, best)) return true;
  return path.accuracy_m === best.accuracy_m && !PRIORITY.test(nameOf(best)) && isWithin(path, best) && !isWithin(best, path);
}

const isWithin = ({ area }: DatumPath, { area: other }: DatumPath): boolean =>
  area !== null &&
  (other === null || area.every(([w, s, e, n]) => other.some(([w2, s2, e2, n2]) => w >= w2 && s >= s2 && e <= e2 && n <= n2)));

function holdsPosition({ area }: DatumPath, position: Position): boolean {
  return area === null || area.some(([west, south, east, north]) => holds({ name: '', west, south, east, north }, position));
}

/** Degrees by which an area without width or height is widened, so that it has a size. */
const LEAST = 1e-9;

/** How much of an area lies in some boxes, 0 to 1. */
export function shareWithin(area: AreaOfUse, boxes: readonly Box[]): number {
  const data = boxesOf(area).map(([w, s, e, n]): Box =>
    e - w > LEAST && n - s > LEAST ? [w, s, e, n] : [w - LEAST, s - LEAST, e + LEAST, n + LEAST],
  );
  return Math.min(1, sizeOf(common(data, boxes)) / sizeOf(data));
}

function middleOf(area: AreaOfUse): Position {
  return [wrapDegrees(area.west + widthOf(area) / 2), (area.south + area.north) / 2];
}

/** Positions along each side of a grid over an area. */
const SAMPLED = 8;

function* sampleOf(area: AreaOfUse): Generator<Position> {
  for (let i = 0; i <= SAMPLED; i++)
    for (let j = 0; j <= SAMPLED; j++) {
      const lon = area.west + (widthOf(area) * i) / SAMPLED;
      yield [wrapDegrees(lon), area.south + ((area.north - area.south) * j) / SAMPLED];
    }
}
