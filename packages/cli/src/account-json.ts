import type { AccountRow } from '@pontrel/core/content/account';
import { BY } from './said-by';
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

/**
 * The rows of an account in which something stays behind, as a person reads them.
 * @param counted what is counted, where that is no records
 * @param nameOf what a row is of
 */
export const accountLines = (
  rows: readonly AccountRow[],
  counted = '',
  nameOf = ({ source, layer }: AccountRow): string => `${source}, ${layer}`,
): string[] =>
  rows
    .filter((row) => row.left.length > 0)
    .map((row) => {
      const left = row.left.map((l) => `${l.message} (${BY[l.by]})`).join('; ');
      return `  ${nameOf(row)}: ${row.crossed} of ${row.read}${counted} crossed; ${left}`;
    });

/** A finding as a person reads it. */
export const findingText = (f: Finding): string => `  ${f.severity}: ${f.count} × ${f.message}${f.location ? ` (${f.location})` : ''}`;
