import type { Symbolizer } from './symbolizer';
import { markOf } from './marks';

/** What of looks a format can hold in its own way, so that other programs see it; what it cannot still travels as fields. */
export interface CarriedSymbology {
  color: boolean;
  /** The inside of areas apart from their lines. */
  fill: boolean;
  opacity: boolean;
  width: boolean;
  /** Widths on the ground. */
  ground: boolean;
  dash: boolean;
  /** Any symbol with its drawing, or the marks that styles know by name. */
  marker: 'any' | 'marks' | 'none';
  /** Sizes of symbols apart from their drawing. */
  size: boolean;
  /** Labels of a layer by a field. */
  label: boolean;
  /** The scales at which a layer is shown. */
  scales: boolean;
  /** Whether looks are told by fields of the records, which then must be there. */
  byFields?: boolean;
  /** What it makes of a look that it holds only nearly. */
  rounded?(look: Symbolizer): Symbolizer;
  /** In plain words, how it is held: "as a style beside it (SLD)". */
  how: string;
}

/** A format that has no looks of its own. */
export const NO_SYMBOLOGY: CarriedSymbology = {
  color: false,
  fill: false,
  opacity: false,
  width: false,
  ground: false,
  dash: false,
  marker: 'none',
  size: false,
  label: false,
  scales: false,
  how: 'as fields only',
};

/** The look that is left of one, and what is not, in plain words. */
export function carriedPart(look: Symbolizer, held: CarriedSymbology): { look: Symbolizer; lost: string[] } {
  const lost: string[] = [];
  const keep = <T>(value: T | null, can: boolean, word: string, otherwise: T | null = null): T | null => {
    if (value === null || can) return value;
    lost.push(word);
    return otherwise;
  };
  const marker = held.marker === 'any' ? look.marker : held.marker === 'marks' ? markOf(look.marker) : null;
  if (look.marker !== null && marker === null) lost.push('symbol');
  const color = keep(look.color, held.color, 'colour');
  const left: Symbolizer = {
    kind: look.kind,
    color,
    fill: look.fill === look.color ? color : keep(look.fill, held.fill, 'fill of its own', color),
    opacity: keep(look.opacity === 1 ? null : look.opacity, held.opacity, 'transparency'),
    width_mm: keep(look.width_mm, held.width, 'line width'),
    width_m: keep(look.width_m, held.ground, 'width on the ground'),
    dash_mm: keep(look.dash_mm, held.dash, 'dashes'),
    marker,
    marker_mm: keep(look.marker_mm, held.size, 'size of its symbol'),
  };
  return { lost, look: held.rounded?.(left) ?? left };
}

/** How far numbers may be off that are written in pixels, in 255 steps, or in the weights of a drawing: millimetres, and shares. */
const NEAR = 0.011;

/** What of a look is not in another one, in plain words. What says nothing may be drawn as the target likes. */
export function missingParts(wanted: Symbolizer, found: Symbolizer): string[] {
  const out: string[] = [];
  const number = (a: number | null, b: number | null, word: string): void =>
    void (a !== null && (b === null || Math.abs(a - b) > Math.max(NEAR, a * NEAR)) && out.push(word));
  if (wanted.color !== null && wanted.color !== found.color) out.push('colour');
  if (wanted.fill !== null && wanted.fill !== wanted.color && wanted.fill !== found.fill) out.push('fill');
  number(wanted.opacity, found.opacity, 'transparency');
  number(wanted.width_mm, found.width_mm, 'line width');
  number(wanted.width_m, found.width_m, 'width on the ground');
  if (
    wanted.dash_mm !== null &&
    (found.dash_mm?.length !== wanted.dash_mm.length ||
      wanted.dash_mm.some((d, k) => Math.abs(d - found.dash_mm![k]!) > Math.max(NEAR, d * NEAR)))
  )
    out.push('dashes');
  if (wanted.marker !== null && wanted.marker !== found.marker) out.push('symbol');
  number(wanted.marker_mm, found.marker_mm, 'size of its symbol');
  return out;
}
