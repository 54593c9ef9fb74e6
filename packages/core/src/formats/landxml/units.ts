import type { LinearUnit } from '../../crs/crs';

/** Units by their names in a file, metres. Source: LandXML-1.2.xsd, metLinear and impLinear; from memory. */
const LINEAR: Readonly<Record<string, LinearUnit>> = {
  millimeter: { name: 'millimetre', metres: 0.001 },
  centimeter: { name: 'centimetre', metres: 0.01 },
  meter: { name: 'metre', metres: 1 },
  kilometer: { name: 'kilometre', metres: 1000 },
  foot: { name: 'foot', metres: 0.3048 },
  ussurveyfoot: { name: 'US survey foot', metres: 1200 / 3937 },
  inch: { name: 'inch', metres: 0.0254 },
  mile: { name: 'mile', metres: 1609.344 },
};

/** The unit of that name; null where there is none. */
export const linearUnit = (name: string | undefined): LinearUnit | null => LINEAR[name?.trim().toLowerCase() ?? ''] ?? null;
