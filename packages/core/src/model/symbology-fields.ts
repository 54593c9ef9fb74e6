/**
 * Fields of records that say how they are drawn. Symbology travels in them and nowhere else: readers put what a format states in its own
 * way into these fields, and writers take it from them.
 */
export const SYMBOLOGY_FIELDS = [
  'color',
  'fill',
  'transparency',
  'lineweight_mm',
  'line_width_px',
  'line_width_m',
  'linetype',
  'linetype_scale',
  'block',
  'marker',
  'marker_size_mm',
] as const;
export type SymbologyField = (typeof SYMBOLOGY_FIELDS)[number];
