import { z } from 'zod';
import { RETYPED } from '../model/retype';

/** The type of a field in the target, and its room there. Texts are cut to their width, in characters; numbers get at least theirs. */
export const FieldShape = z.object({
  type: z.enum(RETYPED),
  width: z.number().int().min(1).max(65_535).optional(),
  decimals: z.number().int().min(0).max(15).optional(),
});
export type FieldShape = z.infer<typeof FieldShape>;
