import type { Palette } from '@pontrel/contract/palette';

/** The colours that heights are drawn in, from the lowest to the highest: at night those that stand out from dark paper. */
export const HEIGHT_TONES = {
  day: ['verdigrisLine', 'verdigrisTint', 'sunk', 'amberLine', 'oxide'],
  night: ['verdigris', 'verdigrisInk', 'muted', 'amber', 'oxide'],
} as const satisfies Record<string, readonly (keyof Palette)[]>;
