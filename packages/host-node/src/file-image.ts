import type { ImageName } from '@pontrel/core/crossing/chosen-images';
import type { CrossingImage } from '@pontrel/core/crossing/image-pipeline';
import { anyFormatById } from '@pontrel/core/formats/every-format';
import { extensionOf } from '@pontrel/core/formats/extension';
import type { ByteSource } from '@pontrel/core/io/bytes';
import { fileSource } from './files';

/** A picture of a crossing as its file lies; plain data, so that threads can be told of it. */
export interface FileImage extends ImageName, Pick<CrossingImage, 'stretch'> {
  file: string;
  format: string;
  /** What people call the file, and the files that belong to it by their extensions; those beside it under its own name where absent. */
  stored?: { title: string; companions: Record<string, string> };
}

/** The file with those that belong to it. */
export function imageFile({ file, stored }: Pick<FileImage, 'file' | 'stored'>): Promise<ByteSource> {
  if (!stored) return fileSource(file);
  const { title, companions } = stored;
  const stem = title.slice(0, title.length - extensionOf(title).length);
  return fileSource(file, title, async (wanted) => {
    const own = companions[wanted];
    return own === undefined ? null : fileSource(own, stem + wanted);
  });
}

/** The picture, to be opened. */
export const fileImage = (image: FileImage): CrossingImage => ({
  source: image.source,
  name: image.name,
  ...(image.stretch ? { stretch: image.stretch } : {}),
  open: async (findings) => anyFormatById(image.format)!.images!.open(await imageFile(image), findings),
});
