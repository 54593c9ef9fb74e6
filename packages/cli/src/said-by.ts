import type { Cause } from '@pontrel/core/model/reason';

/** Who caused that something stays behind, for people. */
export const BY: Record<Cause, string> = {
  you: 'left out by you',
  reader: 'not read',
  rule: 'used up by a rule',
  format: 'not held by the format',
  system: 'outside the system',
};
