import type { Look } from './look';
import { markOf } from './marks';

/** What of looks a format can hold in its own way, so that other programs see it; what it cannot still travels as fields. */
export interface HeldLooks {
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
  /** In plain words, how it is held: "as a style beside it (SLD)". */
  how: string;
}

/** A format that has no looks of its own. */
export const NO_LOOKS: HeldLooks = { color: false, fill: false, opacity: false, width: false, ground: false, dash: false, marker: 'none', size: false, label: false, scales: false, how: 'as fields only' };

/** The look that is left of one, and what is not, in plain words. */
export function heldOf(look: Look, held: HeldLooks): { look: Look; lost: string[] } {
  const lost: string[] = [];
  const keep = <T>(value: T | null, can: boolean, word: string, otherwise: T | null = null): T | null => {
    if (value === null || can) return value;
    lost.push(word);
    return otherwise;
  };
  const marker = held.marker === 'any' ? look.marker : held.marker === 'marks' ? markOf(look.marker) : null;
  if (look.marker !== null && marker === null) lost.push('symbol');
  const color = keep(look.color, held.color, 'colour');
  return {
    lost,
    look: {
      kind: look.kind, color,
      fill: look.fill === look.color ? color : keep(look.fill, held.fill, 'fill of its own', color),
      opacity: keep(look.opacity === 1 ? null : look.opacity, held.opacity, 'transparency'),
      width_mm: keep(look.width_mm, held.width, 'line width'),
      width_m: keep(look.width_m, held.ground, 'width on the ground'),
      dash_mm: keep(look.dash_mm, held.dash, 'dashes'),
      marker,
      marker_mm: keep(look.marker_mm, held.size, 'size of its symbol'),
    },
  };
}
