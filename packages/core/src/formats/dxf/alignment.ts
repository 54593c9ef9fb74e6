/** How a text stands about its point. Source: DXF Reference, TEXT (groups 72 and 73) and MTEXT (group 71). */
const ACROSS: Record<number, string> = { 0: 'left', 1: 'centre', 2: 'right' };
const UP: Record<number, string> = { 0: 'base', 1: 'bottom', 2: 'middle', 3: 'top' };
const MIDDLE = 4;

/** Words for groups 72 and 73; null where a text is set from its left end on the base line, or between two points. */
export function alignmentWords(across: number, up: number): string | null {
  if (across === MIDDLE) return 'middle middle';
  if (ACROSS[across] === undefined || UP[up] === undefined || (across === 0 && up === 0)) return null;
  return `${UP[up]} ${ACROSS[across]}`;
}

/** Groups 72 and 73 of these words. */
export function textAlignment(words: string): [number, number] | null {
  if (words === 'middle middle') return [MIDDLE, 0];
  const [up, across] = words.split(' ');
  const a = Object.keys(ACROSS).find((k) => ACROSS[Number(k)] === across),
    u = Object.keys(UP).find((k) => UP[Number(k)] === up);
  return a === undefined || u === undefined ? null : [Number(a), Number(u)];
}

/** Words for the attachment of a paragraph, from 1. */
export const ATTACHED: readonly string[] = [
  'top left',
  'top centre',
  'top right',
  'middle left',
  'middle centre',
  'middle right',
  'bottom left',
  'bottom centre',
  'bottom right',
];
