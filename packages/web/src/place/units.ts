import type { LinearUnit } from '@pontrel/core/crs/crs';
import { MISTAKEN_UNITS, sameLength } from '@pontrel/core/placement/ratio';

/** Units that numbers of a drawing may be in, and the unit of the system. */
export const UNITS: { value: string; label: string; metres: number | null }[] = [
  { value: 'crs', label: 'unit of the system', metres: null },
  ...MISTAKEN_UNITS.map((u) => ({ value: u.name, label: u.name, metres: u.metres })),
];

/** The same with the name of the system's own unit. */
export const unitsFor = (own: LinearUnit): typeof UNITS =>
  UNITS.map((u) => (u.metres === null ? { ...u, label: `${own.name} (the system’s)` } : u));

export const unitKey = (metres: number | null): string =>
  UNITS.find((u) => (u.metres === null ? metres === null : metres !== null && sameLength(u.metres, metres)))?.value ?? 'crs';

/** Metres in one unit of a source's numbers in a plane of their own: as it was settled by hand, else as it states; metres when null. */
export const planeUnit = (settled_m: number | null | undefined, stated: LinearUnit | null): number | null =>
  settled_m === undefined ? (stated?.metres ?? null) : settled_m;
