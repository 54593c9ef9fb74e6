import type { Raster } from '../model/raster';
import type { ByteSource, FolderSink, Scratch } from './bytes';

/** How a picture is packed into its file. */
export type PictureKind = 'jpeg' | 'png';

/** A picture that was unpacked into a file of its own, until it is removed. */
export interface UnpackedImage {
  source: ByteSource;
  damage: string | null;
  remove(): Promise<void>;
}

/** What a host can do with pictures that the core cannot: its engine is native code. */
export interface ImageEngine {
  /** Packs bytes as zlib does (RFC 1950). */
  deflate(bytes: Uint8Array): Promise<Uint8Array>;
  /** @throws when they are no such bytes, or more than `most` come of them */
  inflate(bytes: Uint8Array, most: number): Promise<Uint8Array>;
  /** Samples of a small picture, three or one a pixel, as a baseline JPEG. @param quality 1 to 100 */
  jpeg(pixels: Uint8Array, width: number, height: number, bands: 1 | 3, quality: number): Promise<Uint8Array>;
  /** Red, green, blue and alpha of a small picture as a PNG. */
  png(pixels: Uint8Array, width: number, height: number): Promise<Uint8Array>;
  /** Red, green, blue and alpha of a packed picture of just that size; null for what is no such picture. */
  unpackedSmall(bytes: Uint8Array, width: number, height: number): Promise<Uint8Array | null>;
  /**
   * A picture as a JPEG 2000 codestream.
   * @param ratio how many times smaller it is to be; null where no value may change
   */
  jpeg2000(raster: Raster, ratio: number | null): Promise<Uint8Array>;
  /**
   * A picture of any kind that the engine reads, as an uncompressed tiled TIFF in a temporary file.
   * @returns `damage` is what is wrong with a picture that can be unpacked all the same; null where nothing is
   * @throws Problem `image-damaged`, `image-too-large`
   */
  unpacked(source: ByteSource): Promise<UnpackedImage>;
  /** Writes a picture from a TIFF that was written before. */
  pack(from: Scratch, folder: Pick<FolderSink, 'create'>, name: string, kind: PictureKind, quality: number): Promise<void>;
}

let engine: ImageEngine | null = null;

/** To be called once by a host that has one. */
export function registerImageEngine(own: ImageEngine): void {
  engine = own;
}

/** @throws Error where the host has none */
export function imageEngine(): ImageEngine {
  if (!engine) throw new Error('No image engine was registered.');
  return engine;
}
