import type { ControlPoint } from '@pontrel/core/placement/placement';
import { Problem } from '@pontrel/core/model/problem';

/**
 * Pairs of control points from pasted lines: four numbers, with a name before them or without; blanks, tabs, commas or
 * semicolons between. With semicolons or tabs a comma may be the decimal mark.
 * @throws Problem `pairs-unread` with the line
 */
export function readPairs(text: string): ControlPoint[] {
  const lines = text.split(/\r?\n/).map((l) => l.trim());
  const pairs: ControlPoint[] = [];
  lines.forEach((line, k) => {
    if (line === '' || line.startsWith('#')) return;
    const parts = line.split(/[;\t]/.test(line) ? /\s*[;\t]\s*/ : /[\s,]+/).filter(Boolean);
    const numbers = parts.slice(-4).map((p) => Number(p.replace(',', '.')));
    if (parts.length < 4 || numbers.some((n) => !Number.isFinite(n))) {
      if (pairs.length === 0 && k === 0) return; // a line of headings
      throw new Problem(
        'pairs-unread',
        `Line ${k + 1}, "${line.slice(0, 40)}", is not four numbers: x and y in the drawing, easting and northing in the frame.`,
      );
    }
    const name = parts.slice(0, -4).join(' ');
    pairs.push({ from: [numbers[0]!, numbers[1]!], to: [numbers[2]!, numbers[3]!], ...(name ? { name } : {}) });
  });
  if (pairs.length === 0)
    throw new Problem(
      'pairs-unread',
      'There is no pair in what was pasted. Write four numbers a line: x and y in the drawing, easting and northing in the frame.',
    );
  return pairs;
}
