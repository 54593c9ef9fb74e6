import { z } from 'zod';
import { Recipe } from '@pontrel/core/crossing/recipe';
import type { Forecast } from '@pontrel/core/crossing/forecast';
import type { Proof } from '@pontrel/core/crossing/proof';
import type { Finding } from '@pontrel/core/model/finding';
import type { LayerProfile } from '@pontrel/core/model/profile';
import { Job } from './job';

/** A small plan of a layer: outlines in a box of its own, one path a colour. */
export const SmallPlan = z.object({
  width: z.number(), height: z.number(),
  strokes: z.array(z.object({ color: z.string(), kind: z.enum(['point', 'line', 'polygon', 'text']), path: z.string() })),
});
export type SmallPlan = z.infer<typeof SmallPlan>;

export const SourceLayer = z.object({
  profile: z.custom<LayerProfile>((v) => typeof v === 'object' && v !== null),
  plan: SmallPlan,
});
export type SourceLayer = z.infer<typeof SourceLayer>;

export const SourceState = z.object({
  id: z.string(),
  /** The file's own name, made unique within the crossing; the recipe knows the source by it. */
  name: z.string(),
  format: z.string(),
  formatName: z.string(),
  bytes: z.number(),
  added: z.string(),
  version: z.string().nullable(),
  unit: z.object({ name: z.string(), metres: z.number() }).nullable(),
  crs: z.object({ id: z.string().nullable(), name: z.string() }).nullable(),
  crsText: z.string().nullable(),
  layers: z.array(SourceLayer),
  findings: z.array(z.custom<Finding>((v) => typeof v === 'object' && v !== null)),
});
export type SourceState = z.infer<typeof SourceState>;

export const RunSummary = z.object({
  id: z.string(),
  deliverable: z.string(),
  name: z.string(),
  finished: z.string(),
  /** The crossing's revision that was run: an older one than the present means that rules have changed since. */
  revision: z.number(),
  bytes: z.number(),
  files: z.array(z.object({ name: z.string(), bytes: z.number() })),
  status: z.enum(['match', 'differs', 'failed']),
  records: z.object({ in: z.number(), out: z.number() }),
  maxDeviation_m: z.number(),
  differences: z.number(),
  seconds: z.number(),
});
export type RunSummary = z.infer<typeof RunSummary>;

export const CrsName = z.object({ id: z.string(), name: z.string(), kind: z.enum(['geographic', 'projected']), unit: z.string(), area: z.string().nullable() });
export type CrsName = z.infer<typeof CrsName>;

export const CrossingState = z.object({
  id: z.string(), name: z.string(), revision: z.number(), created: z.string(), opened: z.string(),
  recipe: Recipe,
  frame: CrsName.nullable(),
  /** Changes whenever the map's tiles do. */
  tileStamp: z.string(),
  /** minx, miny, maxx, maxy of everything placed, in the frame. */
  frameExtent: z.tuple([z.number(), z.number(), z.number(), z.number()]).nullable(),
  /** The same of each layer that is placed, by source and layer name. */
  layerExtents: z.record(z.string(), z.record(z.string(), z.tuple([z.number(), z.number(), z.number(), z.number()]))),
  sources: z.array(SourceState),
  runs: z.array(RunSummary),
  jobs: z.array(Job),
});
export type CrossingState = z.infer<typeof CrossingState>;

export const CrossingRow = z.object({
  id: z.string(), name: z.string(), created: z.string(), opened: z.string(),
  frame: CrsName.nullable(),
  sources: z.array(z.string()),
  records: z.number(),
  deliverables: z.number(),
  placed: z.number(),
  taken: z.number(),
  layers: z.number(),
  runs: z.object({ match: z.number(), differs: z.number(), current: z.number() }),
  plan: SmallPlan.nullable(),
});
export type CrossingRow = z.infer<typeof CrossingRow>;

export const DeliverableForecast = z.object({
  deliverable: z.string(),
  forecast: z.custom<Forecast>((v) => typeof v === 'object' && v !== null),
});
export type DeliverableForecast = z.infer<typeof DeliverableForecast>;

/** The forecast of a shapefile in the frame, shown in Shape while there is no deliverable. */
export const PREVIEW = 'preview';

export const RunProof = z.object({ run: RunSummary, proof: z.custom<Proof>((v) => typeof v === 'object' && v !== null) });
export type RunProof = z.infer<typeof RunProof>;

export const RecordView = z.object({
  id: z.number(), source: z.string(), layer: z.string(), entity: z.string(), kind: z.string(), place: z.number(), vertices: z.number(),
  attributes: z.record(z.string(), z.union([z.string(), z.number(), z.boolean(), z.null()])),
  /** First vertex, in the source's own unit. */
  at: z.tuple([z.number(), z.number(), z.number().nullable()]),
});
export type RecordView = z.infer<typeof RecordView>;

export const RecordPage = z.object({ total: z.number(), records: z.array(RecordView) });
export type RecordPage = z.infer<typeof RecordPage>;

export const Candidate = z.object({ crs: CrsName, unit_m: z.number(), unitName: z.string(), lon: z.number(), lat: z.number(), inside: z.number(), clear: z.boolean(), why: z.string() });
export type Candidate = z.infer<typeof Candidate>;

export const PathView = z.object({
  problem: z.string().nullable(),
  accuracy_m: z.number().nullable(),
  steps: z.array(z.object({ id: z.string().nullable(), name: z.string(), accuracy_m: z.number().nullable() })),
  from: z.tuple([z.number(), z.number()]).nullable(),
  to: z.tuple([z.number(), z.number()]).nullable(),
});
export type PathView = z.infer<typeof PathView>;

export const RecipeChange = z.object({ recipe: Recipe, revision: z.number().int() });
export const NameChange = z.object({ name: z.string().trim().min(1).max(120) });
export const RunRequest = z.object({ deliverable: z.string() });
export const Created = z.object({ id: z.string(), jobs: z.array(Job) });
export type Created = z.infer<typeof Created>;
