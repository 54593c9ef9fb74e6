import type { Value } from '../model/value';
import { type Crs, isOnEarth, isPlane, metresPerUnit } from '../crs/crs';
import { sameSystem } from '../crs/registry/identify';
import type { Transform } from '../crs/transform';
import { type FeatureBatch, vertexRange } from '../model/batch';

/** Fields that hold lengths or directions of lettering and symbols: they follow where a source is placed. */
const SIZED_LENGTHS: readonly string[] = ['text_height', 'thickness'];
const SIZED_ANGLES: readonly string[] = ['text_angle', 'block_angle'];
/** Decimals that such values keep when they have changed. */
export const SIZED_DECIMALS = 6;

/** What becomes of lengths and directions between a source and a target. */
export interface Sizes {
  /** Target units in one unit of the source; metres where the target is in degrees, 1 where the source is. */
  ratio: number;
  /** Whether directions turn. In a target in degrees they stay as they were: its plane has no true angles. */
  turns: boolean;
}

/** Metres in one unit of the lengths of lettering, symbols and line patterns: that of the coordinates, and metres where those are degrees. */
export function lengthUnit(crs: Crs, unit_m: number = metresPerUnit(crs, null)): number {
  return isPlane(crs) ? unit_m : 1;
}

/** @param unit_m metres in one unit of the source's own coordinates */
export function sizesBetween(source: Crs, unit_m: number, turned: boolean, target: Crs): Sizes {
  const ratio = isPlane(source) ? unit_m / lengthUnit(target) : 1;
  return {
    ratio: Math.abs(ratio - 1) < 1e-12 ? 1 : ratio,
    // the numbers of a local plane keep their directions
    turns: isPlane(target) && isPlane(source) && (turned || (isOnEarth(target) && !sameSystem(source, target))),
  };
}

/** Whether a field holds a length or a direction that changes on the way. */
export function follows(name: string, { ratio, turns }: Sizes): boolean {
  return (ratio !== 1 && SIZED_LENGTHS.includes(name)) || (turns && SIZED_ANGLES.includes(name));
}

const rounded = (value: number): number => Number(value.toFixed(SIZED_DECIMALS));

const scaledLengths = ({ columns }: FeatureBatch, names: readonly string[], ratio: number): FeatureBatch['columns'] => {
  const scaled = (value: Value): Value => (typeof value === 'number' ? rounded(value * ratio) : value);
  return new Map([...columns].map(([name, column]) => [name, names.includes(name) ? column.map(scaled) : column]));
};

/** A batch whose numbers are in another unit: its coordinates, and the lengths among its values. @param ratio new units in an old one */
export const inOtherUnit = (batch: FeatureBatch, ratio: number): FeatureBatch => ({
  ...batch,
  coords: batch.coords.map((v) => v * ratio),
  columns: scaledLengths(batch, SIZED_LENGTHS, ratio),
});

/**
 * Lengths and directions as they are in the target system.
 * @param placed in the source's CRS
 * @param rotation degrees by which the placement itself has turned the source
 */
export function resize(placed: FeatureBatch, sizes: Sizes, rotation: number, transform: Transform): FeatureBatch {
  const changing = (names: readonly string[]): string[] => names.filter((name) => placed.columns.has(name) && follows(name, sizes));
  const lengths = changing(SIZED_LENGTHS),
    angles = changing(SIZED_ANGLES);
  if (lengths.length + angles.length === 0) return placed;
  const columns = new Map(scaledLengths(placed, lengths, sizes.ratio));
  for (const name of angles)
    columns.set(
      name,
      columns.get(name)!.map((value, i) => (typeof value === 'number' ? rounded(value + rotation + turnAt(placed, i, transform)) : value)),
    );
  return { ...placed, columns };
}

const STEP = 1;

/** Degrees by which a direction at the first vertex turns. */
function turnAt(placed: FeatureBatch, i: number, transform: Transform): number {
  if (transform.steps.length === 0) return 0;
  const [v] = vertexRange(placed, i);
  const x = placed.coords[3 * v]!,
    y = placed.coords[3 * v + 1]!;
  const p = Float64Array.of(x - STEP, y, x + STEP, y);
  transform.apply(p, 0, 2, 2);
  const turn = Math.atan2(p[3]! - p[1]!, p[2]! - p[0]!);
  return Number.isNaN(turn) ? 0 : (turn * 180) / Math.PI;
}
