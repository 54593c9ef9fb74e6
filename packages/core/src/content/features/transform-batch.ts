import { type Value, valueText } from '../../model/value';
import { type AnyCrs, type Crs, metresPerUnit } from '../../crs/crs';
import type { Step, Transform } from '../../crs/transform';
import { flatten, pieces } from '../../geometry/flatten';
import { type FeatureBatch, KINDS, measuresText } from '../../model/batch';
import { type Reason, REASONS } from '../../model/reason';
import { resize, type Sizes, sizesBetween } from '../../symbology/sizes';
import { computedField } from '../../filter/computed-fields';
import type { PlacementTransform } from '../../placement/placement-transform';
import type { Plan } from './plan';
import { type PlacedIn, routeTo } from '../../placement/route';

/** Carries batches of one source into a target system. */
export interface SourceTransform {
  source: string;
  /** The CRS that the source's coordinates are in, once `plane` has placed them. */
  crs: Crs;
  placement: PlacementTransform;
  transform: Transform;
  /** Metres in one unit of the source's coordinates, roughly for degrees. */
  unit_m: number;
  /** The steps of the way, for people, and what they leave open together, metres; null when that is not known. */
  steps: Step[];
  accuracy_m: number | null;
  sizes: Sizes;
}

/** @throws Problem when the placement does not lead into the target */
export function sourceTransform(source: string, placed: PlacedIn, target: Crs): SourceTransform {
  const { placement: plane, transform, steps, accuracy_m } = routeTo(placed, target);
  const unit_m = unitOf(placed, plane);
  return {
    source,
    crs: placed.crs,
    placement: plane,
    transform,
    unit_m,
    steps,
    accuracy_m,
    sizes: sizesBetween(placed.crs, unit_m, plane.rotation !== 0, target),
  };
}

/** Metres in one unit of a source's coordinates, roughly for degrees. */
export function unitOf({ crs, parameters: numbers }: PlacedIn, plane: PlacementTransform): number {
  return plane.fit ? plane.scale * metresPerUnit(crs, null) : metresPerUnit(crs, numbers.unit_m);
}

/** A source's batch with curves cut into chords and coordinates in the source's CRS; still untransformed. */
export function placeBatch(batch: FeatureBatch, carrier: SourceTransform, chord_m: number): FeatureBatch {
  const flat = flatten(batch, chord_m / carrier.unit_m);
  if (carrier.placement.same) return flat;
  const coords = flat === batch ? Float64Array.from(flat.coords) : flat.coords;
  carrier.placement.forward(coords, 0, coords.length / 3, 3);
  return { ...flat, coords };
}

/** The batches of a source, those in several whose curves become very many chords. */
export async function* inPieces(
  batches: AsyncIterable<FeatureBatch>,
  carrier: SourceTransform,
  chord_m: number,
): AsyncGenerator<FeatureBatch> {
  for await (const batch of batches) yield* pieces(batch, chord_m / carrier.unit_m);
}

/** A placed batch whose lengths and directions are those of the target. */
export function resizeBatch(placed: FeatureBatch, { sizes, placement: plane, transform }: SourceTransform): FeatureBatch {
  return resize(placed, sizes, plane.rotation, transform);
}

/**
 * The placed batch in the target system.
 * @returns `lost` tells the records with a vertex that has no image there, or that was no number to begin with
 */
export function transformBatch(placed: FeatureBatch, transform: Transform): { batch: FeatureBatch; lost: ReadonlySet<number> } {
  if (transform.steps.length === 0) return { batch: placed, lost: withoutPosition(placed, transform.to) };
  const coords = Float64Array.from(placed.coords);
  transform.apply(coords, 0, coords.length / 3, 3);
  const batch = { ...placed, coords };
  return { batch, lost: withoutPosition(batch, transform.to) };
}

const NONE: ReadonlySet<number> = new Set();

/** Degrees of latitude of a pole, with room for the last bits of a transform. */
const POLE = 90 + 1e-9;
/** Degrees of longitude beyond which a number is none: ten times round the earth. */
const ROUND = 3600;

/** The largest x and y, whatever their signs, that are a position in a system. */
export const positionLimits = (crs: AnyCrs): [number, number] =>
  crs.kind === 'geographic' ? [ROUND / crs.degreesPerUnit, POLE / crs.degreesPerUnit] : [Number.MAX_VALUE, Number.MAX_VALUE];

/** Records with a vertex whose x or y is not finite, or lies beyond a pole or nowhere round the earth. */
function withoutPosition({ coords, count, featureEnds, partEnds }: FeatureBatch, crs: AnyCrs): ReadonlySet<number> {
  const [x, y] = positionLimits(crs);
  const isPosition = (k: number): boolean => Math.abs(coords[k]!) <= x && Math.abs(coords[k + 1]!) <= y;
  let whole = true;
  for (let k = 0; k < coords.length && whole; k += 3) whole = isPosition(k);
  if (whole) return NONE;
  const lost = new Set<number>();
  let v = 0,
    p = 0;
  for (let i = 0; i < count; i++) {
    for (; p < featureEnds[i]!; p++) {
      for (; v < partEnds[p]!; v++) if (!isPosition(3 * v)) lost.add(i);
    }
  }
  return lost;
}

/** Records of a batch by the set they go into. */
export interface Routed {
  set: number;
  rows: Uint32Array;
  n: number;
}

/**
 * Sorts the records of a batch into the sets of a plan.
 * @param lost records that have no image in the target system
 * @param left is told of every record that goes into no set; the reason is null where the plan knows nothing of such a record
 */
export function routeBatch(
  batch: FeatureBatch,
  source: string,
  plan: Plan,
  lost: ReadonlySet<number>,
  left: (i: number, reason: Reason | null) => void = () => {},
): Routed[] {
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
    if (set === undefined) left(i, plan.reason(source, batch.layer, lastEntity, KINDS[lastKind]!));
    else if (lost.has(i)) left(i, REASONS.noImage);
    else {
      const to = (routed[set] ??= { set, rows: new Uint32Array(batch.count), n: 0 });
      to.rows[to.n++] = i;
    }
  }
  return routed.filter((r) => r !== undefined);
}

/** Adds the measures (M) of the vertices as a column, where the plan has them in a field: vertices as they stand, before any are cut. */
export function measuresInColumn(batch: FeatureBatch, plan: Plan): FeatureBatch {
  const name = batch.measures && plan.sets.flatMap((s) => s.fields).find((f) => f.measures)?.from;
  if (name === undefined) return batch;
  const column = Array.from({ length: batch.count }, (_, i) => measuresText(batch, i));
  return { ...batch, columns: new Map(batch.columns).set(name, column) };
}

/** Adds the columns that the plan computes, from geometry in the target system. */
export function computeColumns(batch: FeatureBatch, plan: Plan, crs: Crs): FeatureBatch {
  const names = new Set(plan.sets.flatMap((s) => s.fields.filter((f) => f.computed).map((f) => f.from)));
  if (names.size === 0) return batch;
  const columns = new Map(batch.columns);
  for (const name of names) {
    const field = computedField(name);
    const column: Value[] = [];
    for (let i = 0; i < batch.count; i++) column.push(field ? rounded(field.value(batch, i, crs), field.decimals) : batch.locations[i]!);
    columns.set(name, column);
  }
  return { ...batch, columns };
}

/** The columns as a format holds them, where it has no type for their values: whole numbers beyond the exact ones and bytes as text. */
export function columnsAsWritten(batch: FeatureBatch, plan: Plan): FeatureBatch {
  const texts = new Set(
    plan.sets.flatMap((s) => s.fields.filter((f) => f.type === 'text' && f.changes.some((c) => c.code === 'as-text')).map((f) => f.from)),
  );
  let columns: Map<string, Value[]> | null = null;
  for (const name of texts) {
    const column = batch.columns.get(name);
    if (!column?.some(isWide)) continue;
    columns ??= new Map(batch.columns);
    columns.set(
      name,
      column.map((v) => (v !== null && isWide(v) ? valueText(v) : v)),
    );
  }
  return columns ? { ...batch, columns } : batch;
}

const isWide = (value: Value): boolean => typeof value === 'bigint' || value instanceof Uint8Array;

function rounded(value: Value, decimals: number): Value {
  return typeof value === 'number' ? Number(value.toFixed(decimals)) : value;
}
