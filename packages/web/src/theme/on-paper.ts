import { hsl, rgb } from 'd3';
import { FOREGROUND, type Palette } from '@pontrel/contract/palette';

const cache = new Map<string, string>();

/** Relative luminance. Source: WCAG 2.2, "relative luminance". */
function luminance(color: string): number {
  const { r, g, b } = rgb(color);
  const linear = (c: number): number => (c / 255 <= 0.04045 ? c / 255 / 12.92 : ((c / 255 + 0.055) / 1.055) ** 2.4);
  return 0.2126 * linear(r) + 0.7152 * linear(g) + 0.0722 * linear(b);
}

function contrast(a: string, b: string): number {
  const [x, y] = [luminance(a), luminance(b)];
  return (Math.max(x, y) + 0.05) / (Math.min(x, y) + 0.05);
}

/**
 * A colour of a drawing as it is shown on the sheet: hue kept, made darker (by night: lighter) until it stands off the
 * paper. Drawings are drawn on black or on white; their foreground colour becomes ink.
 */
export function onPaper(color: string, palette: Palette): string {
  if (FOREGROUND.has(color.toLowerCase())) return palette.ink;
  const key = color + palette.map;
  let shown = cache.get(key);
  if (shown === undefined) {
    const night = luminance(palette.map) < 0.2;
    const c = hsl(color);
    // the screens of drawing offices are gaudier than paper
    c.s = Math.min(c.s, 0.72);
    for (let k = 0; k < 50 && contrast(c.formatHex(), palette.map) < 3.2; k++) c.l += night ? 0.02 : -0.02;
    cache.set(key, (shown = c.formatHex()));
  }
  return shown;
}
