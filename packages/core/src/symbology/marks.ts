/**
 * Marks for points that styles know by name, and the symbols shipped here that draw them. A circle is the mark of a point that says nothing.
 * Source: OGC 05-077r4 (Symbology Encoding 1.1), clause 11.3.2, WellKnownName.
 */
const MARKS: Readonly<Record<string, string>> = {
  square: 'POINT_SQUARE',
  triangle: 'POINT_TRIANGLE',
  cross: 'POINT_CROSS',
  x: 'POINT_DIAGONAL',
  star: 'POINT_STAR',
};

/** The mark of a name: of itself, or of the symbol that draws it; null where it is none. */
export function markOf(name: string | null): string | null {
  if (name === null) return null;
  if (name in MARKS) return name;
  return Object.entries(MARKS).find(([, symbol]) => symbol === name)?.[0] ?? null;
}

/** The symbol shipped here that draws a mark. */
export const symbolOfMark = (mark: string): string => MARKS[mark]!;
