import type { ByteSource } from '../io/bytes';
import { extensionOf } from './extension';
import type { Format } from './format';
import { IMAGE_FORMATS, recogniseImage } from './images';
import { FORMATS, recogniseFormat } from './index';

/** Every format, whatever it holds. */
export const EVERY_FORMAT: readonly Format[] = [...FORMATS, ...IMAGE_FORMATS];

/** The format of an id, whatever it holds. */
export const anyFormatById = (id: string): Format | undefined => EVERY_FORMAT.find((f) => f.id === id);

/** The format of a file: a picture's, or one of records. @throws Problem as {@link recogniseFormat} does */
export async function recogniseAny(source: ByteSource): Promise<Format> {
  return (await recogniseImage(source)) ?? recogniseFormat(source);
}

/** Whether a name is one of a file that is read, of one that goes with it, or of an archive of such. */
export function isKnownName(name: string): boolean {
  const extension = extensionOf(name);
  return extension === '.zip' || EVERY_FORMAT.some((f) => f.extensions.includes(extension) || f.companions.includes(extension));
}

/** True for a file that only goes with another one (.dbf, .prj, a world file ...). */
export function isCompanion(name: string): boolean {
  const extension = extensionOf(name);
  return EVERY_FORMAT.some((f) => f.companions.includes(extension));
}
