import { hex, indexColor } from '../colors';
import type { GroupWriter } from './groups';

/** Line weights that a drawing knows, hundredths of a millimetre. Source: DXF Reference, group 370. */
const WEIGHTS = [0, 5, 9, 13, 15, 18, 20, 25, 30, 35, 40, 50, 53, 60, 70, 80, 90, 100, 106, 120, 140, 158, 200, 211];

/** How an object is drawn. Undefined follows the layer; `by block` the block. */
export interface Pen {
  color?: string | 'by block';
  linetype?: string | 'by block';
  /** What the lengths of its pattern are multiplied with. */
  patternScale?: number;
  lineweight_mm?: number | 'by block';
  transparency?: number;
}

const indexes = new Map<string, number>();

/** The colour index that looks most like a colour, 1 to 255. */
export function nearestIndex(color: string): number {
  let best = indexes.get(color);
  if (best !== undefined) return best;
  const rgb = (c: string): number[] => [1, 3, 5].map((k) => parseInt(c.slice(k, k + 2), 16));
  const [r, g, b] = rgb(color);
  let least = Infinity;
  best = 7;
  for (let i = 1; i <= 255; i++) {
    const [r2, g2, b2] = rgb(indexColor(i));
    const d = (r! - r2!) ** 2 + (g! - g2!) ** 2 + (b! - b2!) ** 2;
    if (d < least) [least, best] = [d, i];
  }
  indexes.set(color, best);
  return best;
}

/** The line weight of the format that is nearest, hundredths of a millimetre. */
export function nearestWeight(mm: number): number {
  const wanted = mm * 100;
  return WEIGHTS.reduce((a, b) => (Math.abs(b - wanted) < Math.abs(a - wanted) ? b : a));
}

/** The colour that a reader of this version sees. */
export function seenColor(color: string, trueColor: boolean): string {
  return trueColor ? hex(parseInt(color.slice(1), 16)) : indexColor(nearestIndex(color));
}

const solidity = (transparency: number): number => Math.round((1 - transparency) * 255);

/** The transparency that a reader sees. */
export const seenTransparency = (transparency: number): number => Number((1 - solidity(transparency) / 255).toFixed(3));

/** Writes a colour: the nearest of the index, and itself where the version has room for it. @param color "#rrggbb" */
export function putColor(out: GroupWriter, color: string): void {
  out.put(62, nearestIndex(color));
  if (out.version.trueColor) out.put(420, parseInt(color.slice(1), 16));
}

/** Writes what of its line an entity says itself. */
export function putPen(out: GroupWriter, pen: Pen): void {
  if (pen.linetype !== undefined) out.words(6, pen.linetype === 'by block' ? 'BYBLOCK' : pen.linetype);
  if (pen.color === 'by block') out.put(62, 0);
  else if (pen.color !== undefined) putColor(out, pen.color);
  if (!out.version.modern) return;
  if (pen.patternScale !== undefined) out.put(48, pen.patternScale);
  if (pen.lineweight_mm !== undefined) out.put(370, pen.lineweight_mm === 'by block' ? -2 : nearestWeight(pen.lineweight_mm));
  if (pen.transparency !== undefined && out.version.trueColor) out.put(440, 0x02000000 + solidity(pen.transparency));
}
