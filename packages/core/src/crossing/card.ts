import { z } from 'zod';
import type { ImageForecast } from '../content/raster/forecast';
import { fileStem } from '../content/features/plan';

/** What a field controller says on its card of the images that it takes; docs/field-controller-card.md describes the file. */
export const CardProfile = z.object({
  model: z.string().min(1).max(80),
  folder: z.string().regex(/^[A-Za-z0-9_]{1,40}$/),
  extension: z.enum(['.jpg', '.tif']),
  mostPixels: z.number().positive(),
  mostBytes: z.number().positive(),
  nameLetters: z.number().int().min(4).max(120),
  turned: z.boolean(),
  systemInName: z.boolean(),
  systems: z.array(z.number().int()).optional(),
});
export type CardProfile = z.infer<typeof CardProfile>;

/** The file on a card that says it. */
export const CARD_FILE = 'DEVICE.JSON';

/** One thing that a card asks for, and whether an image meets it. */
export interface CardCheck {
  says: string;
  /** What the image has. */
  has: string;
  /** What to do where it does not meet it; null where it does. */
  how: string | null;
}

const codeOf = (crs: string): string | null => /^EPSG:(\d+)$/.exec(crs)?.[1] ?? null;

/** A name that a card takes: short, of plain letters, with the number of its system where that is wanted. */
export function cardStem(profile: CardProfile, name: string, crs: string): string {
  const code = profile.systemInName ? `_${codeOf(crs) ?? ''}` : '';
  const plain = fileStem(name)
    .replace(/[^A-Za-z0-9_]+/g, '_')
    .replace(/^_+|_+$/g, '');
  return plain.slice(0, Math.max(1, profile.nameLetters - code.length)).replace(/_+$/, '') + code;
}

/**
 * What a card asks for, one by one.
 * @param bytes of the image, as far as they are known; null while they are worked out
 */
export function cardChecks(profile: CardProfile, forecast: ImageForecast, crs: string, bytes: number | null): CardCheck[] {
  const [image = ''] = forecast.files;
  const dot = image.lastIndexOf('.');
  const [stem, extension] = [image.slice(0, dot), image.slice(dot)];
  const { width, height } = forecast.info;
  const million = (n: number): string => `${Number((n / 1e6).toPrecision(3))} million`;
  const megabytes = (n: number): string => `${Number((n / 1e6).toPrecision(3))} MB`;
  const turned = forecast.map[2] !== 0 || forecast.map[4] !== 0;
  const code = codeOf(crs);
  const check = (says: string, has: string, met: boolean, how: string): CardCheck => ({ says, has, how: met ? null : how });
  const world = forecast.files.some((f) => /w$/i.test(f));
  return [
    check(
      profile.extension === '.jpg' ? 'Baseline JPEG, not progressive' : 'TIFF',
      extension === profile.extension ? 'yes' : extension,
      extension === profile.extension,
      `Add a deliverable that is ${profile.extension === '.jpg' ? 'a JPEG with world file' : 'a GeoTIFF'}.`,
    ),
    check('World file beside it', world ? 'yes' : 'none', world, 'Choose a format with a world file.'),
    check(
      `At most ${million(profile.mostPixels)} pixels`,
      million(width * height),
      width * height <= profile.mostPixels,
      `Take pixels of ${Number((forecast.pixelSize[0] * Math.sqrt((1.02 * width * height) / profile.mostPixels)).toPrecision(3))} or a smaller area.`,
    ),
    check(
      `At most ${megabytes(profile.mostBytes)}`,
      bytes === null ? '…' : megabytes(bytes),
      bytes === null || bytes <= profile.mostBytes,
      `Choose the quality under a size of ${megabytes(profile.mostBytes)}.`,
    ),
    check('No rotation in the world file', turned ? 'turned' : 'none', profile.turned || !turned, 'Choose a north-up area.'),
    check(
      `Names of at most ${profile.nameLetters} plain letters`,
      String(stem.length),
      stem.length <= profile.nameLetters && /^[A-Za-z0-9_]+$/.test(stem),
      'Choose the card again: it gives the files a short name.',
    ),
    ...(profile.systemInName
      ? [
          check(
            'Number of the system in the name',
            code ?? 'none',
            code !== null && stem.endsWith(`_${code}`),
            'Choose a system that has a code, and the card again.',
          ),
        ]
      : []),
    ...(profile.systems
      ? [
          check(
            'A system that it knows',
            code ?? crs.slice(0, 20),
            code !== null && profile.systems.includes(Number(code)),
            `It knows ${profile.systems.map((s) => `EPSG:${s}`).join(', ')}.`,
          ),
        ]
      : []),
  ];
}
