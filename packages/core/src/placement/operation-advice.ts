import { OperationSet, shareWithin } from '../crs/operation-set';
import { type AreaOfUse, type Crs, isOnEarth } from '../crs/crs';
import { type DatumPath, nameOf } from '../crs/operations';
import type { Finding } from '../model/finding';
import { areaOfExtent } from './extent-on-earth';
import type { PlacedIn, Route } from './route';

/** An operation between two systems as somebody who chooses one sees it. */
export interface OperationChoice {
  path: DatumPath;
  /** How much of where the source lies is in the area of the operation, 0 to 1; null where either is not known. */
  share: number | null;
}

const accuracy = (m: number | null): string => (m === null ? 'of unknown accuracy' : `accurate to ${m} m`);

/** The operations that lead from where a source is placed into a system, those that hold all of it first, the more accurate before the less. */
export function operationChoices({ crs, extent }: PlacedIn, { placement }: Pick<Route, 'placement'>, target: Crs): OperationChoice[] {
  if (!isOnEarth(crs) || !isOnEarth(target)) return [];
  const area = areaOfExtent(crs, placement, extent);
  const choices = new OperationSet(crs, target).paths.map((path): OperationChoice => ({
    path,
    share: area && path.area && shareWithin(area, path.area),
  }));
  const rank = ({ path, share }: OperationChoice): number => (path.ballpark ? -1 : share === null ? 0.5 : share);
  return choices
    .map((choice, order) => ({ choice, order }))
    .sort(
      (a, b) =>
        Number(a.choice.path.missing.length > 0) - Number(b.choice.path.missing.length > 0) ||
        Math.round(100 * (rank(b.choice) - rank(a.choice))) ||
        (a.choice.path.accuracy_m ?? Infinity) - (b.choice.path.accuracy_m ?? Infinity) ||
        a.order - b.order,
    )
    .map(({ choice }) => choice);
}

/**
 * What a person should know of the operation by which a source gets into a system: that another one would be better in a part of where it
 * lies, that it lies outside the operation's area, or that a grid file would make it more accurate. Nothing is said of what was chosen by hand,
 * but that it does not hold the data.
 */
export function operationFindings(source: string, placed: PlacedIn, route: Route, target: Crs): Finding[] {
  const { path } = route.transform;
  const area = isOnEarth(placed.crs) && isOnEarth(target) ? areaOfExtent(placed.crs, route.placement, placed.extent) : null;
  if (!area || path.steps.length === 0) return [];
  return [
    ...outsideFindings(source, path, area),
    ...(placed.operation === undefined && isOnEarth(placed.crs) && isOnEarth(target)
      ? adviceOn(source, new OperationSet(placed.crs, target), path, area)
      : []),
  ];
}

function outsideFindings(source: string, path: DatumPath, area: AreaOfUse): Finding[] {
  const inside = path.area ? shareWithin(area, path.area) : 1;
  if (inside > 1 - 1e-6) return [];
  const place = path.areaOf?.name ?? path.steps.map((s) => s.operation.area?.name).join(' and ');
  return [
    {
      code: 'operation-outside',
      severity: 'caution',
      message: `${inside > 0 ? `About ${Math.max(1, Math.round(100 * (1 - inside)))} % of where it lies` : 'It'} is outside the area of ${nameOf(path)} (${place}), and ${inside > 0 ? 'no operation holds all of it' : 'no operation has an area that holds it'}: its accuracy is not known there.`,
      count: 1,
      location: source,
    },
  ];
}

/** Operations that are named in one sentence. */
const NAMED = 3;

function adviceOn(source: string, operations: OperationSet, chosen: DatumPath, area: AreaOfUse): Finding[] {
  const findings: Finding[] = [];
  const parts = operations.betterParts(chosen, area);
  if (parts.length > 0) {
    const named = parts.slice(0, NAMED).map(({ path, share }) => `${nameOf(path)} (${accuracy(path.accuracy_m)}, ${percent(share)} of it)`);
    findings.push({
      code: 'operation-parts',
      severity: 'caution',
      message: `It spans the areas of several operations. ${nameOf(chosen)}, ${accuracy(chosen.accuracy_m)}, serves all of it; ${named.join(', ')}${parts.length > NAMED ? ' and others' : ''} would be better for a part. Choose one of them in Place, or the best one for each part.`,
      count: parts.length,
      location: source,
    });
  }
  const grid = operations.betterWithGrid(chosen, area);
  if (grid)
    findings.push({
      code: 'operation-grid',
      severity: 'info',
      message: `With the grid file ${grid.missing.join(' and ')}, which is not at hand, ${nameOf(grid)} would be ${accuracy(grid.accuracy_m)} instead of ${chosen.accuracy_m === null ? 'unknown' : `${chosen.accuracy_m} m`}.`,
      count: 1,
      location: source,
    });
  return findings;
}

const percent = (share: number): string => `${Math.max(1, Math.round(100 * share))} %`;
