import { type Crs, metresPerUnit } from '../../crs/crs';
import type { Step, Transform } from '../../crs/transform';
import { flatten } from '../../geometry/flatten';
import { type FeatureBatch, KINDS, type Value } from '../../model/batch';
import type { Findings } from '../../model/finding';
import { resize, type Sizes, sizesBetween } from '../../symbology/sizes';
import { computedField } from '../../filter/computed-fields';
import type { Plane } from '../../placement/placement-transform';
import type { Plan } from './plan';
import { type PlacedIn, routeTo } from '../../placement/route';

/** Carries batches of one source into a target system. */
export interface Carrier {
  source: string;
  /** The CRS that the source's coordinates are in, once `plane` has placed them. */
  crs: Crs;
  plane: Plane;
  transform: Transform;
  /** Metres in one unit of the source's coordinates, roughly for degrees. */
  unit_m: number;
  /** The steps of the way, for people, and what they leave open together, metres; null when that is not known. */
  steps: Step[];
  accuracy_m: number | null;
  sizes: Sizes;
}

/** @throws Problem when the placement does not lead into the target */
export function makeCarrier(source: string, placed: PlacedIn, target: Crs): Carrier {
  const { plane, transform, steps, accuracy_m } = routeTo(placed, target);
  const unit_m = unitOf(placed, plane);
  return {
    source,
    crs: placed.crs,
    plane,
    transform,
    unit_m,
    steps,
    accuracy_m,
    sizes: sizesBetween(placed.crs, unit_m, plane.rotation !== 0, target),
  };
}

/** Metres in one unit of a source's coordinates, roughly for degrees. */
export function unitOf({ crs, numbers }: PlacedIn, plane: Plane): number {
  return plane.fit ? plane.scale * metresPerUnit(crs, null) : metresPerUnit(crs, numbers.unit_m);
}

/** A source's batch with curves cut into chords and coordinates in the source's CRS; still untransformed. */
export function placeBatch(batch: FeatureBatch, carrier: Carrier, chord_m: number): FeatureBatch {
  const flat = flatten(batch, chord_m / carrier.unit_m);
  if (carrier.plane.same) return flat;
  const coords = flat === batch ? Float64Array.from(flat.coords) : flat.coords;
  carrier.plane.forward(coords, 0, coords.length / 3, 3);
  return { ...flat, coords };
}

/** A placed batch whose lengths and directions are those of the target. */
export function resizeBatch(placed: FeatureBatch, { sizes, plane, transform }: Carrier): FeatureBatch {
  return resize(placed, sizes, plane.rotation, transform);
}

/** The placed batch in the target system. `lost` tells the records with a vertex that has no image there. */
export function transformBatch(placed: FeatureBatch, transform: Transform): { batch: FeatureBatch; lost: Set<number> } {
  const lost = new Set<number>();
  if (transform.steps.length === 0) return { batch: placed, lost };
  const coords = Float64Array.from(placed.coords);
  const failed = transform.apply(coords, 0, coords.length / 3, 3);
  const batch = { ...placed, coords };
  if (failed > 0) {
    let v = 0;
    let p = 0;
    for (let i = 0; i < batch.count; i++) {
      for (; p < batch.featureEnds[i]!; p++) for (; v < batch.partEnds[p]!; v++) if (Number.isNaN(coords[3 * v]!)) lost.add(i);
    }
  }
  return { batch, lost };
}

/** Records of a batch by the set they go into. */
export interface Routed {
  set: number;
  rows: Uint32Array;
  n: number;
}

export function routeBatch(batch: FeatureBatch, source: string, plan: Plan, lost: ReadonlySet<number>, findings: Findings): Routed[] {
  const routed: (Routed | undefined)[] = [];
  let lastEntity = '';
  let lastKind = -1;
  let set: number | undefined;
  for (let i = 0; i < batch.count; i++) {
    if (batch.entities[i] !== lastEntity || batch.kinds[i] !== lastKind) {
      lastEntity = batch.entities[i]!;
      lastKind = batch.kinds[i]!;
      set = plan.route(source, batch.layer, lastEntity, KINDS[lastKind]!, batch.to);
    }
    if (set === undefined) continue;
    if (lost.has(i)) {
      findings.add({
        code: 'no-image',
        severity: 'wrong',
        message: 'Lies where the target system has no coordinates, and stays behind.',
        count: 1,
        place: batch.layer,
      });
      continue;
    }
    const to = (routed[set] ??= { set, rows: new Uint32Array(batch.count), n: 0 });
    to.rows[to.n++] = i;
  }
  return routed.filter((r) => r !== undefined);
}

/** Adds the columns that the plan computes, from geometry in the target system. */
export function computeColumns(batch: FeatureBatch, plan: Plan, crs: Crs): FeatureBatch {
  const names = new Set(plan.sets.flatMap((s) => s.fields.filter((f) => f.computed).map((f) => f.from)));
  if (names.size === 0) return batch;
  const columns = new Map(batch.columns);
  for (const name of names) {
    const field = computedField(name);
    const column: Value[] = [];
    for (let i = 0; i < batch.count; i++) column.push(field ? rounded(field.value(batch, i, crs), field.decimals) : batch.places[i]!);
    columns.set(name, column);
  }
  return { ...batch, columns };
}

function rounded(value: Value, decimals: number): Value {
  return typeof value === 'number' ? Number(value.toFixed(decimals)) : value;
}
