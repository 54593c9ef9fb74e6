import { LINE, POLYGON, type Value } from '../../model/batch';
import { PIXELS_PER_MM } from '../globe';

/**
 * Looks as properties of a feature. Source: simplestyle-spec 1.1.0, "stroke", "fill", "marker-color", "stroke-width", "stroke-opacity", "fill-opacity".
 */

/** The properties that stand for a colour, the most telling first. */
const COLORS = ['stroke', 'marker-color', 'fill'] as const;

/** The colour of a feature by its properties, "#rrggbb"; null where it states none. */
export function colorOf(properties: Record<string, unknown>): string | null {
  for (const name of COLORS) {
    const value = properties[name];
    if (typeof value !== 'string') continue;
    const [, hex] = /^#?([0-9a-f]{6}|[0-9a-f]{3})$/i.exec(value.trim()) ?? [];
    if (hex) return `#${hex.length === 3 ? [...hex].map((c) => c + c).join('') : hex}`.toLowerCase();
  }
  return null;
}

/** The properties for a record's looks; those that the record has itself stand. */
export function styleOf(kind: number, at: (name: string) => Value): [string, Value][] {
  const color = at('color'), weight = at('lineweight_mm'), transparency = at('transparency');
  const out: [string, Value][] = [];
  const add = (name: string, value: Value): void => {
    if (at(name) === null) out.push([name, value]);
  };
  if (typeof color === 'string' && /^#[0-9a-f]{6}$/.test(color)) {
    add(kind === LINE || kind === POLYGON ? 'stroke' : 'marker-color', color);
    if (kind === POLYGON) add('fill', color);
  }
  if (kind === LINE || kind === POLYGON) {
    if (typeof weight === 'number' && weight > 0) add('stroke-width', Number((weight * PIXELS_PER_MM).toFixed(2)));
    if (typeof transparency === 'number') add('stroke-opacity', Number((1 - transparency).toFixed(3)));
  }
  if (kind === POLYGON && typeof transparency === 'number') add('fill-opacity', Number((1 - transparency).toFixed(3)));
  return out;
}
