import { planeArea, planeLength } from '../geometry/measure';
import { type FeatureBatch, LINE, POINT, POLYGON, TEXT, type Value, vertexRange } from '../model/batch';

/** A field worked out from the geometry. Lengths are in the unit of the target system, in its plane. */
export interface ComputedField {
  name: string;
  /** For people: what it holds. */
  label: string;
  /** Decimals that are kept. */
  decimals: number;
  value(batch: FeatureBatch, i: number): Value;
}

const isPoint = (kind: number): boolean => kind === POINT || kind === TEXT;

function ordinate(k: number): ComputedField['value'] {
  return (batch, i) => {
    if (!isPoint(batch.kinds[i]!)) return null;
    const [v] = vertexRange(batch, i);
    const value = batch.coords[3 * v + k]!;
    return Number.isNaN(value) ? null : value;
  };
}

export const COMPUTED_FIELDS: readonly ComputedField[] = [
  { name: 'x', label: 'X of a point, target system', decimals: 4, value: ordinate(0) },
  { name: 'y', label: 'Y of a point, target system', decimals: 4, value: ordinate(1) },
  { name: 'z', label: 'Z of a point, in metres', decimals: 4, value: ordinate(2) },
  { name: 'length', label: 'Length or perimeter in the plane', decimals: 4, value: (batch, i) => (batch.kinds[i] === LINE || batch.kinds[i] === POLYGON ? planeLength(batch, i) : null) },
  { name: 'area', label: 'Area in the plane', decimals: 4, value: (batch, i) => (batch.kinds[i] === POLYGON ? planeArea(batch, i) : null) },
];

export function computedField(name: string): ComputedField | undefined {
  return COMPUTED_FIELDS.find((f) => f.name === name);
}
