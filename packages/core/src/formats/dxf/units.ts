/**
 * Length of one drawing unit in metres by $INSUNITS. Source: DXF Reference, HEADER section, $INSUNITS.
 * 0 (unitless) and the astronomical ones are left out.
 */
export const DRAWING_UNITS: Record<number, { name: string; metres: number }> = {
  1: { name: 'inch', metres: 0.0254 },
  2: { name: 'foot', metres: 0.3048 },
  3: { name: 'mile', metres: 1609.344 },
  4: { name: 'millimetre', metres: 0.001 },
  5: { name: 'centimetre', metres: 0.01 },
  6: { name: 'metre', metres: 1 },
  7: { name: 'kilometre', metres: 1000 },
  8: { name: 'microinch', metres: 0.0254e-6 },
  9: { name: 'mil', metres: 0.0254e-3 },
  10: { name: 'yard', metres: 0.9144 },
  13: { name: 'micrometre', metres: 1e-6 },
  14: { name: 'decimetre', metres: 0.1 },
  15: { name: 'decametre', metres: 10 },
  16: { name: 'hectometre', metres: 100 },
  21: { name: 'US survey foot', metres: 1200 / 3937 },
  22: { name: 'US survey inch', metres: 100 / 3937 },
  23: { name: 'US survey yard', metres: 3600 / 3937 },
  24: { name: 'US survey mile', metres: 6336000 / 3937 },
};
