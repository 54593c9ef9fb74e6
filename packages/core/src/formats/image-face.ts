import type { Crs } from '../crs/crs';
import type { ByteSource, FolderSink, FolderSource } from '../io/bytes';
import type { Findings } from '../model/finding';
import type { ImageInfo, PixelWindow, Raster, SampleType } from '../model/raster';
import type { ControlPair } from '../placement/fit';
import type { PixelGrid } from '../raster/pixel-grid';
import type { ImageReader } from '../raster/warp';
import type { FormatOption, OptionValues } from './format-option';

/** What a picture says of where it lies. */
export interface Georeference {
  /** Null where the file does not say. */
  grid: PixelGrid | null;
  /** Points of the picture (column, and row with its sign reversed) in the system, where it is tied by such. */
  pairs: readonly ControlPair[] | null;
  crs: Crs | null;
  /** The text that states the system; null where there is none. */
  crsText: string | null;
}

/** A picture opened: its pixels can be had by windows until it is closed. */
export interface OpenImage extends ImageReader {
  info: ImageInfo;
  where: Georeference;
  /** How it is packed, in the format's own words. */
  version: string;
  /** When it was made, as its file says it: ISO 8601 without a zone. Absent where it does not, or cannot. */
  date?: string;
  /** Whether its pixels were unpacked as a whole into a temporary file, which takes time with each opening. */
  unpacked: boolean;
  /** The files that it is made of, each with its window and, where it is cut to an area, which pixels of a window are its own. */
  parts?: readonly { window: PixelWindow; within: ((window: PixelWindow) => Uint8Array) | null; image: ImageReader }[];
  close(): Promise<void>;
}

/** A picture as it is to be written. */
export interface TargetImage {
  info: ImageInfo;
  grid: PixelGrid;
  crs: Crs;
  stem: string;
  options: OptionValues;
}

/** Takes the pixels of a picture: bands of rows from the top, all of them. */
export interface ImageWriter {
  /** Rows that are wanted at once; the last time there may be fewer. */
  rows: number;
  append(rows: Raster): Promise<void>;
  close(): Promise<void>;
}

/** What a format can hold of a picture. The forecast compares a picture with this. */
export interface ImageCarries {
  sampleTypes: readonly SampleType[];
  /** Bands beside alpha; any number where absent. */
  bands?: readonly number[];
  alpha: boolean;
  nodata: boolean;
  palette: boolean;
  /** True where a pixel is red, green, blue and how opaque it is, whatever it was. */
  opaque?: true;
  /** Values of a sample by which a piece may differ on the mean through its packing; null where values arrive as they are. */
  packed: number | null;
  /** Pixels along a side. */
  longest: number;
}

/** What a format is to pictures. */
export interface ImageFace {
  carries(options: OptionValues): ImageCarries;
  /** Whether a file of its kind is a picture, where it may be something else as well; it is one when absent. */
  holds?(source: ByteSource): Promise<boolean>;
  /** Where it lies, found without unpacking it; absent where that stands among what is packed. */
  locate?(source: ByteSource, findings: Findings): Promise<Georeference>;
  open(source: ByteSource, findings: Findings): Promise<OpenImage>;
  /** Absent where the format is only read. */
  write?: {
    options: readonly FormatOption[];
    /** The grid that the format can hold nearest to a wanted one; any north-up or turned one where absent. */
    gridFor?(wanted: PixelGrid): PixelGrid;
    /** The code of the one system that it may be written in; any will do when absent. */
    prescribedCrs?: string;
    /** Names of the files, the picture's first. */
    files(stem: string, options: OptionValues): string[];
    create(folder: FolderSink, image: TargetImage): Promise<ImageWriter>;
    /** Opens what was written with the reader that everything else is read with. */
    readBack(folder: FolderSource, image: Pick<TargetImage, 'stem' | 'options'>, findings: Findings): Promise<OpenImage>;
  };
}

/** What baseline JPEG of a quality, 1 to 100, holds, wherever it is used. */
export const jpegCarries = (quality: number): ImageCarries => ({
  sampleTypes: ['uint8'],
  bands: [1, 3],
  alpha: false,
  nodata: false,
  palette: false,
  // the coarsest steps of the usual tables leave about thirty values; common practice, no source
  packed: 4 + (100 - quality) / 4,
  longest: 65_500,
});
