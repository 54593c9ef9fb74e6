import { MadeFacts } from '@pontrel/contract/crossing';
import type { DrawingProof } from '@pontrel/core/crossing/drawing-images';
import { z } from 'zod';
import { type Fault, FAULTS } from '@pontrel/core/content/derived/fault';
import type { ImageRunProof } from '@pontrel/core/content/raster/proof';
import type { ZipEntry } from '@pontrel/core/formats/zip/read';
import { Problem } from '@pontrel/core/model/problem';

/** What tells of the rest in an archive, and is looked for to know one. */
export const CONTENTS = 'crossing.json';
export const KIND = 'pontrel-crossing';
/** Bytes of it that are read. */
const MOST_CONTENTS = 64 * 1024 ** 2;

const Name = z.string().min(1).max(400);
const Contents = z.object({
  kind: z.literal(KIND),
  version: z.literal(1),
  name: Name,
  recipe: z.unknown(),
  sources: z
    .array(
      z.object({
        name: Name,
        added: z.string(),
        replaces: z.object({ names: z.array(z.string()), at: z.string() }).optional(),
        /** What came of working it out, where it was worked out of others, and the file in the archive that holds its faults. */
        made: MadeFacts.optional(),
        faults: z.string().optional(),
        /** Where its files lie in the archive, the one that is opened first. */
        files: z.array(z.string()).min(1),
        /** Its pictures, where it holds such, each with its files. */
        images: z.array(z.object({ name: Name, files: z.array(z.string()).min(1) })).optional(),
      }),
    )
    .max(5000),
  runs: z
    .array(
      z.object({
        deliverable: Name,
        name: Name,
        finished: z.string(),
        revision: z.number(),
        rules: z.string(),
        target: z.string(),
        seconds: z.number(),
        pinned: z.boolean(),
        recipe: z.unknown(),
        proof: z.custom<DrawingProof | ImageRunProof>(
          (v) =>
            z
              .object({
                status: z.enum(['match', 'differs', 'failed']),
                differences: z.array(z.object({})),
              })
              .and(
                z.union([z.object({ records: z.object({ in: z.number(), out: z.number() }) }), z.object({ content: z.literal('images') })]),
              )
              .safeParse(v).success,
        ),
        files: z.array(z.object({ name: Name, bytes: z.number() })),
        folder: z.string(),
      }),
    )
    .max(2000),
});
export type Contents = z.infer<typeof Contents>;

export const damaged = (what: string): Problem =>
  new Problem('saved-damaged', `The saved crossing cannot be opened: ${what}. Save it once more where it came from.`);

/** @param name of a file in the archive that is JSON, for people */
export async function contentsOf(
  entry: ZipEntry | undefined,
  read: (e: ZipEntry) => Promise<Uint8Array>,
  name: string = CONTENTS,
): Promise<unknown> {
  if (!entry || entry.bytes > MOST_CONTENTS) throw damaged(`its ${name} is missing or too large`);
  try {
    return JSON.parse(new TextDecoder().decode(await read(entry)));
  } catch (error) {
    if (error instanceof Problem) throw error;
    throw damaged(`its ${name} is no JSON`);
  }
}

const Faults = z.array(
  z.object({
    kind: z.custom<Fault['kind']>((v) => typeof v === 'string' && Object.hasOwn(FAULTS, v)),
    at: z.tuple([z.number(), z.number()]),
    size: z.number().nullable(),
    about: z.string(),
  }),
);

/** Faults of a source that was worked out, from the file in an archive that tells of them. */
export function parsedFaults(json: unknown, name: string): Fault[] {
  const faults = Faults.safeParse(json);
  if (!faults.success) throw damaged(`its ${name} is damaged at ${faults.error.issues[0]?.path.join('.') ?? 'its beginning'}`);
  return faults.data;
}

export function parsedContents(json: unknown): Contents {
  const { kind, version } = z.object({ kind: z.string(), version: z.number() }).partial().catch({}).parse(json);
  if (kind !== KIND) throw damaged(`its ${CONTENTS} does not say that it is one`);
  if (version !== 1)
    throw new Problem('saved-newer', 'The saved crossing was made by a newer Pontrel than this one. Open it with that one.');
  const contents = Contents.safeParse(json);
  if (!contents.success) throw damaged(`its ${CONTENTS} is damaged at ${contents.error.issues[0]?.path.join('.') ?? 'its beginning'}`);
  return contents.data;
}
