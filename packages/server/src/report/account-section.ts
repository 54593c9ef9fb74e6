import { type AccountRow, accountTotals } from '@pontrel/core/content/account';
import type { Cause } from '@pontrel/core/model/reason';
import { type Cell, number, plural, type Report, table } from './blocks';

const CAUSES: Record<Cause, string> = {
  you: 'left out by choice',
  rule: 'used up by a rule',
  reader: 'not read',
  format: 'not held by the format',
  system: 'outside the coordinate system',
};

/** What of all that was read crossed, and who caused the rest to stay. */
export function crossedOf(account: readonly AccountRow[], counted = 'record'): string {
  const { read, crossed, byYou, notCarried } = accountTotals(account);
  const rest = [byYou > 0 && `${number(byYou)} left out by choice`, notCarried > 0 && `${number(notCarried)} not carried`].filter(Boolean);
  return `${number(crossed)} of ${plural(read, counted)} that the sources hold crossed${rest.length > 0 ? `, ${rest.join(', ')}` : ''}.`;
}

/** What became of everything that the sources hold: a row a layer, and one a reason. @param text how it was counted */
export function accountSection(account: readonly AccountRow[], title: string, text: string): Report['sections'][number] {
  const rows = account.map((r): readonly Cell[] => [
    r.source,
    r.layer,
    { n: number(r.read) },
    { n: number(r.crossed) },
    { n: number(r.left.reduce((n, l) => n + l.count, 0) + r.missing) },
  ]);
  const reasons = account.flatMap((r) =>
    r.left.map((l): readonly Cell[] => [
      `${r.source}, ${r.layer}`,
      { n: number(l.count) },
      l.message,
      CAUSES[l.by],
      l.locations.slice(0, 8).map(number).join(', '),
    ]),
  );
  return {
    title,
    blocks: [
      {
        kind: 'text',
        small: true,
        text,
      },
      table(['Source', 'Layer', 'Read', 'Crossed', 'Left'], rows),
      ...(reasons.length > 0 ? [table(['Layer', 'Left', 'Why', 'By', 'Where in the source'], reasons)] : []),
    ],
  };
}
