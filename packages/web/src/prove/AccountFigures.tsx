import { Box, Text } from '@chakra-ui/react';
import { type AccountRow, accountTotals, type LeftBehind } from '@pontrel/core/content/account';
import type { Cause } from '@pontrel/core/model/reason';
import { grouped } from '../components/numbers';
import { FoldingSection } from '../components/FoldingSection';
import { Mono, Muted } from '../components/parts';

/** In whose hands it was, for people. */
const CAUSES: Record<Cause, string> = {
  you: 'left out by you',
  rule: 'used up by a rule',
  reader: 'not read',
  format: 'not held by the format',
  system: 'outside the system',
};

/** Whether a person chose it: then it is excluded, and not lost. */
const isChosen = (by: Cause): boolean => by === 'you' || by === 'rule';

/** A reader speaks of one thing at a time, and says itself that it was not read. */
const sentenceOf = ({ by, count, message }: LeftBehind): string =>
  by === 'reader' ? `${grouped(count)} × ${message.replace(/\.$/, '')}` : `${message}: ${CAUSES[by]}`;

/** Locations that are named of each reason. */
const NAMED = 4;

/** What became of everything that was read, layer by layer, with the reasons of what stayed behind. */
export function AccountFigures({ account }: { account: readonly AccountRow[] }) {
  const totals = accountTotals(account);
  const several = new Set(account.map((r) => r.source)).size > 1;
  return (
    <FoldingSection name="prove.account" title="Account" aside="read = crossed + left">
      <Box maxH="230px" overflowY="auto" scrollbarWidth="thin" tabIndex={0} role="group" aria-label="Account of every layer">
        <table aria-label="Account">
          <thead>
            <tr>
              <th>Layer</th>
              <th className="number">Read</th>
              <th className="number">Crossed</th>
              <th className="number">Left</th>
            </tr>
          </thead>
          <tbody>
            {account.map((row) => (
              <Row key={`${row.source}\n${row.layer}`} row={row} several={several} />
            ))}
          </tbody>
          <tfoot>
            <tr>
              <td>All</td>
              <td className="number">{grouped(totals.read)}</td>
              <td className="number">{grouped(totals.crossed)}</td>
              <td className="number">{grouped(totals.byYou + totals.notCarried)}</td>
            </tr>
          </tfoot>
        </table>
      </Box>
    </FoldingSection>
  );
}

function Row({ row, several }: { row: AccountRow; several: boolean }) {
  const left = row.left.reduce((n, l) => n + l.count, 0);
  const lost = row.missing > 0 || row.left.some((l) => !isChosen(l.by));
  return (
    <>
      <tr>
        <Box asChild maxW="112px" truncate>
          <td title={several ? `${row.layer} of ${row.source}` : row.layer}>
            <Mono>{row.layer}</Mono>
          </td>
        </Box>
        <td className="number">{grouped(row.read)}</td>
        <td className="number">{grouped(row.crossed)}</td>
        <td className="number">
          {left === 0 ? (
            <Muted>0</Muted>
          ) : (
            <Box as="span" color={lost ? 'madderInk' : 'muted'} fontWeight={lost ? 700 : 450}>
              {grouped(left)}
            </Box>
          )}
        </td>
      </tr>
      {(row.left.length > 0 || row.missing > 0) && (
        <tr>
          <td colSpan={4}>
            {row.left.map((l) => (
              <Text key={l.by + l.reason} textStyle="small" color={isChosen(l.by) ? 'muted' : 'madderInk'}>
                {sentenceOf(l)}
                {l.locations.length > 0 && (
                  <Mono>
                    {' '}
                    ({l.locations.slice(0, NAMED).join(', ')}
                    {l.count > NAMED ? ' …' : ''})
                  </Mono>
                )}
              </Text>
            ))}
            {row.missing > 0 && (
              <Text textStyle="small" color="madderInk" fontWeight={700}>
                {grouped(row.missing)} did not arrive, and nothing says why
              </Text>
            )}
          </td>
        </tr>
      )}
    </>
  );
}
