import type { Crs } from '../crs/crs';
import type { ByteSource, FolderSink, FolderSource, Watch } from '../io/bytes';
import type { FeatureBatch, Kind } from '../model/batch';
import type { FieldType } from '../model/field';
import type { SymbolLibrary } from '../model/symbols';
import type { Numbers } from '../placement/plane';
import type { Finding, Findings } from '../model/finding';

/** A field as it will stand in the written file. */
export interface TargetField {
  /** Name in the source. */
  from: string;
  to: string;
  type: FieldType;
  /** Characters or bytes, as the format counts; 0 where it has no widths. */
  width: number;
  decimals: number;
}

/** One set of records that a format keeps together: a shapefile, a table, a folder. */
export interface TargetSet {
  /** File name without extension. */
  name: string;
  kind: Kind;
  heights: boolean;
  fields: TargetField[];
  /** Records expected. */
  count: number;
}

/** What a format can hold. The forecast compares a layer with this. */
export interface Carries {
  /** What each kind of record becomes; null where it cannot be held. */
  kinds: Record<Kind, Kind | null>;
  /** A set holds one kind only, so that a mixed layer is split. */
  oneKindPerSet: boolean;
  curves: boolean;
  heights: boolean;
  /** Colours, line types and weights of the map picture. */
  symbology: boolean;
  fieldNames: { maxBytes: number; caseMatters: boolean; valid: RegExp; replacement: string };
  fieldCount: number;
  text: { maxBytes: number };
  /** Room for a number: characters in all, decimal point and sign included. */
  number: { maxWidth: number; maxDecimals: number };
  types: readonly FieldType[];
  /** Largest part of a set, bytes. */
  maxBytes: number;
}

export interface SourceFacts {
  crs: Crs | null;
  /** The text that states the CRS, as it stands in the file. */
  crsText: string | null;
  /** Marks by which the file ties a grid of its own to the CRS. */
  fit?: Numbers['fit'];
  /** Unit of the coordinates where the file states one and it is not the CRS's own. */
  unit: { name: string; metres: number } | null;
  /** The version in the format's own words. */
  version: string | null;
}

/** A source opened for reading, as often as needed. */
export interface OpenSource {
  read(findings: Findings, watch: Watch): AsyncGenerator<FeatureBatch>;
  /** What the source says of itself; complete once it was read to its end. */
  facts(): SourceFacts;
  /** What its records are drawn with; known once it was read, absent where the format has no such thing. */
  library?(): SymbolLibrary | null;
}

/** Takes the records of one set. */
export interface SetWriter {
  /** Appends the records of `batch` whose indexes are the first `n` of `rows`. */
  append(batch: FeatureBatch, rows: Uint32Array, n: number): Promise<void>;
  close(): Promise<void>;
}

/** A format is data first: everything else asks it what it can hold. */
export interface Format {
  id: string;
  name: string;
  /** With the dot, lower case; the first one names it. */
  extensions: readonly string[];
  /** Extensions of files that belong to it but are not opened themselves. */
  companions: readonly string[];
  carries: Carries;
  /** True when a file with this beginning and name is of the format. */
  sniff(head: Uint8Array, name: string): boolean;
  /** @throws Problem for a file that its first bytes show not to be readable, before any of it is taken in */
  refuse?(source: ByteSource): Promise<void>;
  open(source: ByteSource): Promise<OpenSource>;
  /** Absent where the format is only read. */
  write?: {
    /** Files of a set with their estimated bytes. */
    files(set: TargetSet, vertices: number, parts: number): { name: string; bytes: number }[];
    create(folder: FolderSink, set: TargetSet, crs: Crs): Promise<SetWriter>;
    /** Opens a written set with the reader that everything else is read with. */
    readBack(folder: FolderSource, set: TargetSet): Promise<OpenSource>;
    /** What is known beforehand about writing into this CRS. */
    crsFindings(crs: Crs): Finding[];
  };
}
