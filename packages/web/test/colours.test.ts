import { hsl, rgb } from 'd3';
import { describe, expect, it } from 'vitest';
import { indexColor } from '@pontrel/core/formats/dxf/colors';
import { onPaper } from '../src/theme/on-paper';
import { DAY, NIGHT, type Palette } from '@pontrel/contract/palette';

/** Contrast ratio. Source: WCAG 2.2, definitions of relative luminance and contrast ratio. */
function contrast(a: string, b: string): number {
  const luminance = (color: string): number => {
    const { r, g, b: blue } = rgb(color);
    const [x, y, z] = [r, g, blue].map((c) => (c / 255 <= 0.04045 ? c / 255 / 12.92 : ((c / 255 + 0.055) / 1.055) ** 2.4));
    return 0.2126 * x! + 0.7152 * y! + 0.0722 * z!;
  };
  const [one, two] = [luminance(a), luminance(b)];
  return (Math.max(one, two) + 0.05) / (Math.min(one, two) + 0.05);
}

const PALETTES: [string, Palette][] = [
  ['day', DAY],
  ['night', NIGHT],
];

describe.each(PALETTES)('the colours by %s', (_name, p) => {
  // lettering needs 4.5 (WCAG 2.2, 1.4.3), lines and marks that carry meaning 3 (1.4.11)
  const LETTERING: [keyof Palette, keyof Palette][] = [
    ['ink', 'paper'],
    ['ink', 'surface'],
    ['ink', 'map'],
    ['ink', 'sunk'],
    ['muted', 'paper'],
    ['muted', 'surface'],
    ['onAccent', 'oxide'],
    ['oxideDeep', 'surface'],
    ['oxideDeep', 'paper'],
    ['verdigrisInk', 'verdigrisTint'],
    ['verdigrisInk', 'surface'],
    ['amberInk', 'amberTint'],
    ['amberInk', 'surface'],
    ['madderInk', 'madderTint'],
    ['madderInk', 'surface'],
    ['ink', 'verdigrisTint'],
    ['ink', 'amberTint'],
    ['ink', 'madderTint'],
    ['muted', 'verdigrisTint'],
  ];
  it.each(LETTERING)('%s can be read on %s', (front, back) => expect(contrast(p[front], p[back])).toBeGreaterThanOrEqual(4.5));

  const MARKS: [keyof Palette, keyof Palette][] = [
    ['verdigris', 'surface'],
    ['oxide', 'surface'],
    ['madder', 'surface'],
    ['amber', 'surface'],
    ['oxide', 'map'],
    ['verdigris', 'map'],
  ];
  it.each(MARKS)('%s stands off %s', (front, back) => expect(contrast(p[front], p[back])).toBeGreaterThanOrEqual(3));

  it('show every colour index of a drawing so that it stands off the sheet, its hue kept', () => {
    for (let i = 1; i < 256; i++) {
      const given = indexColor(i);
      const shown = onPaper(given, p);
      expect([i, contrast(shown, p.map) >= 3]).toEqual([i, true]);
      const [a, b] = [hsl(given), hsl(shown)];
      if (a.s > 0.2 && b.s > 0.2 && a.l > 0.05) expect(Math.abs(((a.h - b.h + 540) % 360) - 180)).toBeLessThan(4);
    }
  });

  it('turn the foreground of a drawing into ink', () => {
    for (const foreground of ['#ffffff', '#FFFFFF', '#000000', '']) expect(onPaper(foreground, p)).toBe(p.ink);
  });
});
