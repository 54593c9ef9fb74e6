import { Box, Flex, Text } from '@chakra-ui/react';
import { Link } from 'react-router';
import type { Forecast } from '@pontrel/core/content/features/forecast';
import type { Effect } from '@pontrel/core/operations/operation';
import { excludedOf } from './fates';
import { useCrossing } from '../crossing/use-crossing';
import { grouped, length, plural } from '../components/numbers';
import { FateBar, Mono, Muted, Note, Scroll } from '../components/parts';

/** What could not be carried; what a person left out is not lost. */
const isLost = (e: Effect): boolean => e.effect === 'left' && e.by !== 'you';

const ORDER = { left: 0, changed: 1, told: 2 } as const;

/** What a deliverable will change or leave behind, layer by layer, before it runs. */
export function ForecastTable({ forecast: f }: { forecast: Forecast }) {
  const { id, recipe } = useCrossing();
  const accuracy = f.paths.reduce<number | null>(
    (worst, p) => (worst === null || p.accuracy_m === null ? null : Math.max(worst, p.accuracy_m)),
    0,
  );
  return (
    <Scroll px="16px" pb="12px" tabIndex={0} role="region" aria-label="Forecast, layer by layer">
      <Flex align="baseline" gap="8px" pt="10px" pb="2px">
        <Text as="h2" textStyle="title">
          Forecast
        </Text>
        <Muted>before running, from all {plural(f.totals.records, 'record')}</Muted>
      </Flex>
      {f.blocked.map((b) => (
        <Note key={b} tone="wrong" my="6px">
          {b}{' '}
          {b.includes('Shape') && (
            <Link to={`/crossings/${id}/shape`}>
              <u>Go to Shape</u>
            </Link>
          )}
          {b.includes('Place') && (
            <Link to={`/crossings/${id}/place`}>
              <u>Go to Place</u>
            </Link>
          )}
          {b.includes('Gather') && (
            <Link to={`/crossings/${id}/gather`}>
              <u>Go to Gather</u>
            </Link>
          )}
        </Note>
      ))}
      <Flex gap="10px" my="6px" wrap="wrap">
        <Fact title="Position">
          {f.paths.some((p) => p.problem)
            ? 'not known yet'
            : accuracy === 0
              ? 'no datum changes on the way'
              : accuracy === null
                ? 'accuracy of the datum change is not known'
                : `within ±${accuracy} m, by the change of datum`}
        </Fact>
        <Fact title="Curves">
          {f.curves.records === 0
            ? 'none'
            : `${plural(f.curves.records, 'object')} as about ${plural(f.curves.vertices, 'chord')}, at most ${length(recipe.chord_m)} off`}
        </Fact>
        <Fact title="Fields">
          <Box as="span" title={f.fields.renamed.map((x) => `${x.from} as ${x.to}`).join('\n')}>
            {f.fields.renamed.length === 0 && f.fields.changed === 0
              ? 'arrive as they are'
              : [
                  f.fields.renamed.length > 0 && `${f.fields.renamed.length} under another name, such as ${f.fields.renamed.at(-1)!.to}`,
                  f.fields.changed > 0 && `${f.fields.changed} changed`,
                ]
                  .filter(Boolean)
                  .join('; ')}
          </Box>
        </Fact>
      </Flex>
      <table aria-label="Forecast">
        <Box asChild position="sticky" top="0" bg="paper" zIndex="1">
          <thead>
            <tr>
              <th>Layer</th>
              <th className="number">Records</th>
              <th style={{ width: '16%' }} aria-label="Shares" />
              <th className="number">Unchanged</th>
              <th className="number">Changed</th>
              <th className="number">Left behind</th>
              <th style={{ width: '34%' }}>Reason</th>
            </tr>
          </thead>
        </Box>
        <tbody>
          {f.rows.map((r) => {
            const reasons = [...r.effects].sort((a, b) => ORDER[a.effect] - ORDER[b.effect]);
            return (
              <tr key={`${r.source}\n${r.layer}`}>
                <td>
                  <Mono whiteSpace="nowrap">{r.layer}</Mono>
                </td>
                <td className="number">{grouped(r.records)}</td>
                <td>
                  <FateBar unchanged={r.unchanged} changed={r.changed} excluded={excludedOf(r)} left={r.left - excludedOf(r)} height={7} />
                </td>
                <td className="number">
                  <Muted color={r.unchanged === 0 ? 'muted' : 'ink'}>{grouped(r.unchanged)}</Muted>
                </td>
                <td className="number">
                  <Muted color={r.changed === 0 ? 'muted' : 'amberInk'}>{grouped(r.changed)}</Muted>
                </td>
                <td className="number">
                  {r.left > 0 && r.left === excludedOf(r) ? (
                    <Muted title="left out by you">{grouped(r.left)}</Muted>
                  ) : r.left > 0 ? (
                    <Box as="span" color="madderInk" fontWeight={700} bg="madderTint" px="6px" py="1px" borderRadius="chip">
                      {grouped(r.left)}
                    </Box>
                  ) : (
                    <Muted>0</Muted>
                  )}
                </td>
                <td>
                  {reasons.map((e) => (
                    <Text
                      key={e.code + e.message}
                      textStyle="small"
                      color={isLost(e) ? 'madderInk' : 'muted'}
                      fontWeight={isLost(e) ? 550 : 400}
                    >
                      {e.message}
                      {e.by === 'you' && ' (left out by you)'}
                    </Text>
                  ))}
                </td>
              </tr>
            );
          })}
        </tbody>
        <Box asChild fontWeight={650} css={{ '& td': { borderTop: '1px solid', borderTopColor: 'ink', borderBottom: 0 } }}>
          <tfoot>
            <tr>
              <td>{plural(f.rows.length, 'layer')}</td>
              <td className="number">{grouped(f.totals.records)}</td>
              <td />
              <td className="number">{grouped(f.totals.unchanged)}</td>
              <td className="number">{grouped(f.totals.changed)}</td>
              <td className="number">
                {f.rows.some((r) => r.left > excludedOf(r)) ? (
                  <Box as="span" color="madderInk">
                    {grouped(f.totals.left)}
                  </Box>
                ) : (
                  0
                )}
              </td>
              <td />
            </tr>
          </tfoot>
        </Box>
      </table>
      {f.findings
        .filter((x) => !f.blocked.includes(x.message))
        .map((x) => (
          <Note key={x.code + x.message + x.location} tone={x.severity === 'wrong' ? 'wrong' : 'caution'} mt="8px">
            {x.location && <Mono>{x.location}: </Mono>}
            {x.message}
          </Note>
        ))}
    </Scroll>
  );
}

function Fact({ title, children }: { title: string; children: React.ReactNode }) {
  return (
    <Box flex="1 1 170px" borderWidth="1px" borderColor="hairline" borderRadius="sheet" bg="surface" px="11px" py="8px">
      <Text textStyle="section">{title}</Text>
      <Muted>{children}</Muted>
    </Box>
  );
}
