import type { DrawingProof } from '@pontrel/core/crossing/drawing-images';
import { Reading } from '@pontrel/core/model/reading';
import { Placement } from '@pontrel/core/placement/placement';
import { z } from 'zod';
import { Recipe } from '@pontrel/core/crossing/recipe';
import { ComparisonRule, DerivationRule } from '@pontrel/core/crossing/worked-out';
import type { Forecast } from '@pontrel/core/content/features/forecast';
import type { Finding } from '@pontrel/core/model/finding';
import type { LayerProfile } from '@pontrel/core/content/features/profile';
import type { ImageForecast } from '@pontrel/core/content/raster/forecast';
import type { ImageRunProof } from '@pontrel/core/content/raster/proof';
import type { ImageProfile } from '@pontrel/core/content/raster/profile';
import type { LayerStyle } from '@pontrel/core/symbology/layer-style';
import { Job } from './job';
import { PlacedPictures, RegistrationView } from './pictures';

/** A small plan of a layer: outlines in a box of its own, one path a colour. */
export const Thumbnail = z.object({
  width: z.number(),
  height: z.number(),
  strokes: z.array(z.object({ color: z.string(), kind: z.enum(['point', 'line', 'polygon', 'text']), path: z.string() })),
});
export type Thumbnail = z.infer<typeof Thumbnail>;

export const SourceLayer = z.object({
  profile: z.custom<LayerProfile>((v) => typeof v === 'object' && v !== null),
  plan: Thumbnail,
  /** Blocks placed on the layer, the most frequent first, with the parts that each draws. */
  /** With what each asks for, by tag. */
  blocks: z
    .array(z.object({ name: z.string(), count: z.number(), parts: z.number(), prompts: z.record(z.string(), z.string()).optional() }))
    .optional(),
  /** What the source says of the layer itself: off, frozen, locked, not plotted. */
  states: z.array(z.string()).optional(),
  /** What a style of the source says of it as a whole. */
  style: z.custom<LayerStyle>((v) => typeof v === 'object' && v !== null).optional(),
});
export type SourceLayer = z.infer<typeof SourceLayer>;

/** What is to be compared: sources by their ids, of which the older one may lie in the bin. */
export const CompareRequest = z.object({
  old: z.string(),
  next: z.string(),
  key: z.string().nullable(),
  tolerance_m: z.number().positive().max(1000),
});
export type CompareRequest = z.infer<typeof CompareRequest>;

/** Records that are to be worked out of layers. */
export const DeriveRequest = DerivationRule.extend({
  /** The id of a source that was worked out before, and in whose place this one is put. */
  again: z.string().optional(),
});
export type DeriveRequest = z.infer<typeof DeriveRequest>;

/** What came of working out a source. */
export const MadeFacts = z.object({
  figures: z.record(z.string(), z.number()),
  /** How many places of each kind do not hold together. */
  faults: z.record(z.string(), z.number()),
  /** A mark of the files and placements that it was made of. */
  inputs: z.string(),
});
export type MadeFacts = z.infer<typeof MadeFacts>;

/** One place where records do not hold together, in the frame as the map has it. */
export const FaultView = z.object({
  /** Tells it from the others; the same when the records are worked out again. */
  key: z.string(),
  kind: z.string(),
  at: z.tuple([z.number(), z.number()]),
  /** The same in the plane that was worked in. */
  place: z.tuple([z.number(), z.number()]),
  size: z.number().nullable(),
  about: z.string(),
});
export type FaultView = z.infer<typeof FaultView>;

/** The faults of a source that was worked out; of very many, the first of each kind. */
export const FaultList = z.object({ faults: z.array(FaultView), total: z.number() });
export type FaultList = z.infer<typeof FaultList>;

const RunStructure = z.object({
  id: z.string(),
  station: z.number(),
  x: z.number(),
  y: z.number(),
  rim: z.number().nullable(),
  sump: z.number().nullable(),
});
const RunPipe = z.object({
  id: z.string(),
  length: z.number(),
  start: z.number().nullable(),
  end: z.number().nullable(),
  slope: z.number().nullable(),
  diameter: z.number().nullable(),
});

const Run = z.object({
  structures: z.array(RunStructure),
  pipes: z.array(RunPipe),
  /** x and y of all vertices of the run, by twos, in the frame as the map has it. */
  course: z.array(z.number()),
  reached: z.number(),
  parts: z.number(),
});

/** A run of pipes for a long profile, in the unit of the network; where there is none, why. */
export const LongProfileView = z.object({
  run: Run.nullable(),
  why: z.string(),
  /** The ground along it: stations and heights, null outside the surface; empty where none was asked for. */
  ground: z.array(z.tuple([z.number(), z.number().nullable()])),
});
export type LongProfileView = z.infer<typeof LongProfileView>;

/** Asks for the long profile of a run. */
export const LongProfileRequest = z.object({
  /** Ids of structures; the farthest end where the second is missing. */
  from: z.string(),
  to: z.string().optional(),
  way: z.enum(['downstream', 'upstream']),
  /** The id of the source that is the ground. */
  ground: z.string().optional(),
});
export type LongProfileRequest = z.infer<typeof LongProfileRequest>;

/** How its drawing is wanted. */
export const ProfileSheetRequest = LongProfileRequest.extend({
  times: z.coerce.number().min(1).max(1000),
  scale: z.coerce.number().min(1).max(1e6),
});
export type ProfileSheetRequest = z.infer<typeof ProfileSheetRequest>;
/** The run itself. */
export type PipeRun = z.infer<typeof Run>;

/** A map that is to be printed. */
export const PrintRequest = z.object({
  title: z.string().max(200),
  /** What lies in the middle of it, in the frame. */
  middle: z.tuple([z.number(), z.number()]),
  /** 1 to so much. */
  scale: z.number().min(1).max(1e9),
  paper: z.enum(['a4', 'a3']),
  upright: z.boolean(),
  /** Layers that are not printed, by source. */
  without: z.record(z.string(), z.array(z.string())),
});
export type PrintRequest = z.infer<typeof PrintRequest>;

/** A source that lies in the bin, since another took its place: what it may be compared with. */
export const Revision = z.object({
  id: z.string(),
  name: z.string(),
  binned: z.string(),
  by: z.string().nullable(),
  fields: z.array(z.string()),
});
export type Revision = z.infer<typeof Revision>;

export const SourceState = z.object({
  id: z.string(),
  /** The file's own name, made unique within the crossing; the recipe knows the source by it. */
  name: z.string(),
  format: z.string(),
  formatName: z.string(),
  bytes: z.number(),
  added: z.string(),
  /** Names of the sources in whose place it was put. */
  replaces: z.array(z.string()),
  version: z.string().nullable(),
  unit: z.object({ name: z.string(), metres: z.number() }).nullable(),
  /** `text` is what a recipe calls it. */
  crs: z.object({ id: z.string().nullable(), name: z.string(), text: z.string() }).nullable(),
  crsText: z.string().nullable(),
  /** How that text was understood, for people. */
  understood: z.string().nullable(),
  /** Why the system that it states can hardly be its own, for people; null where nothing speaks against it. */
  doubt: z.object({ code: z.string(), message: z.string() }).nullable(),
  /** How many objects lie far from the rest. */
  outliers: z.number(),
  /** What of its reading may be settled by hand, how it was settled, and what there is to choose from. */
  readings: z.array(z.enum(['columns', 'code-page'])),
  reading: Reading.nullable(),
  columns: z.array(z.string()),
  places: Reading.shape.places.nullable(),
  layers: z.array(SourceLayer),
  /** The sources whose differences it holds; null where it is no comparison. */
  compared: ComparisonRule.nullable(),
  /** What it was worked out of; null where it is a file that came in. `current` is false when files or placements have changed since. */
  derived: DerivationRule.extend(MadeFacts.omit({ inputs: true }).shape)
    .extend({ current: z.boolean() })
    .nullable(),
  /** Its pictures; null where it holds none. */
  images: z.custom<ImageProfile>((v) => typeof v === 'object').nullable(),
  findings: z.array(z.custom<Finding>((v) => typeof v === 'object' && v !== null)),
});
export type SourceState = z.infer<typeof SourceState>;

/** Sums of an account. */
export const AccountTotals = z.object({
  read: z.number(),
  crossed: z.number(),
  byYou: z.number(),
  notCarried: z.number(),
  missing: z.number(),
});
export type AccountTotals = z.infer<typeof AccountTotals>;

export const RunSummary = z.object({
  id: z.string(),
  deliverable: z.string(),
  name: z.string(),
  finished: z.string(),
  /** False when rules that it was made by have changed since. */
  current: z.boolean(),
  bytes: z.number(),
  files: z.array(z.object({ name: z.string(), bytes: z.number() })),
  status: z.enum(['match', 'differs', 'failed']),
  records: z.object({ in: z.number(), out: z.number() }),
  /** Sums of its account: all that was read, what crossed, what a person left out, and what could not be carried; null for runs of before. */
  account: AccountTotals.nullable(),
  maxDeviation_m: z.number(),
  differences: z.number(),
  /** The picture that it wrote; null where it wrote records. Of a map, records and account are those of the records drawn on it. */
  picture: z.object({ width: z.number(), height: z.number(), worst_px: z.number().nullable(), isMap: z.boolean() }).nullable(),
  seconds: z.number(),
  /** Kept however many come after it. */
  pinned: z.boolean(),
  /** Whether the rules that it was made by are known. */
  hasRules: z.boolean(),
});
export type RunSummary = z.infer<typeof RunSummary>;

/** A system by what recipes call it: a code, or the text of a definition; `label` is for people. */
export const CrsName = z.object({
  id: z.string(),
  label: z.string(),
  name: z.string(),
  kind: z.enum(['geographic', 'projected', 'local']),
  unit: z.string(),
  /** Metres in one unit; null where it counts in degrees. */
  unit_m: z.number().nullable(),
  area: z.string().nullable(),
  /** The system and the unit of its heights; null where it says nothing of them. */
  heights: z.string().nullable().optional(),
  /** Some crossing has to do with it already. */
  used: z.literal(true).optional(),
});
export type CrsName = z.infer<typeof CrsName>;

export const CrossingState = z.object({
  id: z.string(),
  name: z.string(),
  revision: z.number(),
  created: z.string(),
  opened: z.string(),
  recipe: Recipe,
  frame: CrsName.nullable(),
  /** Changes whenever the map's tiles do. */
  tileStamp: z.string(),
  /** minx, miny, maxx, maxy of everything placed, in the frame. */
  frameExtent: z.tuple([z.number(), z.number(), z.number(), z.number()]).nullable(),
  /** The same of each layer that is placed, by source and layer name. */
  layerExtents: z.record(z.string(), z.record(z.string(), z.tuple([z.number(), z.number(), z.number(), z.number()]))),
  /** The pictures that lie in the frame, those on top first. */
  pictures: z.array(PlacedPictures),
  sources: z.array(SourceState),
  /** Sources that were removed, or in whose place others were put. */
  revisions: z.array(Revision),
  runs: z.array(RunSummary),
  jobs: z.array(Job),
});
export type CrossingState = z.infer<typeof CrossingState>;

const Binned = z.object({ id: z.string(), name: z.string(), binned: z.string() });
/** What lies in the bin; `by` is the file that was put in the place of a source, null where it was removed. */
export const BinItem = z.discriminatedUnion('kind', [
  Binned.extend({ kind: z.literal('crossing'), sources: z.array(z.string()) }),
  Binned.extend({ kind: z.literal('source'), crossing: z.string(), by: z.string().nullable(), bytes: z.number() }),
]);
export type BinItem = z.infer<typeof BinItem>;

export const RunChange = z.object({ pinned: z.boolean() });

/** A run of whatever crossing, as Home lists it. */
export const RecentRun = z.object({
  id: z.string(),
  crossing: z.string(),
  crossingName: z.string(),
  deliverable: z.string(),
  name: z.string(),
  finished: z.string(),
  seconds: z.number(),
  status: z.enum(['match', 'differs', 'failed']),
  /** Records that it wrote; null where it wrote an image. */
  records: z.number().nullable(),
  /** Pixels of the image that it wrote. */
  size: z.object({ width: z.number(), height: z.number() }).nullable(),
});
export type RecentRun = z.infer<typeof RecentRun>;

export const CrossingRow = z.object({
  id: z.string(),
  name: z.string(),
  created: z.string(),
  opened: z.string(),
  frame: CrsName.nullable(),
  sources: z.array(z.string()),
  records: z.number(),
  deliverables: z.number(),
  placed: z.number(),
  taken: z.number(),
  layers: z.number(),
  runs: z.object({ match: z.number(), differs: z.number(), current: z.number() }),
  /** Sums of the accounts of records of the last runs; null where there is none. */
  account: AccountTotals.nullable(),
  plan: Thumbnail.nullable(),
  /** Why it cannot be opened; then nothing else but its name is known of it. */
  damaged: z.string().nullable(),
});
export type CrossingRow = z.infer<typeof CrossingRow>;

const made = (v: unknown): boolean => typeof v === 'object' && v !== null;

/** What will become of a deliverable: of records, or a picture; neither where a problem stands in the way of saying so. */
export const DeliverableForecast = z.object({
  deliverable: z.string(),
  forecast: z.custom<Forecast>(made).optional(),
  picture: z.custom<ImageForecast>(made).optional(),
  problem: z.string().optional(),
});
export type DeliverableForecast = z.infer<typeof DeliverableForecast>;

/** The forecast of a shapefile in the frame, shown in Shape while there is no deliverable. */
export const PREVIEW = 'preview';

export const RunProof = z.object({
  run: RunSummary,
  /** Where the registration of a picture was measured, in the frame as the map has it. */
  places: z.array(RegistrationView).optional(),
  proof: z.custom<DrawingProof | ImageRunProof>(made),
});
export type RunProof = z.infer<typeof RunProof>;

export const RecordView = z.object({
  id: z.number(),
  source: z.string(),
  layer: z.string(),
  entity: z.string(),
  kind: z.string(),
  place: z.number(),
  vertices: z.number(),
  attributes: z.record(z.string(), z.union([z.string(), z.number(), z.boolean(), z.null()])),
  /** First vertex, in the source's own unit. */
  at: z.tuple([z.number(), z.number(), z.number().nullable()]),
  /** The same in the frame; absent until its source is placed. */
  inFrame: z.tuple([z.number(), z.number()]).optional(),
});
export type RecordView = z.infer<typeof RecordView>;

export const RecordPage = z.object({ total: z.number(), records: z.array(RecordView) });
export type RecordPage = z.infer<typeof RecordPage>;

/** Ids of records that a filter takes; null when there are more than a page can show. */
export const RecordIds = z.object({ ids: z.array(z.number()).nullable() });
export type RecordIds = z.infer<typeof RecordIds>;

/** A value that records have in a field. */
export const FieldValue = z.object({ value: z.union([z.string(), z.number(), z.boolean(), z.null()]), count: z.number() });
export type FieldValue = z.infer<typeof FieldValue>;

/** What the records of a layer, or those that a filter takes, have in a field. */
export const FieldStatistics = z.object({
  records: z.number(),
  /** Records with a value. */
  filled: z.number(),
  /** Different values. */
  distinct: z.number(),
  /** Of the values that are numbers; null where none is. */
  numbers: z
    .object({
      count: z.number(),
      lowest: z.number(),
      highest: z.number(),
      mean: z.number(),
      sum: z.number(),
      /** Records in each of as many equal parts from the lowest to the highest; one where these are the same. */
      bins: z.array(z.number()),
    })
    .nullable(),
  /** The most frequent values. */
  top: z.array(FieldValue),
});
export type FieldStatistics = z.infer<typeof FieldStatistics>;

export const Candidate = z.object({
  placement: Placement,
  crs: CrsName,
  lon: z.number(),
  lat: z.number(),
  inside: z.number(),
  clear: z.boolean(),
  mistake: z.string().nullable(),
  why: z.string(),
});
export type Candidate = z.infer<typeof Candidate>;

const XY = z.tuple([z.number(), z.number()]);

const Unit = z.object({ name: z.string(), metres: z.number() });

/** That nobody has settled which of two units the numbers of a source are in: the one that it states, or that of its system. */
export const UnitQuestion = z.object({ message: z.string(), stated: Unit, own: Unit });
export type UnitQuestion = z.infer<typeof UnitQuestion>;

export const PathView = z.object({
  problem: z.string().nullable(),
  /** No change of datum is known, and taking numbers over has to be accepted, or was. */
  ballpark: z.boolean(),
  accuracy_m: z.number().nullable(),
  /** `at` is where the example is after the step; null when it is nowhere, or when only the plane of the file changes. */
  steps: z.array(
    z.object({
      id: z.string().nullable(),
      name: z.string(),
      method: z.string(),
      accuracy_m: z.number().nullable(),
      grids: z.array(z.string()),
      at: XY.nullable(),
    }),
  ),
  from: XY.nullable(),
  to: XY.nullable(),
  unit: UnitQuestion.nullable(),
  /** Operations to choose from, the best first; `share` is how much of the source lies in the area of one, 0 to 1. */
  operations: z.array(
    z.object({
      key: z.string(),
      name: z.string(),
      codes: z.string(),
      accuracy_m: z.number().nullable(),
      area: z.string().nullable(),
      share: z.number().nullable(),
      missing: z.array(z.string()),
      on: z.boolean(),
    }),
  ),
  /** What one should know of the operation that is used. */
  notes: z.array(z.object({ severity: z.enum(['info', 'caution', 'wrong']), message: z.string() })),
});
export type PathView = z.infer<typeof PathView>;

/** How a source would lie in the frame: its tiles are under the stamp. */
export const Preview = z.object({
  stamp: z.string(),
  extent: z.tuple([z.number(), z.number(), z.number(), z.number()]).nullable(),
  problem: z.string().nullable(),
  unit: UnitQuestion.nullable(),
  /** Why its numbers can hardly be those of the system. */
  doubt: z.string().nullable(),
});
export type Preview = z.infer<typeof Preview>;

/** Objects that lie far from the rest of their source: in the source's own numbers, and where that is on the map. */
export const Outliers = z.object({
  count: z.number(),
  records: z.array(z.object({ id: z.number(), layer: z.string(), entity: z.string(), at: XY, place: XY.nullable() })),
});
export type Outliers = z.infer<typeof Outliers>;

export const GridList = z.object({
  folder: z.string(),
  files: z.array(
    z.object({
      name: z.string(),
      place: z.string(),
      kind: z.string(),
      bounds: z.tuple([z.number(), z.number(), z.number(), z.number()]).nullable(),
      problem: z.string().nullable(),
    }),
  ),
});
export type GridList = z.infer<typeof GridList>;

/** A place in the frame, in degrees, and in another system. */
export const PlaceView = z.object({ frame: XY.nullable(), degrees: XY.nullable(), other: XY.nullable() });
export type PlaceView = z.infer<typeof PlaceView>;

export const RecipeChange = z.object({ recipe: Recipe, revision: z.number().int() });
export const NameChange = z.object({ name: z.string().trim().min(1).max(120) });
export const DefinitionChange = z.object({ name: z.string().trim().min(1).max(80), text: z.string().max(20_000) });
export const RunRequest = z.object({ deliverable: z.string() });
/** What became of a file that was handed in: taken in, refused with the reason, or passed over because it is of no kind that is read. */
export const IntakeEntry = z.object({ name: z.string(), outcome: z.enum(['taken', 'refused', 'passed']), message: z.string().nullable() });
export type IntakeEntry = z.infer<typeof IntakeEntry>;

export const Added = z.object({ jobs: z.array(Job), log: z.array(IntakeEntry) });
export type Added = z.infer<typeof Added>;

export const Created = Added.extend({ id: z.string() });
export type Created = z.infer<typeof Created>;
