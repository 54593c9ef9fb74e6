import { EVERY_FORMAT } from '@pontrel/core/formats/every-format';

/** The formats that are read, for a sentence. */
export const READ = EVERY_FORMAT.filter((f) => f.features || f.images?.locate)
  .map((f) => f.name)
  .join(', ');
