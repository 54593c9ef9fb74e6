import type { Value } from '../model/value';
import { type Crs, metresPerUnit } from '../crs/crs';
import { areaOnEllipsoid, lengthOnEllipsoid } from '../crs/on-ellipsoid';
import { planeArea, planeLength } from '../geometry/measure';
import { type FeatureBatch, LINE, POINT, POLYGON, TEXT, vertexRange } from '../model/batch';

/** What a field is worked out of. */
export type Measure = 'x' | 'y' | 'z' | 'length' | 'area';

/** A field worked out from the geometry, in the target system. */
export interface ComputedField {
  name: string;
  measure: Measure;
  /** Where it is measured: in the plane of the system, or on its ellipsoid. */
  surface: 'plane' | 'ellipsoid';
  /** For people: what it is counted in; "" for the unit of the system. */
  unit: string;
  /** Decimals that are kept. */
  decimals: number;
  /** @param crs the system of the coordinates; where it is not known only what needs none of it is told */
  value(batch: FeatureBatch, i: number, crs?: Crs): Value;
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

/** Units of lengths and areas, in metres and square metres. Source: EPSG registry, units 9001, 9036, 9002 and 9093; the acre of 43 560 square feet. */
const LENGTHS = [
  ['m', 'm', 1, 4],
  ['km', 'km', 1000, 7],
  ['ft', 'ft', 0.3048, 4],
  ['mi', 'mi', 1609.344, 7],
] as const;
const AREAS = [
  ['m2', 'm²', 1, 4],
  ['ha', 'ha', 10_000, 8],
  ['km2', 'km²', 1e6, 9],
  ['ac', 'ac', 4046.8564224, 8],
] as const;

const hasLength = (kind: number): boolean => kind === LINE || kind === POLYGON;

function measured(
  measure: 'length' | 'area',
  surface: ComputedField['surface'],
): (batch: FeatureBatch, i: number, crs: Crs) => number | null {
  const applies = measure === 'length' ? hasLength : (kind: number): boolean => kind === POLYGON;
  const plane = measure === 'length' ? planeLength : planeArea;
  const round = measure === 'length' ? lengthOnEllipsoid : areaOnEllipsoid;
  return (batch, i, crs) => {
    if (!applies(batch.kinds[i]!)) return null;
    // a plane of degrees has no metres
    if (crs.kind === 'geographic') return round(batch, i, crs);
    // a local plane lies on no ellipsoid
    if (surface === 'ellipsoid') return crs.kind === 'projected' ? round(batch, i, crs) : null;
    return plane(batch, i) * metresPerUnit(crs, null) ** (measure === 'length' ? 1 : 2);
  };
}

function inUnits(measure: 'length' | 'area', units: readonly (readonly [string, string, number, number])[]): ComputedField[] {
  return (['plane', 'ellipsoid'] as const).flatMap((surface) =>
    units.map(([id, unit, size, decimals]): ComputedField => {
      const of = measured(measure, surface);
      return {
        name: `${surface === 'ellipsoid' ? 'ellipsoid_' : ''}${measure}_${id}`,
        measure,
        surface,
        unit,
        decimals,
        value(batch, i, crs) {
          const metres = crs ? of(batch, i, crs) : null;
          return metres === null || Number.isNaN(metres) ? null : metres / size;
        },
      };
    }),
  );
}

/** Fields that are worked out from where a record lies. */
export const COMPUTED_FIELDS: readonly ComputedField[] = [
  { name: 'x', measure: 'x', surface: 'plane', unit: '', decimals: 4, value: ordinate(0) },
  { name: 'y', measure: 'y', surface: 'plane', unit: '', decimals: 4, value: ordinate(1) },
  { name: 'z', measure: 'z', surface: 'plane', unit: 'm', decimals: 4, value: ordinate(2) },
  {
    name: 'length',
    measure: 'length',
    surface: 'plane',
    unit: '',
    decimals: 4,
    value: (batch, i) => (hasLength(batch.kinds[i]!) ? planeLength(batch, i) : null),
  },
  ...inUnits('length', LENGTHS),
  {
    name: 'area',
    measure: 'area',
    surface: 'plane',
    unit: '',
    decimals: 4,
    value: (batch, i) => (batch.kinds[i] === POLYGON ? planeArea(batch, i) : null),
  },
  ...inUnits('area', AREAS),
];

const BY_NAME = new Map(COMPUTED_FIELDS.map((f) => [f.name, f]));

/** One that needs no system to be known: in the numbers of the record itself. */
export function plainComputed(name: string): ComputedField | undefined {
  const field = BY_NAME.get(name);
  return field && (field.unit === '' || field.measure === 'z') ? field : undefined;
}

/** A computed field by its name. */
export function computedField(name: string): ComputedField | undefined {
  return BY_NAME.get(name);
}
