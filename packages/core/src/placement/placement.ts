import { z } from 'zod';
import { FIT_KINDS } from './fit';

const XY = z.tuple([z.number(), z.number()]);

/** A mark of the source and its position in the plane of the placement's CRS. */
export const ControlPoint = z.object({ from: XY, to: XY, name: z.string().max(40).optional(), out: z.boolean().optional() });
export type ControlPoint = z.infer<typeof ControlPoint>;

/** How a source's own coordinates get into the reference frame; the members that are not there change nothing. */
export const Placement = z.object({
  /** A code or a definition. */
  crs: z.string(),
  /** Metres in one unit of the source's coordinates; null when they are in the unit of the CRS. */
  unit_m: z.number().positive().nullable(),
  /** Metres in one unit as the source stated it when somebody settled which one its numbers are in. */
  settled_m: z.number().positive().optional(),
  axesSwapped: z.boolean().optional(),
  signReversed: z.boolean().optional(),
  /** Added in the unit of the CRS. */
  offset: XY.optional(),
  /** Marks that place the source in the plane of the CRS. */
  fit: z.object({ kind: z.enum(FIT_KINDS), pairs: z.array(ControlPoint).max(2000) }).optional(),
  /** Codes of the operations of the chosen change of datum; the best one when absent. */
  operation: z.string().optional(),
  /** Takes numbers over where no change of datum is known. */
  ballpark: z.boolean().optional(),
});
export type Placement = z.infer<typeof Placement>;
