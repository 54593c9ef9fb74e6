import { z } from 'zod';
import { LayerRule } from '../operations/layer-rule';
import { Reading } from '../model/reading';
import { Placement } from '../placement/placement';
import { RESAMPLINGS } from '../raster/resample';
import { ImageRule } from './image-rule';
import { Slot } from './slot';
import { WorkedOut } from './worked-out';

const XY = z.tuple([z.number(), z.number()]);

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

/** How a picture is worked out. */
export const ImageSettings = z.object({
  /** Along the axes, in units of the target; the native one when absent. */
  pixelSize: z.tuple([z.number().positive(), z.number().positive()]).optional(),
  resampling: z.enum(RESAMPLINGS),
  /** The sources whose pictures it is made of; all that are taken when absent. */
  sources: z.array(z.string()).optional(),
  /** What becomes of pixels beyond an area that is no box: they are left out when absent. */
  outside: z.enum(['nothing', 'stays']).optional(),
  /** Whether its edges lie at multiples of its pixels, or on the pixels of its sources; they lie where the area ends when absent. */
  aligned: z.boolean().optional(),
  /** How it is split into files. */
  split: z
    .object({
      /** Rows by columns ("2x3"), or the size of a tile in pixels ("1000 px") or on the ground ("500 m"); absent where areas say it. */
      into: z.string().max(40).optional(),
      /** A tile for each area of a layer, named by a field or numbered. */
      areas: z.object({ source: z.string(), layer: z.string(), field: z.string().optional() }).optional(),
      /** Pixels by which each tile reaches over into the next ones. */
      overlap: z.number().int().min(0).max(4096).optional(),
      names: z.enum(['number', 'row-column']).optional(),
    })
    .optional(),
  /** Which picture gives a pixel that several have: the newest, or the one whose middle is nearest; the upper one when absent. */
  first: z.enum(['newest', 'centre']).optional(),
  /** Metres on the ground over which pictures pass into each other; a hard edge when absent. */
  feather_m: z.number().positive().max(1e5).optional(),
  /** Where it lies below the records of a drawing: how its file is packed, JPEG when absent, and with which quality. */
  packed: z.enum(['jpeg', 'png', 'tiff']).optional(),
  quality: z.number().min(1).max(100).optional(),
  /** The card of a field controller that it is put on, by the name of its folder. */
  card: z.string().max(200).optional(),
  /** Records that are drawn over it, as a map of a scale of 1 to so much with so many dots an inch: its pixels follow from these. */
  drawn: z.object({ scale: z.number().min(1).max(1e9), dpi: z.number().min(10).max(2400) }).optional(),
  /** Bytes that its files are to stay under: the quality is chosen by them. */
  under_bytes: z.number().positive().optional(),
});
export type ImageSettings = z.infer<typeof ImageSettings>;

/** What is handed over: a format, a system, a choice of what goes into it, and its options. */
export const Deliverable = z.object({
  id: z.string(),
  name: z.string().min(1).max(80),
  /** What its files are called, without extension; made from its name when absent. */
  stem: z.string().min(1).max(120).optional(),
  format: z.string(),
  crs: z.string(),
  /** One set a layer and kind, or one a kind. */
  grouping: z.enum(['layer', 'kind']),
  /** Only records that lie at least partly in it cross; all when absent. */
  area: AreaOfInterest.optional(),
  /** Layers that it leaves out of those that are taken, by source; true for all of a source. */
  without: z.record(z.string(), z.union([z.literal(true), z.array(z.string())])).optional(),
  /** The source whose file it is added to, where its format can; that file stays as it is. */
  into: z.string().optional(),
  /** How pictures are worked out, for a format that holds such. */
  image: ImageSettings.optional(),
  /** What is chosen of the options of its format; the first choice where nothing is said. */
  options: z.record(z.string(), z.union([z.string().max(2000), z.number()])).optional(),
});
export type Deliverable = z.infer<typeof Deliverable>;

/** The sources that areas of a deliverable are taken from. */
export const sourcesOfAreas = ({ area, image }: Deliverable): string[] => [
  ...(area ? [sourceOfArea(area)].filter((s) => s !== null) : []),
  ...(image?.split?.areas ? [image.split.areas.source] : []),
];

/** The rules of a crossing: one document, which can be run again on other files. A source is known by the name that its file has now. */
export const Recipe = z.object({
  version: z.literal(2),
  frame: z.object({ crs: z.string() }).nullable(),
  /** Largest distance of a chord from its curve, metres on the ground. */
  chord_m: z.number().positive(),
  sources: z.record(
    z.string(),
    z.object({
      placement: Placement.nullable(),
      layers: z.record(z.string(), LayerRule),
      reading: Reading.optional(),
      image: ImageRule.optional(),
      /** Faults that a person has looked at and lets be, by their keys. */
      faultsLeft: z.array(z.string().max(500)).max(20_000).optional(),
      /** How its records are worked out of those of others; absent where it is a file that somebody brought. */
      workedOut: WorkedOut.optional(),
      /** What is expected of a file in its place; said in a recipe that is handed out. */
      slot: Slot.optional(),
    }),
  ),
  /** Sources that are pictures in the order in which they cover each other, the first on top; those that are not named lie below. */
  images: z.array(z.string()).optional(),
  deliverables: z.array(Deliverable),
});
export type Recipe = z.infer<typeof Recipe>;

/** The recipe of a crossing in which nothing has been said yet; chords stand off by 5 mm at most. */
export const EMPTY_RECIPE: Recipe = { version: 2, frame: null, chord_m: 0.005, sources: {}, deliverables: [] };

/** What becomes of the pictures of a source. */
export const imageRule = (recipe: Recipe, source: string): ImageRule => recipe.sources[source]?.image ?? {};

/** What becomes of a layer; nothing is said where there is no rule. */
export function layerRule(recipe: Recipe, source: string, layer: string): LayerRule {
  return recipe.sources[source]?.layers[layer] ?? {};
}
