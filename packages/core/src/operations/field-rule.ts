import { z } from 'zod';
import { FieldShape } from './field-shape';

/** What becomes of one field of a layer. Absent: it goes along, under a name made by the target's rules. */
export const FieldRule = z.object({
  taken: z.boolean().optional(),
  to: z.string().max(64).optional(),
  /** Its type and room, in place of those that its values and its source ask for. */
  shape: FieldShape.optional(),
  /** What becomes of some of its values, by how they are written; the others stay. An empty text leaves none. */
  values: z.record(z.string().max(254), z.string().max(254)).optional(),
});
export type FieldRule = z.infer<typeof FieldRule>;
