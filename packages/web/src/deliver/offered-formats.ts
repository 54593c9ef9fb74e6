import type { CrossingState } from '@pontrel/contract/crossing';
import type { Deliverable } from '@pontrel/core/crossing/recipe';
import type { Format } from '@pontrel/core/formats/format';
import { IMAGE_FORMATS } from '@pontrel/core/formats/images';
import { FORMATS } from '@pontrel/core/formats/index';
import { prescribedCrs } from '@pontrel/core/formats/options';
import { PLAIN } from './plain-image';
import { usualScale } from './usual-scale';

const RECORDS = FORMATS.filter((f) => f.features.write);
const IMAGES = IMAGE_FORMATS.filter((f) => f.images.write);
/** Those in which a map of a scale can be written: its system is chosen, and the size of its pixels follows from the scale. */
const MAPS = IMAGES.filter((f) => f.images.write!.prescribedCrs === undefined && !f.images.write!.gridFor);

/** Whether a deliverable is of images. */
export const isOfImages = ({ format }: Deliverable): boolean => IMAGES.some((f) => f.id === format);

/** Formats to hand over in, by what is made of the sources; those that are rarely wanted fold. */
export interface Offer {
  of: string;
  formats: readonly Format[];
  folds?: true;
}

/** What the sources of a crossing can be handed over as. */
export function offeredFormats({ sources }: CrossingState): Offer[] {
  const images = sources.some((s) => s.images),
    records = sources.some((s) => !s.images);
  return [
    ...(images ? [{ of: 'Images', formats: IMAGES }] : []),
    ...(records || !images ? [{ of: 'Records', formats: RECORDS }] : []),
    ...(records && !images ? [{ of: 'A map of the records', formats: MAPS, folds: true as const }] : []),
  ];
}

/** A name within a sentence: abbreviations keep their capitals. */
const inSentence = (name: string): string => (/^[A-Z][a-z]+\b/.test(name) ? name[0]!.toLowerCase() + name.slice(1) : name);

/** The name of a format as it is heard: after what is seen on its button, where that is not a part of it. */
export const spoken = ({ name, brief }: Format): string =>
  brief === undefined || name.includes(brief) ? inSentence(name) : `${brief}: ${inSentence(name)}`;

/** A deliverable as it is before anything is chosen. @param frame the system that it is in where its format prescribes none */
export function newDeliverable(crossing: CrossingState, format: Format, frame: string): Deliverable {
  const images = crossing.sources.filter((s) => s.images);
  const same = crossing.recipe.deliverables.filter((d) => d.format === format.id).length;
  return {
    id: Math.random().toString(36).slice(2, 10),
    name: `${crossing.name}, ${inSentence(format.name)}${same > 0 ? ` ${same + 1}` : ''}`.slice(0, 80),
    format: format.id,
    crs: prescribedCrs(format) ?? frame,
    grouping: 'layer',
    // several images are of one kind only where somebody says so
    ...(!format.images || format.features
      ? {}
      : images.length > 0
        ? { image: { ...PLAIN, sources: [crossing.pictures[0]?.source ?? images[0]!.name] } }
        : { image: { ...PLAIN, sources: [], drawn: usualScale(crossing) } }),
  };
}
