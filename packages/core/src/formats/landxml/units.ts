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

/** What the system of a unit is called in a file, and its other units. Source: LandXML-1.2.xsd, Metric, Imperial; from memory. */
const METRIC =
    'areaUnit="squareMeter" volumeUnit="cubicMeter" temperatureUnit="celsius" pressureUnit="milliBars" diameterUnit="millimeter"',
  IMPERIAL = 'areaUnit="squareFoot" volumeUnit="cubicYard" temperatureUnit="fahrenheit" pressureUnit="inHG" diameterUnit="inch"';

const IS_METRIC = /meter$/;

/** The name of a unit in a file; null where it has none. */
export const unitName = (unit: LinearUnit | null): string | null =>
  Object.entries(LINEAR).find(([, own]) => unit && Math.abs(own.metres / unit.metres - 1) < 1e-9)?.[0] ?? null;

/** Names with large letters in them, which the schema wants. */
const WRITTEN: Readonly<Record<string, string>> = { ussurveyfoot: 'USSurveyFoot' };

/** The unit of diameters in a file whose coordinates are in a unit. */
export const diameterUnit = (unit: LinearUnit | null): LinearUnit =>
  LINEAR[IS_METRIC.test(unitName(unit) ?? 'meter') ? 'millimeter' : 'inch']!;

/** The units of a file. */
export function unitsText(unit: LinearUnit | null): string {
  const name = unitName(unit) ?? 'meter';
  const [element, others] = IS_METRIC.test(name) ? ['Metric', METRIC] : ['Imperial', IMPERIAL];
  return `<Units><${element} linearUnit="${WRITTEN[name] ?? name}" ${others} angularUnit="decimal degrees" directionUnit="decimal degrees"/></Units>`;
}
