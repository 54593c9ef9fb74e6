import type { LinearUnit } from '../../crs/crs';

/** Units of length by their EPSG codes, the metre first. Source: EPSG registry, units of measure. */
export const LINEAR_UNITS: readonly { code: number; unit: LinearUnit }[] = [
  { code: 9001, unit: { name: 'metre', metres: 1 } },
  { code: 9002, unit: { name: 'foot', metres: 0.3048 } },
  { code: 9003, unit: { name: 'US survey foot', metres: 12 / 39.37 } },
  { code: 9005, unit: { name: "Clarke's foot", metres: 0.3047972654 } },
  { code: 9036, unit: { name: 'kilometre', metres: 1000 } },
  { code: 9037, unit: { name: "Clarke's yard", metres: 0.9143917962 } },
  { code: 9039, unit: { name: "Clarke's link", metres: 0.201166195164 } },
  { code: 9096, unit: { name: 'yard', metres: 0.9144 } },
  { code: 9097, unit: { name: 'chain', metres: 20.1168 } },
  { code: 9098, unit: { name: 'link', metres: 0.201168 } },
  { code: 1025, unit: { name: 'millimetre', metres: 0.001 } },
];
