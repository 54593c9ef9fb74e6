import { CSS_PIXEL_MM } from './symbolizer';

/** What is drawn where a record says nothing of it: the map of the page and drawn maps agree on these. */
export const PLAIN = {
  /** Of a line, millimetres on the sheet. */
  line_mm: 1.3 * CSS_PIXEL_MM,
  /** Radius of a point's ring, and the width of its line. */
  ring_mm: 2.6 * CSS_PIXEL_MM,
  ringLine_mm: 1.2 * CSS_PIXEL_MM,
  /** Height of the capitals of a label: those of 11 pixels of lettering. */
  label_mm: 11 * 0.7 * CSS_PIXEL_MM,
  /** How far a label stands off its point. */
  labelOff_mm: 7 * CSS_PIXEL_MM,
  /** The light rim around letters. */
  rim_mm: 2.5 * CSS_PIXEL_MM,
} as const;

/** How much of its fill an area shows that says what it is, so that what lies below is still to be read; and one that does not. */
export const FILL_SHOWN = 0.5,
  FILL_HINTED = 0x12 / 255;

/** A mark that styles know: its corners, how far the inner ones of a star are in, and how it is turned, radians clockwise. */
export interface MarkShape {
  points: number;
  inner?: number;
  angle?: number;
  /** Strokes from the middle, with no inside. */
  open?: true;
}

/** By the names that styles have for them. Source: OGC 05-077r4 (Symbology Encoding 1.1), clause 11.3.2. */
export const MARK_SHAPES: Readonly<Record<string, MarkShape>> = {
  square: { points: 4, angle: Math.PI / 4 },
  triangle: { points: 3 },
  star: { points: 5, inner: 0.4 },
  cross: { points: 4, inner: 0, open: true },
  x: { points: 4, inner: 0, angle: Math.PI / 4, open: true },
};

/** Corners of a mark about (0, 0), x to the right and y downwards, by twos; its first points upwards. @param radius of its outer corners */
export function markCorners({ points, inner, angle = 0 }: MarkShape, radius: number): number[] {
  const steps = inner === undefined ? points : 2 * points;
  const corners: number[] = [];
  for (let k = 0; k < steps; k++) {
    const r = inner !== undefined && k % 2 === 1 ? inner * radius : radius;
    const turn = angle + (2 * Math.PI * k) / steps;
    corners.push(r * Math.sin(turn), -r * Math.cos(turn));
  }
  return corners;
}
