import { z } from 'zod';

/** Long work: reading a source, running a deliverable. */
export const Job = z.object({
  id: z.string(),
  crossing: z.string(),
  kind: z.enum(['read', 'run']),
  /** What it is about, for people: a file's name, a deliverable's name. */
  subject: z.string(),
  /** Id of the source or deliverable. */
  subjectId: z.string(),
  status: z.enum(['waiting', 'running', 'done', 'failed', 'cancelled', 'interrupted']),
  /** What is being done now. */
  phase: z.string(),
  done: z.number(),
  total: z.number(),
  unit: z.enum(['bytes', 'records', 'pixels']),
  message: z.string().nullable(),
  started: z.string(),
  ended: z.string().nullable(),
  /** The run that it made. */
  result: z.string().nullable(),
});
export type Job = z.infer<typeof Job>;

/** What the event stream says: a job moved on, or a crossing changed. */
export const LiveEvent = z.discriminatedUnion('type', [
  z.object({ type: z.literal('job'), job: Job }),
  z.object({ type: z.literal('crossing'), id: z.string(), saved: z.literal(true).optional() }),
]);
export type LiveEvent = z.infer<typeof LiveEvent>;
