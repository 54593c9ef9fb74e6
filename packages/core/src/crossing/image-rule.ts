import { z } from 'zod';

/** How the pictures of a source are shown on the map; it changes nothing that is written. */
const Shown = z.object({
  hidden: z.boolean().optional(),
  /** 0 to 1. */
  opacity: z.number().min(0).max(1).optional(),
  /** The values that become black and white; those of the format, or of nearly all pixels, when absent. */
  stretch: z.tuple([z.number(), z.number()]).optional(),
  /** The bands that become red, green and blue, or the one that becomes grey, counted from zero. */
  bands: z.union([z.tuple([z.number().int()]), z.tuple([z.number().int(), z.number().int(), z.number().int()])]).optional(),
});

/** What becomes of the pictures of one source. Absent members: taken, all of them, in the order in which they came, values as they are. */
export const ImageRule = z.object({
  taken: z.boolean().optional(),
  /** Pictures that stay behind, by name. */
  without: z.array(z.string()).optional(),
  /** Names in the order in which they cover each other, the first on top; those that are not named lie below. */
  order: z.array(z.string()).optional(),
  /** What is added to the values of a picture, band by band, so that it is as bright as the others. */
  adjust: z.record(z.string(), z.array(z.number())).optional(),
  /** The line to which a picture is cut, as a drawing shows it: its own pixels from the upper left corner, x to the right and y downwards, by twos. */
  clip: z.record(z.string(), z.object({ ring: z.array(z.number()).min(6).max(20_000), keeps: z.enum(['inside', 'outside']) })).optional(),
  shown: Shown.optional(),
});
export type ImageRule = z.infer<typeof ImageRule>;
