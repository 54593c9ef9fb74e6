import { z } from 'zod';
import { Blocks } from './blocks';
import { Constants } from './constants';
import { FieldRule } from './field-rule';
import { Fills } from './fills';
import { Where } from './filter';
import { Join } from './join-table';
import { Simplify } from './simplify';
import { TargetLayer } from './target-layer';
import { TextTransfer } from './text-transfer';

/** A filter that is kept under a name, to be used again. */
const Selection = z.object({ name: z.string().min(1).max(80), where: Where });

/** What becomes of one layer. Absent members: taken, all entities, all fields, nothing computed, shapes as they are. */
export const LayerRule = z.object({
  taken: z.boolean().optional(),
  /** The layer that its records go into; several may go into one. */
  to: TargetLayer.optional(),
  /** Only the records that this filter takes cross: CQL2 as text. */
  where: Where.optional(),
  /** What its records are labelled with, in place of what its source says; null for nothing. */
  label: z
    .object({ field: z.string().min(1).max(254), height_mm: z.number().positive().max(1000).optional() })
    .nullable()
    .optional(),
  /** The denominators of the scales at which it is shown, in place of what its source says; null for all. */
  scales: z.object({ min: z.number().positive().optional(), max: z.number().positive().optional() }).nullable().optional(),
  /** Changes nothing by itself. */
  selections: z.array(Selection).max(200).optional(),
  join: Join.optional(),
  constants: Constants.optional(),
  blocks: Blocks.optional(),
  fills: Fills.optional(),
  textTransfer: TextTransfer.optional(),
  dropDuplicates: z.boolean().optional(),
  simplify_m: Simplify.optional(),
  /** Entity names that stay behind. */
  leftOut: z.array(z.string()).optional(),
  /** By field name in the source. */
  fields: z.record(z.string(), FieldRule).optional(),
  /** Names of fields in the source, in the order that they have in the target; the others follow. */
  fieldOrder: z.array(z.string()).optional(),
  /** Names of computed fields that are added. */
  computed: z.array(z.string()).optional(),
});
export type LayerRule = z.infer<typeof LayerRule>;

/** The rules of the layers of one source, by layer name. */
export type LayerRules = Readonly<Record<string, LayerRule>>;

/** Whether a layer is taken; it is where nothing is said. */
export function isTaken(rule: LayerRule): boolean {
  return rule.taken !== false;
}
