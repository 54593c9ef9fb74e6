import type { FormatOption } from '../../formats/format-option';
import { type DerivationInput, lengthOf, type Role } from '../derived/derivation';
import { surfaceFrom, type SurfaceRead } from './surface-from';

/** The layers that a surface is made of. */
export const SURFACE: Role = { id: 'surface', title: 'The ground', kinds: ['polygon', 'line', 'point', 'text'], elevation: true };

/** Settings of all that make a surface of records. */
export const OF_SURFACES: readonly FormatOption[] = [
  { id: 'height', label: 'Heights are in', kind: 'text', asks: 'field', hint: 'the geometry' },
  { id: 'longest', label: 'Longest side at the edge', kind: 'length', initial_m: 0, orNone: true },
  { id: 'spike', label: 'Height stands out by', kind: 'length', initial_m: 5, orNone: true },
];

/** The surface of the layers that have a role. */
export const surfaceOf = ({ records, settings, unit_m }: DerivationInput, role: string): Promise<SurfaceRead> =>
  surfaceFrom(records(role), {
    height: String(settings.height),
    longest: lengthOf(settings, 'longest', unit_m),
    spike: lengthOf(settings, 'spike', unit_m),
    unit_m,
  });

/** What there is to know of a surface, as figures. */
export function surfaceFigures({ tin: { xyz, triangles }, counts, faults }: SurfaceRead, unit_m: number): Record<string, number> {
  let [low, high, plan, space] = [Infinity, -Infinity, 0, 0];
  for (let t = 0; t < triangles.length; t += 3) {
    const [a, b, c] = [3 * triangles[t]!, 3 * triangles[t + 1]!, 3 * triangles[t + 2]!];
    for (const n of [a, b, c]) {
      low = Math.min(low, xyz[n + 2]!);
      high = Math.max(high, xyz[n + 2]!);
    }
    const [ux, uy, uz] = [xyz[b]! - xyz[a]!, xyz[b + 1]! - xyz[a + 1]!, xyz[b + 2]! - xyz[a + 2]!];
    const [vx, vy, vz] = [xyz[c]! - xyz[a]!, xyz[c + 1]! - xyz[a + 1]!, xyz[c + 2]! - xyz[a + 2]!];
    const up = ux * vy - uy * vx;
    plan += up / 2;
    space += Math.hypot(up, uy * vz - uz * vy, uz * vx - ux * vz) / 2;
  }
  return {
    points: counts.points,
    breaklines: counts.breaklines,
    triangles: triangles.length / 3,
    flatTriangles: counts.flat,
    lowest_m: low * unit_m,
    highest_m: high * unit_m,
    area_m2: plan * unit_m ** 2,
    surfaceArea_m2: space * unit_m ** 2,
    spikes: faults.filter((f) => f.kind === 'spike-height').length,
  };
}
