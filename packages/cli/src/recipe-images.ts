import path from 'node:path';
import { inNumbers, mosaicName, patternOf } from '@pontrel/core/crossing/mosaic-name';
import type { ValidatedSource } from '@pontrel/core/crossing/validate-recipe';
import { sameSystem } from '@pontrel/core/crs/registry/identify';
import { Problem } from '@pontrel/core/model/problem';
import type { FileImage } from '@pontrel/host-node/file-image';
import { type ImageInput, knownImage } from './images';

/**
 * The names of the sources that some pictures are: a picture that the recipe knows by its name is one by itself, and all others whose names
 * differ by their numbers only are the tiles of one mosaic.
 */
export function imageSourceNames(images: readonly ImageInput[], known: readonly string[]): Map<string, ImageInput[]> {
  const groups = new Map<string, ImageInput[]>();
  for (const image of images) {
    const name = path.basename(image.file);
    const key = known.includes(name) ? name : `${path.dirname(image.file)}\n${patternOf(name)}`;
    groups.set(key, [...(groups.get(key) ?? []), image]);
  }
  return new Map(
    [...groups.values()].map((group) => {
      const sorted = [...group].sort((a, b) => inNumbers(path.basename(a.file), path.basename(b.file)));
      return [mosaicName(sorted.map((i) => path.basename(i.file))), sorted];
    }),
  );
}

/** The pictures of sources, to be run through a recipe, and what is known of the sources. @throws Problem `mosaic-systems` */
export async function recipeImages(
  sources: ReadonlyMap<string, readonly ImageInput[]>,
): Promise<{ files: FileImage[]; known: ValidatedSource[] }> {
  const files: FileImage[] = [];
  const known: ValidatedSource[] = [];
  for (const [source, images] of sources) {
    const members = await Promise.all(images.map(({ file, format }) => knownImage(file, format)));
    const [{ where, name: first }] = members as [(typeof members)[number]];
    const other = members.find((m) => m.where.crs && where.crs && !sameSystem(m.where.crs, where.crs));
    if (other)
      throw new Problem(
        'mosaic-systems',
        `${other.name} states another coordinate system than ${first}: they are no tiles of one mosaic. Give one of them another name.`,
        { file: other.name },
      );
    for (const [k, { file, format }] of images.entries())
      files.push({ source, name: images.length === 1 ? source : members[k]!.name, file, format: format.id });
    known.push({ name: source, layers: [], stated: { crs: where.crs && { id: where.crs.id, name: where.crs.name }, unit: null } });
  }
  return { files, known };
}
