import { z } from 'zod';

/** What a file in the place of a source is expected to be. */
export const Slot = z.object({
  format: z.string(),
  layers: z.array(z.object({ name: z.string(), fields: z.array(z.string()) })).max(100_000),
});
export type Slot = z.infer<typeof Slot>;
