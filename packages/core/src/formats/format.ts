import type { GridMap } from '../raster/pixel-grid';
import type { Crs } from '../crs/crs';
import type { ByteSource, FolderSink, FolderSource, Watch } from '../io/bytes';
import type { FeatureBatch, Kind } from '../model/batch';
import type { FieldDeclaration, FieldType } from '../model/field';
import type { SymbolLibrary } from '../symbology/library';
import type { PlacementParameters } from '../placement/placement-transform';
import type { Finding, Findings } from '../model/finding';
import type { FormatOption, OptionValues } from './format-option';
import type { ImageFace } from './image-face';
import type { CarriedSymbology } from '../symbology/carried';
import type { LayerStyle } from '../symbology/layer-style';
import type { SymbologyCount } from '../symbology/style-rules';
import type { Reading } from '../model/reading';

/** A field as it will stand in the written file. */
export interface TargetField {
  /** Name in the source. */
  from: string;
  to: string;
  type: FieldType;
  /** Characters or bytes, as the format counts; 0 where it has no widths. */
  width: number;
  decimals: number;
  /** How the source declares it, where it goes into a field of the same type. */
  declared?: FieldDeclaration;
  /** True where some texts are longer than that. */
  cut?: boolean;
}

/** One set of records that a format keeps together: a shapefile, a table, a folder. */
export interface TargetSet {
  /** File name without extension, or the layer's name where one file holds all sets. */
  name: string;
  /** `mixed` where a set holds records of several kinds. */
  kind: Kind | 'mixed';
  heights: boolean;
  /** Whether its vertices have measures (M). */
  measures: boolean;
  fields: TargetField[];
  /** Records, vertices and parts expected. */
  count: number;
  vertices: number;
  parts: number;
  /** Whether some of its records may have several parts. */
  several: boolean;
  /** Most vertices of one record. */
  most: number;
  /** What its records are drawn with. */
  symbology: readonly SymbologyCount[];
  /** What is said of it as a whole; the label is by the name of its field here. */
  style: LayerStyle;
  /** The colour of most of its records, "#rrggbb"; null where they state none. */
  color: string | null;
}

/** What a writer works with besides the sets. */
export interface WriteContext {
  crs: Crs;
  /** Name without extension of a file that holds several sets. */
  stem: string;
  options: OptionValues;
  /** A file of the format that the sets are added to; it stays as it is, and what is written has both. */
  base?: ByteSource | undefined;
  /** What the records are drawn with, one a source, with the sizes of its symbols already in the unit of the target. */
  libraries: readonly { source: string; library: SymbolLibrary }[];
  /** Pictures that lie below the records, where the format shows such; their files are beside it. */
  shown?: readonly ShownPicture[] | undefined;
}

/** What a format takes as a name. */
export interface NameRules {
  maxBytes: number;
  caseMatters: boolean;
  /** Matches one character that may stand in a name. */
  valid: RegExp;
  replacement: string;
  /** All letters are made small, or large. */
  letters?: 'small' | 'large';
  /** Matches what a name may begin with; another name gets "_" before it. */
  first?: RegExp;
  /** Names, in small letters, that the format keeps for itself. */
  reserved?: (name: string) => boolean;
}

/** What a format can hold. The forecast compares a layer with this. */
export interface Carries {
  /** What each kind of record becomes; null where it cannot be held. */
  kinds: Record<Kind, Kind | null>;
  /** A set holds one kind only, so that a mixed layer is split. */
  oneKindPerSet: boolean;
  /** All sets go into one file. */
  oneFile: boolean;
  /** Names of sets; file names where each set is a file of its own. */
  setNames: NameRules;
  /** True where the name of a set that is a file of its own stands in the file as well. */
  namesInside?: true;
  curves: boolean;
  heights: boolean;
  /** Measures (M) of vertices; where there is no room for them beside the positions, they go into a field. */
  measures: boolean;
  /** Whether the file can state the system of its heights. */
  verticalSystem: boolean;
  /** Colours, line types and weights of the map picture. */
  symbology: boolean;
  fieldNames: NameRules;
  fieldCount: number;
  /** True where records may have no data at all; elsewhere they get their number. */
  mayBeBare?: true;
  /** How many sets go into one deliverable without its files becoming too slow to write and open; any number where absent. */
  setCount?: number;
  text: {
    maxBytes: number;
    /** True where characters that XML does not have are left out. */
    xml?: true;
  };
  /** Room for a number: characters in all, decimal point and sign included. */
  number: { maxWidth: number; maxDecimals: number };
  types: readonly FieldType[];
  /** False where a whole number is held to double precision only. */
  exactIntegers?: false;
  /** True where each value states its own type, so that numbers may stand among texts. */
  typesByValue?: true;
  /** True where each record states the fields that it has, so that a field without any value is nothing. */
  fieldsByRecord?: true;
  /** Where dates with times are held in UTC only, and others as text. */
  moments?: 'utc';
  /** Largest part of a set, bytes. */
  maxBytes: number;
  /** Most bytes of data on one record, names and all; absent where there is no such limit. */
  recordBytes?: number;
}

/** A drawing that another drawing shows: the name of its file, and how its numbers get into those of the other one. */
export interface External {
  file: string;
  at: readonly [number, number];
  /** Degrees, counter-clockwise. */
  angle: number;
  scale: readonly [number, number];
}

/** A line to which a picture is cut, in its own pixels from its upper left corner. */
export interface ClippingLine {
  /** x to the right and y downwards, by twos. */
  ring: number[];
  keeps: 'inside' | 'outside';
}

/** A picture that a drawing shows: the name of its file, its size in pixels, and where these lie in the drawing's numbers. */
export interface ShownPicture {
  file: string;
  width: number;
  height: number;
  /** As a grid of pixels has it, from its upper left corner. */
  map: GridMap;
  /** The line to which it is cut; absent where all of it is shown. */
  clip?: ClippingLine;
}

/** What a file says of itself. */
export interface SourceFacts {
  crs: Crs | null;
  /** The text that states the CRS, as it stands in the file. */
  crsText: string | null;
  /** Marks by which the file ties a grid of its own to the CRS. */
  fit?: PlacementParameters['fit'];
  /** Unit of the coordinates where the file states one and it is not the CRS's own. */
  unit: { name: string; metres: number } | null;
  /** Other files that it shows, where it shows them. */
  externals?: readonly External[];
  /** Pictures that it shows, where it shows them. */
  pictures?: readonly ShownPicture[];
  /** What a table calls its columns, and which of them say where its records are. */
  table?: { columns: string[]; places: Reading['places'] };
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

/** Takes the records of a deliverable. */
export interface DeliverableWriter {
  /** Appends the records of `batch` whose indexes are the first `n` of `rows` to a set, by its number; they come from `source`. */
  append(set: number, batch: FeatureBatch, rows: Uint32Array, n: number, source: string): Promise<void>;
  /** What could be told only while writing goes into `findings`. */
  close(findings: Findings): Promise<void>;
}

/** A written file opened again, and the sets that it holds, by number, in the order in which their records come. */
export interface ReadBack {
  open: OpenSource;
  sets: number[];
  /** Lets go of the file, and of those that are open with it. */
  close?(): void;
}

/** What a format is to one content: what it can hold of it, how it is read, and where it is, how it is written. */
export interface FeatureFace {
  /** What the location of a record counts: lines of the file, records of a table, features. */
  counts: 'line' | 'record' | 'feature';
  carries: Carries;
  /** The field by which its records are known for as long as they live, where its standard has one. */
  key?: string;
  /** What of the reading may be settled by hand; absent where there is no need. */
  readings?: readonly ('columns' | 'code-page')[];
  open(source: ByteSource, reading?: Reading): Promise<OpenSource>;
  /** Absent where the format is only read. */
  write?: {
    /** Whether sets may be added to a file that there is. */
    adds?: boolean;
    options: readonly FormatOption[];
    /** The code of the one system that it may be written in; null, or absent, where any will do. */
    prescribedCrs?(options: OptionValues): string | null;
    /** What the extension of a wanted file says of the options. */
    optionsOf?(extension: string): OptionValues;
    /** What of looks it holds in its own way; nothing when absent. */
    symbology?(options: OptionValues): CarriedSymbology;
    /** Whether what goes over the antimeridian is cut there. */
    cutsAtAntimeridian?(options: OptionValues): boolean;
    /** Metres by which heights are raised. */
    lift_m?(options: OptionValues): number;
    /** Metres within which positions are kept, where the format rounds them. */
    rounding_m?(options: OptionValues): number;
    /** Files with their estimated bytes; `sets` are those that a file is the main file of. */
    files(sets: readonly TargetSet[], context: Pick<WriteContext, 'stem' | 'options'>): { name: string; bytes: number; sets: number[] }[];
    create(folder: FolderSink, sets: readonly TargetSet[], context: WriteContext): Promise<DeliverableWriter>;
    /** Opens what was written with the reader that everything else is read with. */
    readBack(folder: FolderSource, sets: readonly TargetSet[], context: Pick<WriteContext, 'stem' | 'options'>): Promise<ReadBack[]>;
    /** Whether a file shows pictures below its records; none does when absent. */
    showsPictures?(options: OptionValues): boolean;
    /** What of the sets has no room in the format, beyond what it says that it carries; "wrong" is what cannot be written at all. */
    limits?(sets: readonly TargetSet[], options: OptionValues): Finding[];
    /** What is known beforehand about writing into this CRS. */
    crsFindings(crs: Crs, options: OptionValues): Finding[];
  };
}

/** A format is data first: everything else asks it what it can hold. It has a face for each content that it knows. */
export interface Format {
  id: string;
  name: string;
  /** What it is called where there is little room; its name when absent. */
  brief?: string;
  /** With the dot, lower case; the first one names it. */
  extensions: readonly string[];
  /** Extensions of files that belong to it but are not opened themselves. */
  companions: readonly string[];
  /** True when a file with this beginning and name is of the format. */
  sniff(head: Uint8Array, name: string): boolean;
  /** @throws Problem for a file that its first bytes show not to be readable, before any of it is taken in */
  refuse?(source: ByteSource): Promise<void>;
  /** Records with positions and values. */
  features?: FeatureFace;
  /** Pictures. */
  images?: ImageFace;
}

/** A format that holds records. */
export type FeatureFormat = Format & { features: FeatureFace };

/** A format that holds pictures. */
export type ImageFormat = Format & { images: ImageFace };
