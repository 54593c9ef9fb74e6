import { Box, Flex, Text } from '@chakra-ui/react';
import { Link } from 'react-router';
import type { Forecast } from '@pontrel/core/content/features/forecast';
import { useCrossing } from '../crossing/use-crossing';
import { accuracyText, lengthText, useLengthUnit } from '../components/length-unit';
import { plural } from '../components/numbers';
import { Mono, Muted, Note, Scroll } from '../components/parts';
import { AccountTable } from './AccountTable';

/** What a deliverable will change or leave behind, layer by layer, before it runs. */
export function ForecastTable({ forecast: f }: { forecast: Forecast }) {
  const { id, recipe } = useCrossing();
  const unit = useLengthUnit();
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
      <Flex gap="10px" mt="6px" mb="10px" wrap="wrap">
        <Fact title="Position">
          {f.paths.some((p) => p.problem)
            ? 'not known yet'
            : accuracy === 0
              ? 'no datum changes on the way'
              : accuracy === null
                ? 'accuracy of the datum change is not known'
                : `within ${accuracyText(accuracy)}, by the change of datum`}
        </Fact>
        <Fact title="Curves">
          {f.curves.records === 0
            ? 'none'
            : `${plural(f.curves.records, 'object')} as about ${plural(f.curves.vertices, 'chord')}, at most ${lengthText(recipe.chord_m, unit)} off`}
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
      <AccountTable forecast={f} />
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
    <Box flex="1 1 170px" borderWidth="1px" borderColor="hairline" borderRadius="sheet" bg="surface" px="11px" py="6px">
      <Text textStyle="section">{title}</Text>
      <Muted textStyle="small">{children}</Muted>
    </Box>
  );
}
