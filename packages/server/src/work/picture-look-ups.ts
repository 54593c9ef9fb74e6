import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import path from 'node:path';
import sharp from 'sharp';
import type { PictureSizes, PieceView } from '@pontrel/contract/pictures';
import { expectedWindow } from '@pontrel/core/content/raster/expected';
import { imageForecast, type ImageForecast } from '@pontrel/core/content/raster/forecast';
import type { ImagePlan } from '@pontrel/core/content/raster/plan';
import { gridOf, infoOf } from '@pontrel/core/content/raster/profile';
import { estimatedBytes, pieceAsWritten, samplePieces } from '@pontrel/core/content/raster/sampling';
import { chosenImages } from '@pontrel/core/crossing/chosen-images';
import { type CrossingImage, type NamedImage, prepareImage, wantedAreas, withImagePlan } from '@pontrel/core/crossing/image-pipeline';
import type { Deliverable, Recipe } from '@pontrel/core/crossing/recipe';
import { crsOf } from '@pontrel/core/placement/route';
import type { OptionValues } from '@pontrel/core/formats/format-option';
import { openLevels } from '@pontrel/core/formats/geotiff/levels';
import { formatOptions, writeOptions } from '@pontrel/core/formats/options';
import { UNWATCHED } from '@pontrel/core/io/bytes';
import { Findings } from '@pontrel/core/model/finding';
import { Problem } from '@pontrel/core/model/problem';
import { opaqueValue, type PixelWindow, type Raster } from '@pontrel/core/model/raster';
import { fileSource, folderAt } from '@pontrel/host-node/files';
import { pyramidFile } from './image-files';
import { crossingImages, fitMembers, type StoredPictures, type StoredSource, withSources } from './stored-source';

/** A deliverable that is a picture, with what it may be made of. */
export interface PictureRequest {
  recipe: Recipe;
  deliverable: Deliverable;
  /** Sources of records that its area may be taken from. */
  sources: StoredSource[];
  pictures: StoredPictures[];
}

/** What will become of it, without a look at a pixel. */
export function pictureForecast({ recipe, deliverable, sources, pictures }: PictureRequest): Promise<ImageForecast> {
  const images = fitMembers(pictures).map(({ named, member }): NamedImage => ({
    ...named,
    image: {
      info: infoOf(member.info),
      where: { grid: member.map && gridOf(member), pairs: null, crs: null, crsText: null },
      ...(member.date === undefined ? {} : { date: member.date }),
      read: () => Promise.reject(new Error('A forecast reads no pixel.')),
    },
  }));
  const { taken } = chosenImages(recipe, deliverable, images);
  return withSources(sources, async (records) =>
    imageForecast(prepareImage(recipe, deliverable, taken, await wantedAreas(recipe, deliverable, taken, records), records)),
  );
}

/** Pictures opened for a look at some of their pixels: what was unpacked when it was read is not unpacked again. */
function quickImages(pictures: readonly StoredPictures[]): CrossingImage[] {
  const fit = fitMembers(pictures);
  return crossingImages(pictures).map((image, n): CrossingImage => {
    const { files, member, k } = fit[n]!;
    if (!member.unpacked) return image;
    return {
      ...image,
      open: async () => {
        const [whole] = await openLevels(await fileSource(pyramidFile(files.folder, k), member.name, () => Promise.resolve(null)));
        return {
          ...whole!,
          where: { grid: member.map && gridOf(member), pairs: null, crs: crsOf('EPSG:4326'), crsText: null },
          version: member.version,
          ...(member.date === undefined ? {} : { date: member.date }),
          unpacked: false,
          close: () => Promise.resolve(),
        };
      },
    };
  });
}

function withPlan<T>({ recipe, deliverable, sources, pictures }: PictureRequest, use: (plan: ImagePlan) => Promise<T>): Promise<T> {
  const { taken } = chosenImages(recipe, deliverable, quickImages(pictures));
  return withSources(sources, (records) =>
    withImagePlan(
      recipe,
      deliverable,
      taken,
      records,
      new Findings(),
      UNWATCHED,
      (plan) => {
        if (plan.blocked.length > 0) throw new Problem('deliverable-blocked', plan.blocked.join(' '));
        return use(plan);
      },
      true,
    ),
  );
}

async function inTemporaryFolder<T>(use: (folder: string) => Promise<T>): Promise<T> {
  const folder = await mkdtemp(path.join(tmpdir(), 'pontrel-piece-'));
  try {
    return await use(folder);
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

/** Pieces by which the size of a file is estimated. */
const PIECES = 24;

/** Qualities at which the size of a file is estimated, for the curve. */
const QUALITIES = [30, 50, 65, 75, 85, 92, 97];

/** About how large its files will be, and where there is a quality to choose, how large at others. */
export function pictureSizes(request: PictureRequest): Promise<PictureSizes> {
  return withPlan(request, (plan) =>
    inTemporaryFolder(async (folder) => {
      const chosen = formatOptions(plan.format, request.deliverable.options);
      const pieces = await samplePieces(plan, PIECES);
      const sized = (options: OptionValues, k: number): Promise<number> =>
        estimatedBytes(plan, pieces, options, folderAt(path.join(folder, String(k))), 'sample');
      const quality = writeOptions(plan.format).find((o) => o.id === 'quality' && (!o.when || o.when(chosen)));
      const curve: PictureSizes['curve'] = [];
      if (quality)
        for (const [k, value] of QUALITIES.entries())
          curve.push({ quality: value, bytes: await sized({ ...chosen, quality: value }, k + 1) });
      return { bytes: await sized(chosen, 0), pieces: (pieces.height / Math.min(512, pieces.height)) | 0, curve };
    }),
  );
}

/** A piece at full resolution: as it is to be, and as it is once it was packed with the options given. */
export function picturePiece({
  window,
  options,
  ...request
}: PictureRequest & { window: PixelWindow; options: OptionValues }): Promise<PieceView> {
  return withPlan(request, (plan) =>
    inTemporaryFolder(async (folder) => {
      const { width, height } = plan.target.info;
      const own = {
        x: Math.max(0, Math.min(width - 1, window.x)),
        y: Math.max(0, Math.min(height - 1, window.y)),
        width: Math.min(window.width, width),
        height: Math.min(window.height, height),
      };
      own.x = Math.min(own.x, width - own.width);
      own.y = Math.min(own.y, height - own.height);
      const { expected, written } = await pieceAsWritten(
        plan,
        own,
        formatOptions(plan.format, { ...request.deliverable.options, ...options }),
        folderAt(folder),
      );
      let sum = 0,
        worst = 0;
      for (let i = 0; i < expected.data.length; i++) {
        const off = Math.abs(expected.data[i]! - written.data[i]!) || 0;
        sum += off;
        if (off > worst) worst = off;
      }
      return {
        ...own,
        expected: await dataUrl(expected, plan),
        written: await dataUrl(written, plan),
        mean: sum / expected.data.length,
        worst,
      };
    }),
  );
}

/** A whole map as it is to be, as a data URL; to be asked for with few dots. */
export function mapOverview(request: PictureRequest): Promise<string> {
  return withPlan(request, async (plan) => {
    const { width, height } = plan.target.info;
    const { raster } = await expectedWindow(plan, { x: 0, y: 0, width, height });
    return dataUrl(raster, plan);
  });
}

/** A piece as people see it, without further loss; samples of more than 8 bits over the range that they have in it. */
async function dataUrl({ width, height, bands, data, valid }: Raster, { like, target }: ImagePlan): Promise<string> {
  const out = Buffer.alloc(4 * width * height);
  const colours = bands - Number(like.alpha);
  const [low, high] = like.sampleType === 'uint8' ? [0, 255] : rangeOf(data, valid, bands);
  const scale = high > low ? 255 / (high - low) : 0;
  const { palette } = target.info;
  const opaque = opaqueValue(like.sampleType);
  for (let i = 0; i < width * height; i++) {
    if (valid && !valid[i]) continue;
    for (let c = 0; c < 3; c++) {
      const value = data[i * bands + (colours >= 3 ? c : 0)]!;
      out[4 * i + c] = palette ? palette[3 * value + c]! : Math.max(0, Math.min(255, Math.round((value - low) * scale)));
    }
    out[4 * i + 3] = like.alpha ? Math.round((255 * data[i * bands + colours]!) / opaque) : 255;
  }
  const png = await sharp(out, { raw: { width, height, channels: 4 } })
    .png({ compressionLevel: 4 })
    .toBuffer();
  return `data:image/png;base64,${png.toString('base64')}`;
}

function rangeOf(data: Raster['data'], valid: Uint8Array | null, bands: number): [number, number] {
  let [low, high] = [Infinity, -Infinity];
  for (let i = 0; i < data.length; i++) {
    if (valid && !valid[Math.floor(i / bands)]) continue;
    if (data[i]! < low) low = data[i]!;
    if (data[i]! > high) high = data[i]!;
  }
  return high >= low ? [low, high] : [0, 1];
}
