/** Letters of a message, which may quote what somebody wrote. */
const LONGEST = 1000;

/**
 * Bad input, told so that a person can act on it: what is wrong, in which file and where, and what to do.
 * `code` is stable and for programs.
 */
export class Problem extends Error {
  constructor(
    readonly code: string,
    message: string,
    readonly where: { file?: string; line?: number; record?: number } = {},
  ) {
    super(message.length > LONGEST ? `${message.slice(0, LONGEST - 1)}…` : message);
    this.name = 'Problem';
  }
}

/** A job that a person stopped. */
export class Cancelled extends Error {
  constructor() {
    super('Cancelled.');
    this.name = 'Cancelled';
  }
}

/** The message of anything thrown. */
export function messageOf(error: unknown): string {
  return error instanceof Error ? error.message : String(error);
}
