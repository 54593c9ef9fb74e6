import { FORMATS } from '@pontrel/core/formats/index';

/** The formats that are read, for a sentence. */
export const READ = FORMATS.map((f) => f.name).join(', ');
