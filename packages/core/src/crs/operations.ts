import { type AreaOfUse, type Crs, type Datum, type GeographicCrs, datumOf } from './crs';
import { datumOperations, lookupCrs, type DatumOperation } from './registry/registry';

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
}

const HUB = 'EPSG:4326';

/**
 * The known ways between the datums of two systems, the most accurate first: registered operations between their
 * geographic systems in either direction, or two of them through WGS 84. An operation whose area of use does not
 * touch `area` is left out. Empty when none is known; a path without steps when the datums are the same.
 */
export function datumPaths(from: Crs, to: Crs, area: AreaOfUse | null = from.area ?? to.area): DatumPath[] {
  const a = geographicOf(from);
  const b = geographicOf(to);
  if (sameDatum(a.datum, b.datum)) return [{ steps: [], accuracy_m: 0 }];
  if (a.id === null || b.id === null) return [];
  const paths = direct(a.id, b.id, area).map((step) => pathOf([step]));
  if (paths.length === 0 && a.id !== HUB && b.id !== HUB) {
    for (const first of direct(a.id, HUB, area)) for (const second of direct(HUB, b.id, area)) paths.push(pathOf([first, second]));
  }
  return paths.sort((p, q) => (p.accuracy_m ?? 1e6) - (q.accuracy_m ?? 1e6));
}

function geographicOf(crs: Crs): GeographicCrs {
  const geographic = crs.kind === 'geographic' ? crs : crs.base;
  return geographic.id === null ? geographic : ((lookupCrs(geographic.id) as GeographicCrs | undefined) ?? geographic);
}

function sameDatum(a: Datum, b: Datum): boolean {
  if (a.id !== null && b.id !== null) return a.id === b.id;
  return a.name === b.name && a.ellipsoid.a === b.ellipsoid.a && a.ellipsoid.invF === b.ellipsoid.invF && a.primeMeridian === b.primeMeridian;
}

function direct(a: string, b: string, area: AreaOfUse | null): DatumStep[] {
  const steps: DatumStep[] = [];
  for (const operation of datumOperations()) {
    if (area && operation.area && !touches(area, operation.area)) continue;
    if (operation.source === a && operation.target === b) steps.push({ operation, inverse: false, undo: false });
    else if (operation.source === b && operation.target === a) steps.push({ operation, inverse: true, undo: false });
  }
  return steps;
}

function touches(a: AreaOfUse, b: AreaOfUse): boolean {
  const spans = (w: number, e: number): [number, number][] => (w <= e ? [[w, e]] : [[w, 180], [-180, e]]);
  return a.south <= b.north && b.south <= a.north
    && spans(a.west, a.east).some(([w1, e1]) => spans(b.west, b.east).some(([w2, e2]) => w1 <= e2 && w2 <= e1));
}

function pathOf(steps: DatumStep[]): DatumPath {
  let sum: number | null = 0;
  for (const { operation } of steps) sum = sum === null || operation.accuracy_m === null ? null : sum + operation.accuracy_m;
  return { steps, accuracy_m: sum };
}

/** The geographic systems on both ends of a step, as used. */
export function endsOf(step: DatumStep): [Datum, Datum] {
  const source = datumOf(lookupCrs(step.operation.source)!);
  const target = datumOf(lookupCrs(step.operation.target)!);
  return step.inverse !== step.undo ? [target, source] : [source, target];
}
