import type { SourceState } from '@pontrel/contract/crossing';
import { gridOf, type ImageMember, imagesExtent, type ImageProfile } from '@pontrel/core/content/raster/profile';
import { imageRule, type Recipe } from '@pontrel/core/crossing/recipe';
import { pixelSize } from '@pontrel/core/raster/pixel-grid';
import { grouped, length } from '../components/numbers';

/** A source of images. */
export interface ImageAt {
  source: SourceState;
  images: ImageProfile;
  taken: boolean;
  /** Whether the rules say where it lies. */
  placed: boolean;
}

/** The sources of a crossing that are images. */
export const imagesOf = (sources: readonly SourceState[], recipe: Recipe): ImageAt[] =>
  sources.flatMap((source): ImageAt[] =>
    source.images
      ? [
          {
            source,
            images: source.images,
            taken: imageRule(recipe, source.name).taken !== false,
            placed: Boolean(recipe.sources[source.name]?.placement),
          },
        ]
      : [],
  );

export const imageKey = (at: Pick<ImageAt, 'source'>): string => `${at.source.name}\n`;

/** Where the picture of a card is. */
export const thumbnailOf = (crossing: string, source: SourceState): string =>
  `/api/crossings/${crossing}/sources/${source.id}/thumbnail/${source.id}`;

/** The gravest thing found in images. */
export function worstOf({ source, placed }: ImageAt): 'caution' | 'wrong' | null {
  const grave = source.findings.filter((f) => f.severity !== 'info');
  return grave.some((f) => f.severity === 'wrong') ? 'wrong' : grave.length > 0 || !placed ? 'caution' : null;
}

/** The pixels of all images together, as one: of a mosaic, those of its whole extent. */
export function pixelsOf({ images }: ImageAt): [number, number] {
  const [first, ...others] = images.members as [ImageMember, ...ImageMember[]];
  const extent = imagesExtent(images.members);
  if (others.length === 0 || !extent) return [first.info.width, first.info.height];
  const [dx, dy] = pixelSize(gridOf(first));
  return [Math.round((extent[2] - extent[0]) / dx), Math.round((extent[3] - extent[1]) / dy)];
}

/** The pixel on the ground, in words; null where the image does not say. */
export function groundPixel({ images }: ImageAt, frameUnit: string | null): string | null {
  const [first] = images.members as [ImageMember];
  if (!first.map) return null;
  const [dx, dy] = pixelSize(gridOf(first));
  const unit = frameUnit ?? 'units';
  const said = (v: number): string => (unit === 'm' ? length(v) : `${Number(v.toPrecision(4))} ${unit}`);
  return Math.abs(dx / dy - 1) < 1e-6 ? said(dx) : `${said(dx)} by ${said(dy)}`;
}

/** What kind of picture it is, in a word or two. */
export function kindOf({ info }: ImageMember): string {
  const bands = info.bands - Number(info.alpha);
  if (info.colour === 'palette') return 'palette';
  if (info.sampleType.startsWith('float') && bands === 1) return 'values';
  if (bands === 1) return 'grey';
  return bands === 3 && info.colour === 'rgb' ? 'colour' : `${bands} bands`;
}

export const sizeText = ([w, h]: readonly [number, number]): string => `${grouped(w)} × ${grouped(h)}`;
