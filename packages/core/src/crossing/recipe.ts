import { z } from 'zod';
import { Reading } from '../model/reading';
import { FIT_KINDS } from '../placement/fit';

/** What becomes of one field of a layer. Absent: it goes along, under a name made by the target's rules. */
export const FieldRule = z.object({
  taken: z.boolean().optional(),
  to: z.string().max(64).optional(),
  /** What becomes of some of its values, by how they are written; the others stay. An empty text leaves none. */
  values: z.record(z.string().max(254), z.string().max(254)).optional(),
});
export type FieldRule = z.infer<typeof FieldRule>;

/** How a block crosses: as a point with its data, taken apart into its geometry, or as the outline around it. */
export const BLOCK_WAYS = ['point', 'apart', 'outline'] as const;
export type BlockWay = (typeof BLOCK_WAYS)[number];

/** A field that has the same value on every record of the layer. */
export const Constant = z.object({ name: z.string().min(1).max(64), value: z.union([z.string().max(254), z.number(), z.boolean()]) });
export type Constant = z.infer<typeof Constant>;

/** Texts of the layer given to the objects of another layer of the source as a field. */
export const TextGift = z.object({
  /** The layer of the objects. */
  layer: z.string(),
  field: z.string().min(1).max(64),
  /** To the area that a text stands in, or to the nearest object. */
  how: z.enum(['in', 'near']),
  /** Metres at most from the text to its object, for the nearest one. */
  within_m: z.number().positive(),
});
export type TextGift = z.infer<typeof TextGift>;

/** A table whose fields go to the records of a layer, by a key. */
export const Join = z.object({
  source: z.string(),
  layer: z.string(),
  /** The field of the layer, and that of the table, that hold the same. */
  key: z.string(),
  to: z.string(),
});
export type Join = z.infer<typeof Join>;

/** Characters of a filter: picked records are told one by one. */
export const LONGEST_FILTER = 24_000;
const Where = z.string().max(LONGEST_FILTER);

/** A filter that is kept under a name, to be used again. */
const Selection = z.object({ name: z.string().min(1).max(80), where: Where });

/** What becomes of one layer. Absent members: taken, all entities, all fields, nothing computed, shapes as they are. */
export const LayerRule = z.object({
  taken: z.boolean().optional(),
  /** The layer that its records go into; several may go into one. */
  to: z.string().min(1).max(120).optional(),
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
  constants: z.array(Constant).optional(),
  /** By block name; those not named cross as points. */
  blocks: z.record(z.string(), z.enum(BLOCK_WAYS)).optional(),
  /** What becomes of fills; areas when absent. */
  fills: z.enum(['area', 'outline', 'both']).optional(),
  texts: TextGift.optional(),
  /** Drops records whose geometry is that of one before. */
  once: z.boolean().optional(),
  /** Leaves vertices out that lie nearer than this to the line without them, metres. */
  thin_m: z.number().positive().optional(),
  /** Entity names that stay behind. */
  without: z.array(z.string()).optional(),
  /** By field name in the source. */
  fields: z.record(z.string(), FieldRule).optional(),
  /** Names of computed fields that are added. */
  computed: z.array(z.string()).optional(),
});
export type LayerRule = z.infer<typeof LayerRule>;

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
  swapped: z.boolean().optional(),
  turned: z.boolean().optional(),
  /** Added in the unit of the CRS. */
  plus: XY.optional(),
  /** Marks that place the source in the plane of the CRS. */
  fit: z.object({ kind: z.enum(FIT_KINDS), pairs: z.array(ControlPoint).max(2000) }).optional(),
  /** Codes of the operations of the chosen change of datum; the best one when absent. */
  way: z.string().optional(),
  /** Takes numbers over where no change of datum is known. */
  ballpark: z.boolean().optional(),
});
export type Placement = z.infer<typeof Placement>;

/** What of the sources a deliverable is about, in the frame: a box, an outline that was drawn, what a source covers and some more, or the areas of a layer. */
export const AreaOfInterest = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('box'), box: z.tuple([z.number(), z.number(), z.number(), z.number()]) }),
  z.object({ kind: z.literal('drawn'), ring: z.array(XY).min(3).max(2000) }),
  z.object({ kind: z.literal('source'), source: z.string(), plus_m: z.number().nonnegative() }),
  z.object({ kind: z.literal('layer'), source: z.string(), layer: z.string() }),
]);
export type AreaOfInterest = z.infer<typeof AreaOfInterest>;

/** The source that an area of interest is taken from; null where it stands for itself. */
export const sourceOfArea = (area: AreaOfInterest): string | null => ('source' in area ? area.source : null);

export const Deliverable = z.object({
  id: z.string(),
  name: z.string().min(1).max(80),
  format: z.string(),
  crs: z.string(),
  /** One set a layer and kind, or one a kind. */
  grouping: z.enum(['layer', 'kind']),
  /** Only records that lie at least partly in it cross; all when absent. */
  area: AreaOfInterest.optional(),
  /** The source whose file it is added to, where its format can; that file stays as it is. */
  into: z.string().optional(),
  /** What is chosen of the options of its format; the first choice where nothing is said. */
  options: z.record(z.string(), z.union([z.string().max(2000), z.number()])).optional(),
});
export type Deliverable = z.infer<typeof Deliverable>;

export { Reading };

/** The rules of a crossing: one document, which can be run again on other files. Sources are known by file name. */
export const Recipe = z.object({
  version: z.literal(1),
  frame: z.object({ crs: z.string() }).nullable(),
  /** Largest distance of a chord from its curve, metres on the ground. */
  chord_m: z.number().positive(),
  sources: z.record(
    z.string(),
    z.object({ placement: Placement.nullable(), layers: z.record(z.string(), LayerRule), reading: Reading.optional() }),
  ),
  deliverables: z.array(Deliverable),
});
export type Recipe = z.infer<typeof Recipe>;

export const EMPTY_RECIPE: Recipe = { version: 1, frame: null, chord_m: 0.005, sources: {}, deliverables: [] };

export function layerRule(recipe: Recipe, source: string, layer: string): LayerRule {
  return recipe.sources[source]?.layers[layer] ?? {};
}

export function isTaken(rule: LayerRule): boolean {
  return rule.taken !== false;
}
