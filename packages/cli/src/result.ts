/** The call's words are off: exit status 2. */
export class Usage extends Error {}

/** What a command has to say. */
export interface Result {
  /** What --json prints. */
  json: unknown;
  text: string;
  /** For people, beside the result: written to the standard error. */
  notes?: readonly string[];
  /** 0 done, 1 the input is bad. */
  exit: 0 | 1;
}
