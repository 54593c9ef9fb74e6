import { Problem } from '@pontrel/core/model/problem';
import { faultOf } from '../store/faults';

/** For files that could not be read back: what is wrong with the machine, if that is the cause, else with the files. */
export function proofFailed(name: string, differences: readonly { message: string }[]): Problem {
  const why = differences.map((d) => d.message).join(' ');
  const fault = faultOf(why);
  if (fault !== null) return new Problem('machine', fault);
  return new Problem('proof-failed', `The files of ${name} could not be read back: ${why} They were thrown away.`);
}
