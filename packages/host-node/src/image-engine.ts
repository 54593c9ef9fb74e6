import { mkdtemp, rm } from 'node:fs/promises';
import { createWriteStream } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { promisify } from 'node:util';
import zlib from 'node:zlib';
import sharp from 'sharp';
import type { ByteSource } from '@pontrel/core/io/bytes';
import { registerImageEngine, type UnpackedImage } from '@pontrel/core/io/image-engine';
import { messageOf, Problem } from '@pontrel/core/model/problem';
import { fileSource } from './files';
import { isJpeg2000 } from '@pontrel/core/formats/jpeg2000/boxes';
import { encodeJpeg2000, unpackJpeg2000 } from './jpeg2000';

const deflate = promisify(zlib.deflate);
const inflate = promisify<zlib.InputType, zlib.ZlibOptions, Buffer>(zlib.inflate);

/** Pixels of a packed picture that is unpacked beside its file, and bytes that they may take there. */
const MOST_PIXELS = 2 ** 31,
  MOST_BYTES = 8 * 2 ** 30;

/** The engine's names for grey and for colours, by the bits of a sample. */
const SPACES = { uchar: ['b-w', 'srgb'], ushort: ['grey16', 'rgb16'] } as const;

const spaceOf = ({ depth, channels = 3 }: { depth?: string | undefined; channels?: number | undefined }): string =>
  SPACES[depth === 'ushort' ? 'ushort' : 'uchar'][channels <= 2 ? 0 : 1];

/** Tiles of what is unpacked. */
const TILE = 256;

const folders = new Set<string>();

/** Folders of pictures that are unpacked at present, for whoever clears away when a process is stopped. */
export const unpackedFolders = (): readonly string[] => [...folders];

/** A picture that is unpacked: the file of its pixels, and what was wrong with it. */
export interface UnpackedFile {
  file: string;
  damage: string | null;
}

/** Pictures that are unpacked at present, by their identity; counted for those that have none. */
const unpackedNow = new Map<string, UnpackedFile>();
let unpackedUnknown = 0;

/** Pictures that are unpacked at present, by their identity, so that threads need not do it again; null where that cannot be said of all. */
export const unpackedFiles = (): ReadonlyMap<string, UnpackedFile> | null => (unpackedUnknown > 0 ? null : new Map(unpackedNow));

/**
 * Native code for what is packed as pictures: libvips by sharp, and zlib.
 * @param elsewhere pictures that another thread has unpacked, and will remove
 */
export function registerNodeImageEngine(elsewhere: ReadonlyMap<string, UnpackedFile> = new Map()): void {
  // blocks are asked for once and kept by those who ask
  sharp.cache(false);
  registerImageEngine({
    deflate: async (bytes) => deflate(bytes, { level: 6 }),
    async inflate(bytes, most) {
      return inflate(bytes, { maxOutputLength: most });
    },
    async jpeg(pixels, width, height, bands, quality) {
      return (
        sharp(pixels, { raw: { width, height, channels: bands } })
          // one band would become three otherwise
          .toColourspace(bands === 1 ? 'b-w' : 'srgb')
          .jpeg({ quality, progressive: false, chromaSubsampling: '4:2:0', optimiseCoding: true })
          .toBuffer()
      );
    },
    async png(pixels, width, height) {
      return sharp(pixels, { raw: { width, height, channels: 4 } })
        .png({ compressionLevel: 6, palette: false })
        .toBuffer();
    },
    unpackedSmall,
    async unpacked(source) {
      const known = source.id === undefined ? undefined : elsewhere.get(source.id);
      return known ? { source: await fileSource(known.file, source.name), damage: known.damage, remove: async () => {} } : unpacked(source);
    },
    jpeg2000: encodeJpeg2000,
    async pack(from, folder, name, kind, quality) {
      const source = await from.source();
      await withFile(source, async (file) => {
        const opened = sharp(file, { limitInputPixels: MOST_PIXELS, sequentialRead: true });
        const picture = opened.toColourspace(spaceOf(await opened.metadata()));
        const packed =
          kind === 'jpeg'
            ? picture.jpeg({ quality, progressive: false, chromaSubsampling: quality >= 90 ? '4:4:4' : '4:2:0' })
            : picture.png({ compressionLevel: 6, palette: false });
        const sink = await folder.create(name);
        try {
          for await (const chunk of packed as unknown as AsyncIterable<Buffer>) await sink.write(chunk);
        } finally {
          await sink.close();
        }
      });
    },
  });
}

async function unpackedSmall(bytes: Uint8Array, width: number, height: number): Promise<Uint8Array | null> {
  try {
    const { data, info } = await sharp(bytes, { limitInputPixels: width * height })
      .toColourspace('srgb')
      .ensureAlpha()
      .raw()
      .toBuffer({ resolveWithObject: true });
    return info.width === width && info.height === height && info.channels === 4 ? data : null;
  } catch {
    return null;
  }
}

async function unpacked(source: ByteSource): Promise<UnpackedImage> {
  const folder = await mkdtemp(path.join(tmpdir(), 'pontrel-image-'));
  folders.add(folder);
  const out = path.join(folder, 'unpacked.tif');
  let forget = (): void => {};
  const remove = async (): Promise<void> => {
    forget();
    forget = () => {};
    await rm(folder, { recursive: true, force: true });
    folders.delete(folder);
  };
  const made = async (damage: string | null): Promise<UnpackedImage> => {
    forget = noted(source, { file: out, damage });
    return { source: await fileSource(out, source.name), damage, remove };
  };
  try {
    if (isJpeg2000(await source.read(0, 12))) {
      await unpackJpeg2000(source, out);
      return await made(null);
    }
    const damage = await withFile(source, async (file) => {
      try {
        await unpackInto(out, file, source, 'warning');
        return null;
      } catch (error) {
        // what a stricter reader stumbles over may have pixels all the same
        if (!(error instanceof Problem) || error.code !== 'image-damaged') throw error;
        await unpackInto(out, file, source, 'error');
        return error.message;
      }
    });
    return await made(damage);
  } catch (error) {
    await remove();
    throw error;
  }
}

/** Notes that a picture is unpacked. @returns what takes that back */
function noted({ id }: ByteSource, own: UnpackedFile): () => void {
  if (id === undefined) {
    unpackedUnknown++;
    return () => unpackedUnknown--;
  }
  unpackedNow.set(id, own);
  return () => {
    if (unpackedNow.get(id) === own) unpackedNow.delete(id);
  };
}

async function unpackInto(out: string, file: string, source: ByteSource, failOn: 'warning' | 'error'): Promise<void> {
  const picture = sharp(file, { limitInputPixels: MOST_PIXELS, sequentialRead: true, failOn });
  const told = (error: unknown): never => {
    throw damaged(source, error);
  };
  const { width = 0, height = 0, channels = 3, depth } = await picture.metadata().catch(told);
  const bytes = width * height * channels * (depth === 'ushort' ? 2 : depth === 'float' ? 4 : 1);
  if (bytes > MOST_BYTES || width * height > MOST_PIXELS) throw tooLarge(source, `${width} by ${height} pixels`);
  await picture
    // as many bands and bits as there are
    .toColourspace(spaceOf({ depth, channels }))
    .tiff({ compression: 'none', tile: true, tileWidth: TILE, tileHeight: TILE, bigtiff: bytes > 3.9e9 })
    .toFile(out)
    .catch(told);
}

const tooLarge = (source: ByteSource, pixels: string): Problem =>
  new Problem(
    'image-too-large',
    `${source.name} says that it has ${pixels}, and it has to be unpacked as a whole. Save it as a tiled GeoTIFF packed with deflate or LZW.`,
    { file: source.name },
  );

function damaged(source: ByteSource, error: unknown): Problem {
  const what = messageOf(error)
    .split('\n')[0]!
    .replace(/[.:]+$/, '');
  if (/pixel limit/.test(what)) return tooLarge(source, 'more pixels than can be unpacked');
  return new Problem('image-damaged', `${source.name} cannot be unpacked as a picture (${what}). Ask for it again.`, { file: source.name });
}

/** The engine reads files; what is not one by itself is copied into one first. */
async function withFile<T>(source: ByteSource, use: (file: string) => Promise<T>): Promise<T> {
  if (source.path !== undefined) return use(source.path);
  const folder = await mkdtemp(path.join(tmpdir(), 'pontrel-image-'));
  folders.add(folder);
  try {
    const file = path.join(folder, 'picture');
    await pipeline(Readable.from(source.stream()), createWriteStream(file));
    return await use(file);
  } finally {
    await rm(folder, { recursive: true, force: true });
    folders.delete(folder);
  }
}
