import type { DrawingProof } from '@pontrel/core/crossing/drawing-images';
import type { MadeFacts, SourceLayer } from '@pontrel/contract/crossing';
import type { ImageRunProof } from '@pontrel/core/content/raster/proof';
import type { Recipe } from '@pontrel/core/crossing/recipe';
import type { External, ShownPicture, SourceFacts } from '@pontrel/core/formats/format';
import type { ImageProfile } from '@pontrel/core/content/raster/profile';
import type { Bounds } from '@pontrel/core/geometry/bounds';
import type { Finding } from '@pontrel/core/model/finding';
import type { Reading } from '@pontrel/core/model/reading';
import type { Placement } from '@pontrel/core/placement/placement';
import type { LayerStyle } from '@pontrel/core/symbology/layer-style';
import type { LinePattern } from '@pontrel/core/symbology/library';

export interface CrossingRecord {
  id: string;
  name: string;
  recipe: Recipe;
  revision: number;
  created: string;
  opened: string;
  /** When it was put into the bin; null where it was not. */
  binned: string | null;
}

/** A crossing of which no more can be read than its name. */
export interface DamagedCrossing {
  id: string;
  name: string;
  created: string;
  opened: string;
  binned: string | null;
  /** What is wrong, and what can be done. */
  why: string;
}

/** What a source says of itself, as far as it is kept. */
export interface StoredFacts {
  /** `text` is what a recipe calls it. */
  crs: { id: string | null; name: string; text: string } | null;
  crsText: string | null;
  /** How that text was understood. */
  understood?: string | null;
  /** Marks by which the file ties its own grid to the CRS. */
  fit?: Placement['fit'];
  unit: { name: string; metres: number } | null;
  /** What a table calls its columns, and which of them say where its records are. */
  table?: SourceFacts['table'];
  /** How its reading was settled by hand. */
  reading?: Reading;
  /** Patterns of its lines, by name in small letters, in its own unit. */
  patterns?: Record<string, LinePattern>;
  /** What its styles say of its layers as a whole, by layer in small letters. */
  styles?: Record<string, LayerStyle>;
  /** Other files that it shows. */
  externals?: readonly External[];
  /** Pictures that it shows, where it shows them. */
  pictures?: readonly ShownPicture[];
  /** Names of the sources in whose place it was put, and when it last was. */
  replaces?: { names: string[]; at: string };
  /** What came of working it out, where it is no file that somebody brought; how that was done is in the recipe. */
  made?: MadeFacts;
  version: string | null;
  /** Its pictures, where it holds such. */
  images?: ImageProfile;
  outliers: { count: number; records: { id: number; layer: string; entity: string; at: [number, number] }[] };
  /** Bounds without the outliers, in the source's numbers; null when there are none. */
  core: Bounds | null;
}

export interface SourceRecord {
  id: string;
  crossing: string;
  name: string;
  format: string;
  bytes: number;
  added: string;
  facts: StoredFacts;
  layers: SourceLayer[];
  findings: Finding[];
}

/** A source in the bin. */
export interface BinnedSource {
  source: SourceRecord;
  /** Layout of its store. */
  layout: number;
  binned: string;
  /** Name of the source that was put in its place; null where it was removed. */
  by: string | null;
  /** The rules that it had. */
  rules: Recipe['sources'][string] | null;
}

export interface RunRecord {
  id: string;
  crossing: string;
  deliverable: string;
  name: string;
  finished: string;
  revision: number;
  /** A mark of what it was made by; empty for runs of before there was one. */
  rules: string;
  files: { name: string; bytes: number }[];
  target: string;
  proof: DrawingProof | ImageRunProof;
  seconds: number;
  /** Kept until somebody says otherwise, however many come after it. */
  pinned: boolean;
  /** The rules of the crossing at its time; null for runs of before they were kept. */
  recipe: Recipe | null;
}
