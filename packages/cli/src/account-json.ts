import type { AccountRow } from '@pontrel/core/content/account';
import type { Finding } from '@pontrel/core/model/finding';

/** A row of the account as --json prints it. */
export const accountJson = ({ source, layer, read, crossed, left, changed }: AccountRow): unknown => ({
  source,
  layer,
  read,
  crossed,
  left: left.map(({ reason, by, count, locations }) => ({ reason, by, count, locations })),
  changed,
});

/** A finding as a person reads it. */
export const findingText = (f: Finding): string => `  ${f.severity}: ${f.count} × ${f.message}${f.location ? ` (${f.location})` : ''}`;
