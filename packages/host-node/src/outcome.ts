import { Problem } from '@pontrel/core/model/problem';

/** What comes back from work elsewhere: problems as data, since their class does not survive the way between threads and processes. */
export type Outcome<T> = { ok: T } | { problem: { code: string; message: string } };

/** What work made, or the problem that it told; anything else is a fault, and is thrown. */
export async function told<T>(work: () => T | Promise<T>): Promise<Outcome<T>> {
  try {
    return { ok: await work() };
  } catch (error) {
    if (error instanceof Problem) return { problem: { code: error.code, message: error.message } };
    throw error;
  }
}

/** The result of work elsewhere. @throws Problem that it told */
export function unwrapped<T>(outcome: Outcome<T>): T {
  if ('problem' in outcome) throw new Problem(outcome.problem.code, outcome.problem.message);
  return outcome.ok;
}
