import { type Box, boxesOf, common, sizeOf } from './boxes';
import type { AreaOfUse, Datum, EarthCrs, GeocentricCrs, GeographicCrs } from './crs';
import { gridAtHand } from './datum/grid-registry';
import { type DatumOperation, operationsAt } from './registry/datum-operations';
import { geodeticOfDatum, lookup } from './registry/registry';

/** One registered operation, in the direction in which it is used. */
export interface DatumStep {
  operation: DatumOperation;
  /** Used by its registered reverse. */
  inverse: boolean;
  /** Leads back, exactly, from where the step has led. */
  undo: boolean;
}

/** A way from one datum to another. */
export interface DatumPath {
  steps: DatumStep[];
  /** Metres; the sum of the steps, null when one of them is not known. */
  accuracy_m: number | null;
  /** Where all steps hold; null when the registry does not say. */
  area: Box[] | null;
  /** The area of the step that is all of that; null where it is only what several have in common. */
  areaOf: AreaOfUse | null;
  /** Names of grid files that it needs and that are not at hand. */
  missing: string[];
  /** No change of datum is known, and numbers are taken over as if there were none: tens or hundreds of metres may be wrong. */
  ballpark: boolean;
}

/** Operations that the registry itself puts behind their like: NTF (Paris) to NTF (2), in whose remarks the value of (1) is preferred. */
const LAST: ReadonlySet<string> = new Set(['EPSG:1764', 'EPSG:1468']);

/** A geodetic system, as operations join them. */
type Geodetic = GeographicCrs | GeocentricCrs;

/**
 * The ways between the datums of two systems, the best first, as PROJ ranks them where nothing is known of the data: those whose grids are at
 * hand, those of known accuracy, those that cover more of the smaller area of use, the more accurate ones, those without grids, those of fewer
 * steps. A path without steps when the datums are the same; the ballpark as the last resort, never mixed with real ones.
 * Ways that lack a grid come after all that can be used.
 *
 * Source: the order of PROJ's operation factory (PROJ documentation, "Computation of coordinate operations between two CRS").
 */
export function datumPaths(from: EarthCrs | GeocentricCrs, to: EarthCrs | GeocentricCrs): DatumPath[] {
  const a = geodeticOf(from),
    b = geodeticOf(to);
  if (sameDatum(a.datum, b.datum)) return [{ steps: [], accuracy_m: 0, area: null, areaOf: null, missing: [], ballpark: false }];
  const stated = statedPaths(a.datum, b.datum, from, to);
  if (stated) return stated;
  const search = new Search(from.area, to.area);
  const usable = search.between(a, b, true);
  const more = search.between(a, b, false).filter((p) => p.missing.length > 0);
  const paths = [...search.sorted(usable), ...search.sorted(more)];
  return paths.some((p) => p.missing.length === 0)
    ? paths
    : [{ steps: [], accuracy_m: null, area: null, areaOf: null, missing: [], ballpark: true }, ...paths];
}

/** Operations between two systems through a third one, although there are others between their datums: they may hold where those do not. */
export function detours(from: EarthCrs | GeocentricCrs, to: EarthCrs | GeocentricCrs): DatumPath[] {
  const a = geodeticOf(from),
    b = geodeticOf(to);
  if (sameDatum(a.datum, b.datum) || a.datum.toWgs84 || b.datum.toWgs84) return [];
  const search = new Search(from.area, to.area);
  return search.sorted(search.around(a, b, true));
}

/** Ways by what a definition itself says of the way to WGS 84, which goes before the registry; null when neither says so. */
function statedPaths(a: Datum, b: Datum, from: EarthCrs | GeocentricCrs, to: EarthCrs | GeocentricCrs): DatumPath[] | null {
  const own = a.toWgs84 ? a : b.toWgs84 ? b : null;
  if (!own) return null;
  const wgs84 = lookup('EPSG:4326') as GeographicCrs;
  const operation: DatumOperation = {
    id: '',
    name: `${own.name || 'Datum'} to WGS 84 as the definition states`,
    method: 9606,
    methodName: 'Position Vector transformation (geog2D domain)',
    source: '',
    target: wgs84.id!,
    accuracy_m: null,
    area: null,
    supersededBy: [],
    ends: [own, wgs84.datum],
    content: { kind: 'helmert', helmert: own.toWgs84!, rates: null, epoch: null, pivot: null },
  };
  const step: DatumStep = { operation, inverse: own !== a, undo: false };
  const rest = own === a ? datumPaths(wgs84, to) : datumPaths(from, wgs84);
  return rest.map((p) => ({ ...p, steps: own === a ? [step, ...p.steps] : [...p.steps, step], accuracy_m: null }));
}

function geodeticOf(crs: EarthCrs | GeocentricCrs): Geodetic {
  const geodetic = crs.kind === 'projected' ? crs.base : crs;
  // what only a definition describes takes the operations of the registered systems of its datum
  const id = geodetic.id ?? (geodetic.datum.id && geodeticOfDatum(geodetic.datum.id).find((g) => lookup(g)?.kind === 'geographic'));
  return id ? ((lookup(id) as Geodetic | undefined) ?? geodetic) : geodetic;
}

/** Whether coordinates on two datums are the same numbers: by their codes, or else by what they say. */
export function sameDatum(a: Datum, b: Datum): boolean {
  if (a.id !== null && b.id !== null) return a.id === b.id;
  if (JSON.stringify(a.toWgs84) !== JSON.stringify(b.toWgs84)) return false;
  return (
    a.name === b.name && a.ellipsoid.a === b.ellipsoid.a && a.ellipsoid.invF === b.ellipsoid.invF && a.primeMeridian === b.primeMeridian
  );
}

class Search {
  /** The smaller area of use of the two systems. */
  private readonly interest: Box[] | null;

  constructor(source: AreaOfUse | null, target: AreaOfUse | null) {
    const [a, b] = [source && boxesOf(source), target && boxesOf(target)];
    this.interest = a && b && sizeOf(b) <= sizeOf(a) ? b : (a ?? b);
  }

  /** Every way that PROJ would consider: direct ones; else between other systems of the same datums; else through a third. */
  between(a: Geodetic, b: Geodetic, onlyAtHand: boolean): DatumPath[] {
    if (a.id === null || b.id === null) return [];
    const found = this.filtered(this.direct(a.id, b.id, onlyAtHand));
    if (found.length > 0) return found;
    const sources = a.datum.id === null ? [] : geodeticOfDatum(a.datum.id),
      targets = b.datum.id === null ? [] : geodeticOfDatum(b.datum.id);
    for (const s of sources)
      for (const t of targets) if (s !== a.id || t !== b.id) found.push(...this.filtered(this.direct(s, t, onlyAtHand)));
    return found.length > 0 ? found : this.around(a, b, onlyAtHand);
  }

  /** Through a third system, or a third datum. */
  around(a: Geodetic, b: Geodetic, onlyAtHand: boolean): DatumPath[] {
    const sources = a.datum.id === null ? [] : geodeticOfDatum(a.datum.id),
      targets = b.datum.id === null ? [] : geodeticOfDatum(b.datum.id);
    const found = this.through(a, b, onlyAtHand);
    for (const s of found.length > 0 ? [] : this.geodetics(sources))
      for (const t of this.geodetics(targets)) if (s !== a || t !== b) found.push(...this.through(s, t, onlyAtHand));
    return found.length > 0 ? found : this.throughDatum(sources, targets, onlyAtHand);
  }

  private geodetics(ids: readonly string[]): Geodetic[] {
    return ids.map((id) => lookup(id)).filter((c): c is Geodetic => c?.kind === 'geographic' || c?.kind === 'geocentric');
  }

  private direct(a: string, b: string, onlyAtHand: boolean): DatumPath[] {
    const steps: DatumStep[] = [];
    for (const operation of operationsAt(a)) {
      if (operation.source === a && operation.target === b) steps.push({ operation, inverse: false, undo: false });
      else if (operation.source === b && operation.target === a) steps.push({ operation, inverse: true, undo: false });
    }
    const ids = new Set(steps.map((s) => s.operation.id));
    return steps
      .filter(({ operation }) => !operation.supersededBy.some((id) => ids.has(id)))
      .map((step) => this.pathOf([step])!)
      .filter((p) => !onlyAtHand || p.missing.length === 0);
  }

  /** Two operations that meet in a geographic system that is not older than both ends. */
  private through(a: Geodetic, b: Geodetic, onlyAtHand: boolean): DatumPath[] {
    const oldest =
      a.datum.published && b.datum.published ? (a.datum.published < b.datum.published ? a.datum.published : b.datum.published) : '';
    const found: DatumPath[] = [];
    const reach = neighbours(b.id!);
    for (const hub of neighbours(a.id!)) {
      if (!reach.has(hub) || hub === a.id || hub === b.id) continue;
      const crs = lookup(hub);
      if (crs?.kind !== 'geographic' || (oldest && crs.datum.published && crs.datum.published < oldest)) continue;
      for (const first of this.direct(a.id!, hub, onlyAtHand)) {
        for (const second of this.direct(hub, b.id!, onlyAtHand)) {
          const steps = [...first.steps, ...second.steps];
          if (steps.some((s) => passes(s.operation, a.id!) || passes(s.operation, b.id!))) continue;
          const path = this.pathOf(steps);
          if (path) found.push(path);
        }
      }
    }
    return this.filtered(found);
  }

  /** Two operations that meet in one datum, though in different kinds of systems of it. */
  private throughDatum(sources: readonly string[], targets: readonly string[], onlyAtHand: boolean): DatumPath[] {
    const found: DatumPath[] = [];
    const outer = new Set([...sources, ...targets]);
    const reached = new Map<string, { from: string; to: string }[]>();
    const datumOf = (id: string): string | null => {
      const crs = lookup(id);
      return crs?.kind === 'geographic' || crs?.kind === 'geocentric' ? crs.datum.id : null;
    };
    for (const to of targets) {
      for (const from of neighbours(to)) {
        const datum = datumOf(from);
        if (datum && !outer.has(from)) reached.set(datum, [...(reached.get(datum) ?? []), { from, to }]);
      }
    }
    for (const source of sources) {
      for (const hub of neighbours(source)) {
        const datum = datumOf(hub);
        for (const { from, to } of (datum && reached.get(datum)) || []) {
          for (const first of this.direct(source, hub, onlyAtHand)) {
            for (const second of this.direct(from, to, onlyAtHand)) {
              const path = this.pathOf([...first.steps, ...second.steps]);
              if (path) found.push(path);
            }
          }
        }
      }
    }
    return this.filtered(found);
  }

  /** Null when the steps hold nowhere together. */
  private pathOf(steps: DatumStep[]): DatumPath | null {
    let accuracy: number | null = 0;
    let area: Box[] | null = null;
    let areaOf: AreaOfUse | null = null;
    for (const { operation } of steps) {
      accuracy = accuracy === null || operation.accuracy_m === null ? null : accuracy + operation.accuracy_m;
      if (!operation.area) continue;
      const own = boxesOf(operation.area);
      const both: Box[] = area ? common(area, own) : own;
      areaOf = isAllOf(both, own) ? operation.area : isAllOf(both, area) ? areaOf : null;
      area = both;
    }
    if (area?.length === 0) return null;
    return { steps, accuracy_m: accuracy, area, areaOf, missing: steps.flatMap((s) => missingGrids(s.operation)), ballpark: false };
  }

  private filtered(paths: DatumPath[]): DatumPath[] {
    if (!this.interest) return paths;
    const touching = paths.filter((p) => p.area && common(p.area, this.interest!).length > 0);
    return touching.length === 0 && !paths.some((p) => p.area) ? paths : touching;
  }

  sorted(paths: DatumPath[]): DatumPath[] {
    const measured = paths.map((path) => ({
      path,
      size: this.shareOf(path),
      grids: path.steps.some((s) => usesGrid(s.operation)),
      name: nameOf(path),
      isNull: path.steps.length === 0,
      // a copy of the numbers is no step
      steps: path.steps.filter((s) => !isCopy(s.operation)).length,
    }));
    return measured
      .sort((p, q) => {
        if (p.isNull !== q.isNull) return p.isNull ? 1 : -1;
        const known = Number(q.path.accuracy_m !== null) - Number(p.path.accuracy_m !== null);
        if (known !== 0) return known;
        if (p.path.accuracy_m === null && p.grids !== q.grids) return p.grids ? -1 : 1;
        if (Math.abs(p.size - q.size) > 1e-12 * Math.max(p.size, q.size)) return q.size - p.size;
        const accuracy = (p.path.accuracy_m ?? 0) - (q.path.accuracy_m ?? 0);
        if (accuracy !== 0) return accuracy;
        if (p.grids !== q.grids) return p.grids ? 1 : -1;
        if (p.steps !== q.steps) return p.steps - q.steps;
        // then PROJ takes the shorter name, and of two equally long ones the one that comes later: "(4)" before "(3)"
        const last =
          Number(p.path.steps.some((s) => LAST.has(s.operation.id))) - Number(q.path.steps.some((s) => LAST.has(s.operation.id)));
        if (last !== 0) return last;
        if (p.name.length !== q.name.length) return p.name.length - q.name.length;
        return p.name < q.name ? 1 : p.name > q.name ? -1 : 0;
      })
      .map((m) => m.path);
  }

  /** How much of the area in question a path covers. */
  private shareOf(path: DatumPath): number {
    return path.area && this.interest ? sizeOf(common(path.area, this.interest)) : 0;
  }
}

const isAllOf = (part: readonly Box[], whole: readonly Box[] | null): boolean =>
  whole !== null && Math.abs(sizeOf(part) - sizeOf(whole)) < 1e-9;

function neighbours(id: string): Set<string> {
  return new Set(operationsAt(id).map((o) => (o.source === id ? o.target : o.source)));
}

/** A chain that itself passes through a system. */
function passes(operation: DatumOperation, id: string): boolean {
  if (operation.content.kind !== 'chain') return false;
  return operation.content.steps.slice(0, -1).some((s) => (s.inverse ? s.operation.source : s.operation.target) === id);
}

/** Grid files that an operation needs and that are not at hand. */
export function missingGrids(operation: DatumOperation): string[] {
  const { content } = operation;
  if (content.kind === 'chain') return content.steps.flatMap((s) => missingGrids(s.operation));
  return content.kind === 'grid' && !gridAtHand(content) ? [content.files[0]!.name] : [];
}

/** Whether an operation, or a step of it, needs a grid file. */
export function usesGrid({ content }: DatumOperation): boolean {
  return content.kind === 'chain' ? content.steps.some((s) => usesGrid(s.operation)) : content.kind === 'grid';
}

function isCopy({ content }: DatumOperation): boolean {
  return content.kind === 'helmert' && Object.values(content.helmert).every((v) => v === 0);
}

/** Names as PROJ writes them, which take part in its order. */
export function nameOf(path: DatumPath): string {
  return path.steps.map((s) => (s.inverse !== s.undo ? `Inverse of ${s.operation.name}` : s.operation.name)).join(' + ');
}

/** What a path is known by in a recipe: the codes of its operations, "-" before one that is reversed; "ballpark" for the last resort. */
export function operationKey(path: DatumPath): string {
  return path.ballpark ? 'ballpark' : path.steps.map((s) => `${s.inverse !== s.undo ? '-' : ''}${s.operation.id}`).join(' ');
}
