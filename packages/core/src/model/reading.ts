import { z } from 'zod';

const Column = z.string().min(1).max(200);

/** How a table is read where what it says of itself is not enough. What is absent is told from its names and values. */
export const Reading = z.object({
  /** The columns that say where its records are. */
  places: z
    .discriminatedUnion('kind', [
      z.object({ kind: z.literal('xy'), x: Column, y: Column, z: Column.optional() }),
      z.object({ kind: z.literal('wkt'), column: Column }),
      z.object({ kind: z.literal('none') }),
    ])
    .optional(),
  /** What its rows make: points each, the corners of a line, or those of a closed outline. */
  make: z.enum(['points', 'line', 'outline']).optional(),
  /** Rows that have the same value here make one line or outline; all rows make one when absent. */
  group: Column.optional(),
  /** Corners follow one another by this column; as they stand when absent. */
  order: Column.optional(),
  /** The code page of its texts, as the Encoding Standard calls it. */
  codePage: z.string().max(30).optional(),
});
export type Reading = z.infer<typeof Reading>;
