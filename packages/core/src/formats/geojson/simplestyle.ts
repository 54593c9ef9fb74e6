import type { Value } from '../../model/value';
import type { SymbologyField } from '../../model/symbology-fields';
import { LINE, POLYGON } from '../../model/batch';
import { CSS_PIXEL_MM } from '../../symbology/symbolizer';

/**
 * Looks as properties of a feature. Source: simplestyle-spec 1.1.0, "stroke", "fill", "marker-color", "stroke-width", "stroke-opacity", "fill-opacity".
 */

/** The properties that stand for a colour, the most telling first. */
const COLORS = ['stroke', 'marker-color', 'fill'] as const;

function hexOf(value: unknown): string | null {
  const [, hex] = typeof value === 'string' ? (/^#?([0-9a-f]{6}|[0-9a-f]{3})$/i.exec(value.trim()) ?? []) : [];
  return hex ? `#${hex.length === 3 ? [...hex].map((c) => c + c).join('') : hex}`.toLowerCase() : null;
}

/** The look fields of a feature by its properties; nothing where they say nothing. */
export function looksOf(properties: Record<string, unknown>): Partial<Record<SymbologyField, Value>> {
  const color = COLORS.map((name) => hexOf(properties[name])).find((c) => c !== null) ?? null;
  if (color === null) return {};
  const fill = hexOf(properties.fill);
  const opacity = [properties['fill-opacity'], properties['stroke-opacity']].find((v) => typeof v === 'number' && v >= 0 && v < 1);
  const width = properties['stroke-width'];
  return {
    color,
    ...(fill !== null && fill !== color ? { fill } : {}),
    ...(typeof opacity === 'number' ? { transparency: Number((1 - opacity).toFixed(3)) } : {}),
    ...(typeof width === 'number' && width > 0 ? { line_width_px: width } : {}),
  };
}

/** The properties for a record's looks. */
export function styleOf(kind: number, at: (name: string) => Value): [string, Value][] {
  const color = at('color'),
    fill = at('fill'),
    weight = at('lineweight_mm'),
    pixels = at('line_width_px'),
    transparency = at('transparency');
  const out: [string, Value][] = [];
  const add = (name: string, value: Value): void => void out.push([name, value]);
  const hex = (v: Value): v is string => typeof v === 'string' && /^#[0-9a-f]{6}$/.test(v);
  if (hex(color)) add(kind === LINE || kind === POLYGON ? 'stroke' : 'marker-color', color);
  if (kind === POLYGON && (hex(fill) || hex(color))) add('fill', hex(fill) ? fill : color);
  if (kind === LINE || kind === POLYGON) {
    if (typeof pixels === 'number' && pixels > 0) add('stroke-width', pixels);
    else if (typeof weight === 'number' && weight > 0) add('stroke-width', Number((weight / CSS_PIXEL_MM).toFixed(2)));
    if (typeof transparency === 'number') add('stroke-opacity', Number((1 - transparency).toFixed(3)));
  }
  if (kind === POLYGON && typeof transparency === 'number') add('fill-opacity', Number((1 - transparency).toFixed(3)));
  return out;
}
