import type { LinearUnit } from '../crs';
import { meridianRows } from '../registry/registry';
import { DIALECT_UNITS } from './names';
import { fold } from './wkt-tree';

/** Degrees in a registered angular unit, with the digits of texts taken for what they mean. */
export function degreesPerUnit(radians: number): number {
  const degrees = (radians * 180) / Math.PI;
  return [1, 0.9].find((k) => Math.abs(degrees - k) < 1e-9) ?? degrees;
}

/** A linear unit of a text, under the registry's name where it is one that is known by its length. */
export function linearUnit(name: string, metres: number): LinearUnit {
  const known = KNOWN.find(([, length]) => Math.abs(length - metres) < 1e-10 * metres);
  return known ? { name: known[0], metres: known[1] } : { name, metres };
}

/** Common units by exact length. Source: EPSG registry, units of measure. */
const KNOWN: readonly (readonly [string, number])[] = [
  ['metre', 1],
  ['foot', 0.3048],
  ['US survey foot', 12 / 39.37],
  ['kilometre', 1000],
  ['yard', 0.9144],
  ['link', 0.201168],
  ['chain', 20.1168],
  ['millimetre', 0.001],
];

/** The name of a unit as the dialect of .prj files writes it. */
export function dialectUnit(unit: LinearUnit): string {
  return DIALECT_UNITS[unit.name] ?? unit.name.replace(/[^A-Za-z0-9.]+/g, '_').replace(/^_|_$/g, '');
}

/** Name of a prime meridian; readers tell them by name. */
export function meridianName(degrees: number): string {
  return meridianRows().find((m) => Math.abs(m.degrees - degrees) < 2e-7)?.name ?? 'Reference meridian';
}

/** Whether some prime meridian of the registry lies so many degrees east of Greenwich, to the seventh decimal. */
export function isMeridian(degrees: number): boolean {
  return meridianRows().some((m) => Math.abs(m.degrees - degrees) < 2e-7);
}

/** Degrees east of Greenwich of a prime meridian by its name; null where the registry has none of it. */
export function meridianByName(name: string): number | null {
  return meridianRows().find((m) => fold(m.name) === fold(name))?.degrees ?? null;
}
