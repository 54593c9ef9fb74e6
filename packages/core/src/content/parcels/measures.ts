import { type Crs, datumOf, isOnEarth } from '../../crs/crs';
import { areaOnEllipsoid, lengthOnEllipsoid } from '../../crs/on-ellipsoid';
import { compileTransform } from '../../crs/transform';
import { planeArea, planeLength } from '../../geometry/measure';
import { type FeatureBatch, POLYGON, vertexRange } from '../../model/batch';
import { BatchBuilder, copyRecord } from '../../model/batch-builder';
import type { Finding } from '../../model/finding';
import { Problem } from '../../model/problem';
import type { FormatOption } from '../../formats/format-option';
import type { Derivation, DerivationInput, Derived } from '../derived/derivation';
import type { Fault } from '../derived/fault';
import { namedBy, recordName } from '../derived/record-name';

/** The height that measures at ground are for. */
export const HEIGHT: FormatOption = { id: 'height', label: 'Ground height, m', kind: 'number', initial: 0, least: -500, most: 9000 };

/** Areas with their measures beside their data, and what they are stated to be. */
export const AREAS: Derivation = {
  id: 'areas',
  title: 'Areas and lengths',
  says: 'Areas on the grid, on the ellipsoid and at ground height, with the combined scale factor; against the area that a field states.',
  roles: [{ id: 'areas', title: 'Areas', kinds: ['polygon'] }],
  settings: [
    HEIGHT,
    { id: 'stated', label: 'Area stated in', kind: 'text', asks: 'field', hint: 'no field' },
    {
      id: 'against',
      label: 'Stated on',
      kind: 'choice',
      choices: [
        { value: 'grid', label: 'the grid' },
        { value: 'ellipsoid', label: 'the ellipsoid' },
        { value: 'ground', label: 'the ground' },
      ],
    },
    { id: 'tolerance', label: 'May differ by, m²', kind: 'number', initial: 1, least: 0, most: 1e9 },
    namedBy('Areas are called by'),
  ],
  run: areas,
};

/** What is kept of measures: a square millimetre, and a scale to a thousandth of a part in a million. */
export const rounded = (value: number, decimals = 6): number => Number(value.toFixed(decimals));

/**
 * How much longer lengths are at a height than on the ellipsoid, at a place: (R + h) / R with the Gaussian mean radius R.
 * Source: Torge, "Geodesy", section on radii of curvature; from memory.
 */
export function raisedBy(crs: Crs, height: number): (x: number, y: number) => number {
  if (!isOnEarth(crs)) return () => 1;
  const { a, invF } = datumOf(crs).ellipsoid;
  const f = invF === 0 ? 0 : 1 / invF;
  const e2 = f * (2 - f);
  const base = crs.kind === 'projected' ? crs.base : crs;
  const way = compileTransform(crs, base);
  return (x, y) => {
    const p = Float64Array.of(x, y);
    way.apply(p, 0, 1, 2);
    const sin = Math.sin((p[1]! * base.degreesPerUnit * Math.PI) / 180);
    const radius = (a * Math.sqrt(1 - e2)) / (1 - e2 * sin * sin);
    return (radius + height) / radius;
  };
}

async function areas({ records, settings, name, unit_m, crs }: DerivationInput): Promise<Derived> {
  const raised = raisedBy(crs, Number(settings.height));
  const field = String(settings.stated);
  const out: FeatureBatch[] = [];
  const faults: Fault[] = [];
  const sums = { areas: 0, grid_m2: 0, ellipsoid_m2: 0, ground_m2: 0, compared: 0, stated_m2: 0, within: 0 };
  let others = 0;
  for await (const batch of records('areas')) {
    const builder = new BatchBuilder(name);
    if (batch.declared) builder.declare(batch.declared);
    for (let i = 0; i < batch.count; i++) {
      if (batch.kinds[i] !== POLYGON) {
        others++;
        continue;
      }
      const [v] = vertexRange(batch, i);
      const [x, y] = [batch.coords[3 * v]!, batch.coords[3 * v + 1]!];
      const grid = planeArea(batch, i) * unit_m ** 2;
      // a plane that lies nowhere has no ellipsoid: its numbers are those of the ground
      const ellipsoid = isOnEarth(crs) ? areaOnEllipsoid(batch, i, crs) : grid;
      const by = raised(x, y);
      const ground = ellipsoid * by ** 2;
      const value = field === '' ? null : Number(batch.columns.get(field)?.[i] ?? NaN);
      const differs =
        value === null || Number.isNaN(value) ? null : { grid, ellipsoid, ground }[String(settings.against) as 'grid']! - value;
      builder.set('area_grid', rounded(grid));
      builder.set('area_ell', rounded(ellipsoid));
      builder.set('area_gnd', rounded(ground));
      builder.set('perimeter', rounded(planeLength(batch, i) * unit_m));
      builder.set('perim_ell', isOnEarth(crs) ? rounded(lengthOnEllipsoid(batch, i, crs)) : null);
      builder.set('comb_scale', ground > 0 ? rounded(Math.sqrt(grid / ground), 9) : null);
      builder.set('area_diff', differs === null ? null : rounded(differs));
      copyRecord(batch, i, builder);
      sums.areas++;
      sums.grid_m2 += grid;
      sums.ellipsoid_m2 += ellipsoid;
      sums.ground_m2 += ground;
      if (differs === null) continue;
      sums.compared++;
      sums.stated_m2 += value!;
      if (Math.abs(differs) <= Number(settings.tolerance)) sums.within++;
      else
        faults.push({
          kind: 'area-differs',
          at: [x, y],
          size: Math.abs(differs),
          about: `${recordName(batch, i, String(settings.names))}, ${differs > 0 ? 'larger' : 'smaller'} than stated`,
        });
    }
    if (builder.count > 0) out.push(builder.take());
  }
  if (sums.areas === 0) throw new Problem('no-areas', 'There is no area to measure. Choose a layer that has areas.');
  return {
    records: () => out,
    figures: sums,
    faults: faults.sort((a, b) => b.size! - a.size!),
    findings: leftOut(others, 'Records are no areas: they are left out.'),
  };
}

/** What is told of records that cannot be measured. */
export const leftOut = (count: number, message: string): Finding[] =>
  count > 0 ? [{ code: 'not-areas', severity: 'caution', message, count }] : [];
