import type { Value } from '../model/value';
import { type FeatureBatch, type Kind, KINDS } from '../model/batch';
import { SYMBOLOGY_FIELDS, type SymbologyField } from '../model/symbology-fields';
import { type LinePattern, type SymbolLibrary, symbolKey } from './library';
import { markOf } from './marks';

/** The same for records of a source that are drawn alike, those of other kinds apart; null for a record that says nothing of its look. */
export function symbologyKey(batch: FeatureBatch, i: number): string | null {
  let key = '';
  for (let k = 0; k < SYMBOLOGY_FIELDS.length; k++) {
    const value = batch.columns.get(SYMBOLOGY_FIELDS[k]!)?.[i] ?? null;
    // most records say little, and what they do not say makes no text; no value has these characters
    if (value !== null) key += `\u0000${k}\u0001${String(value)}`;
  }
  return key === '' ? null : `${batch.kinds[i]}${key}`;
}

/** A pixel as styles that count in them have it, millimetres. Source: OGC 05-077r4 (Symbology Encoding 1.1), clause 11.1.3 (scale denominators). */
export const SE_PIXEL_MM = 0.28;
/** A pixel of screens, millimetres. Source: CSS Values and Units Level 3, section 5.2. */
export const CSS_PIXEL_MM = 25.4 / 96;

/** What a style draws a point as that says nothing of itself: reading it back says nothing either. */
export const PLAIN_MARK = 'circle',
  PLAIN_MARK_MM = 2.2;

/** How a record is drawn; null is what is not said. */
export interface Symbolizer {
  kind: Kind;
  /** Of a line, an outline, a symbol or lettering: "#rrggbb". */
  color: string | null;
  /** Of the inside of an area; that of its line when it is not said apart. */
  fill: string | null;
  /** 1 solid, 0 not to be seen. */
  opacity: number | null;
  width_mm: number | null;
  /** The same on the ground, metres, where that is what is said; it then counts alone. */
  width_m: number | null;
  /** Dashes and gaps by turns, millimetres on a sheet; null for a solid line. */
  dash_mm: readonly number[] | null;
  /** The name of the symbol: of a block, or of a mark that styles know. */
  marker: string | null;
  /** Its size, where that is said. */
  marker_mm: number | null;
}

/** Millimetres on a sheet for one metre of a pattern: a sheet of 1 to 1000. Common practice, no source. */
export const SHEET_MM_PER_M = 1;

const COLOR = /^#[0-9a-f]{6}$/;
const colorAt = (value: Value): string | null => (typeof value === 'string' && COLOR.test(value) ? value : null);

/**
 * What the fields of a record say of its look.
 * @param patternOf the pattern of a line type by its name, lengths in the unit of the coordinates
 * @param unit_m metres in one unit of the coordinates
 */
export function symbolizerOf(
  kind: Kind,
  at: (field: SymbologyField) => Value,
  patternOf: (name: string) => LinePattern | undefined,
  unit_m: number,
): Symbolizer {
  const transparency = at('transparency'),
    weight = at('lineweight_mm'),
    pixels = at('line_width_px'),
    ground = at('line_width_m'),
    linetype = at('linetype'),
    patternScale = at('linetype_scale'),
    block = at('block'),
    mark = at('marker'),
    size = at('marker_size_mm');
  const color = colorAt(at('color'));
  const stroked = kind === 'line' || kind === 'polygon';
  const width_m = stroked && typeof ground === 'number' && ground > 0 ? ground : null;
  const named = typeof block === 'string' ? (markOf(block) ?? block) : typeof mark === 'string' ? markOf(mark) : null;
  return {
    kind,
    color,
    fill: kind === 'polygon' ? (colorAt(at('fill')) ?? color) : null,
    opacity: typeof transparency === 'number' && transparency >= 0 && transparency <= 1 ? Number((1 - transparency).toFixed(3)) : null,
    width_mm:
      !stroked || width_m !== null
        ? null
        : typeof weight === 'number' && weight > 0
          ? weight
          : typeof pixels === 'number' && pixels > 0
            ? Number((pixels * CSS_PIXEL_MM).toFixed(4))
            : null,
    width_m,
    dash_mm:
      stroked && typeof linetype === 'string'
        ? dashOf(patternOf(linetype), typeof patternScale === 'number' && patternScale > 0 ? unit_m * patternScale : unit_m)
        : null,
    marker: kind === 'point' ? named : null,
    marker_mm: kind === 'point' && typeof size === 'number' && size > 0 ? size : null,
  };
}

/** The same of a record of a batch. @param library of its source @param unit_m metres in one unit of the coordinates */
export const lookOf = (batch: FeatureBatch, i: number, library: SymbolLibrary | null, unit_m: number): Symbolizer =>
  symbolizerOf(
    KINDS[batch.kinds[i]!]!,
    (field) => batch.columns.get(field)?.[i] ?? null,
    (name) => library?.lines.get(symbolKey(name)),
    unit_m,
  );

/** Length that a dot gets, millimetres. */
const DOT_MM = 0.3;

function dashOf(pattern: LinePattern | undefined, unit_m: number): number[] | null {
  if (!pattern || pattern.dashes.length === 0) return null;
  const lengths = pattern.dashes.map((d) => (d === 0 ? DOT_MM : Number((Math.abs(d) * unit_m * SHEET_MM_PER_M).toFixed(4))));
  // what is told by turns has a gap for each dash
  return lengths.length % 2 === 0 ? lengths : [...lengths, lengths.at(-1)!];
}

/** Whether anything is said. */
export const saysSomething = (look: Symbolizer): boolean =>
  look.color !== null ||
  look.fill !== null ||
  look.opacity !== null ||
  look.width_mm !== null ||
  look.width_m !== null ||
  look.dash_mm !== null ||
  look.marker !== null ||
  look.marker_mm !== null;
