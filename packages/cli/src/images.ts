import { access } from 'node:fs/promises';
import type { Crs } from '@pontrel/core/crs/crs';
import type { ImageFormat } from '@pontrel/core/formats/format';
import type { Georeference } from '@pontrel/core/formats/image-face';
import { recogniseImage } from '@pontrel/core/formats/images';
import { type Finding, Findings } from '@pontrel/core/model/finding';
import type { ImageInfo } from '@pontrel/core/model/raster';
import { Problem } from '@pontrel/core/model/problem';
import { ownGrid } from '@pontrel/core/crossing/image-pipeline';
import { extentOfGrid, type PixelGrid, pixelSize } from '@pontrel/core/raster/pixel-grid';
import { fileSource } from '@pontrel/host-node/files';

/** A picture as far as it is known without its pixels. */
export interface KnownImage {
  path: string;
  name: string;
  format: ImageFormat;
  info: ImageInfo;
  where: Georeference;
  grid: PixelGrid;
  version: string;
  findings: Finding[];
}

/** An input that is a picture. */
export interface ImageInput {
  file: string;
  format: ImageFormat;
}

/** The format of a file that is a picture; undefined for any other. @throws Problem `file-missing` */
export async function imageFormatOf(path: string): Promise<ImageFormat | undefined> {
  await access(path).catch(() => {
    throw new Problem('file-missing', `${path} is not there or cannot be read.`, { file: path });
  });
  return recogniseImage(await fileSource(path));
}

/** What a picture says of itself. */
export async function knownImage(path: string, format: ImageFormat): Promise<KnownImage> {
  const source = await fileSource(path);
  const findings = new Findings();
  const image = await format.images.open(source, findings);
  try {
    const { info, where, version } = image;
    return { path, name: source.name, format, info, where, grid: ownGrid(image), version, findings: findings.list() };
  } finally {
    await image.close();
  }
}

/** What `inspect --json` says of a picture. */
export function rasterJson({ info, where, grid }: Pick<KnownImage, 'info' | 'where' | 'grid'>): unknown {
  const placed = where.grid !== null;
  const { map } = grid;
  return {
    width: info.width,
    height: info.height,
    bands: info.bands,
    sampleType: info.sampleType,
    pixelSize: placed ? pixelSize(grid) : null,
    origin: placed ? [map[0], map[3]] : null,
    extent: placed ? extentOfGrid(grid) : null,
    nodata: info.nodata !== null && Number.isNaN(info.nodata) ? 'nan' : info.nodata,
    alpha: info.alpha,
    colour: info.colour,
    ...(where.pairs ? { controlPoints: where.pairs.length } : {}),
  };
}

/** One line about a picture for people. */
export function rasterText({ info, where, grid, version }: KnownImage): string {
  const [dx, dy] = pixelSize(grid);
  const place = where.grid
    ? `, pixels of ${dx === dy ? dx : `${dx} by ${dy}`}, from ${grid.map[0]}, ${grid.map[3]}`
    : where.pairs
      ? `, tied to ${where.pairs.length} points`
      : ', does not say where it lies';
  const nodata = info.nodata === null ? '' : `, ${info.nodata} stands for none`;
  const bands = `${info.bands} ${info.bands === 1 ? 'band' : 'bands'} of ${info.sampleType}`;
  const colour = `${info.colour}${info.alpha ? ' with alpha' : ''}`;
  return `  ${info.width} by ${info.height} pixels, ${bands} (${colour})${nodata}${place}; ${version}`;
}

/** What a picture's numbers are in, as JSON. */
export const crsJson = (crs: Crs | null): unknown => ({ id: crs?.id ?? null, name: crs?.name ?? null, origin: crs ? 'declared' : 'none' });
