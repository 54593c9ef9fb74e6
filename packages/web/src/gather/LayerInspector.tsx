import { useState } from 'react';
import { Box, Button, Flex, Grid, Text } from '@chakra-ui/react';
import { ChevronLeft, ChevronRight } from 'lucide-react';
import { Link } from 'react-router';
import { useCrossing } from '../crossing/use-crossing';
import { formatById } from '@pontrel/core/formats/index';
import { grouped, plural, shown } from '../components/numbers';
import { Chip, ICON, Mono, Muted, Scroll, Section } from '../components/parts';
import { recordsOf } from '../records/address';
import { useRecordsQuery } from '../state/api';
import { groupNames } from './entity-names';
import { FindingNotes, InspectorHead } from './InspectorHead';
import { ReadingPanel } from './ReadingPanel';
import type { LayerAt } from './layer-at';

/** What is in a layer: findings, objects, a record at a time, the size of the numbers. */
export function LayerInspector({ at, onTake }: { at: LayerAt; onTake(taken: boolean): void }) {
  const {
    source,
    layer: { profile },
  } = at;
  const { id } = useCrossing();
  const [index, setIndex] = useState(0);
  const { data } = useRecordsQuery({ id, source: source.id, layer: profile.name, offset: index, limit: 1 });
  const record = data?.records[0];
  const findings = source.findings.filter((f) => f.location === profile.name);
  const general = source.findings.filter((f) => f.location === undefined);
  const groups = groupNames(profile.groups);
  const most = groups[0]?.count ?? 1;
  const measured = profile.groups.reduce((n, g) => n + (g.measures?.records ?? 0), 0);
  const e = profile.extent;
  return (
    <Scroll>
      <Section>
        <InspectorHead name={profile.name} taken={at.taken} onTake={onTake}>
          {source.name} · {plural(profile.count, 'record')}
        </InspectorHead>
        <FindingNotes findings={[...findings, ...general]} />
      </Section>
      {source.readings.length > 0 && <ReadingPanel key={source.id} source={source} />}
      <Section title="Objects">
        {groups.map((g) => (
          <Grid key={g.entity + g.kind} templateColumns="112px 1fr 44px" alignItems="center" gap="8px" py="2px">
            <Text truncate title={g.entity}>
              {g.name}
            </Text>
            <Box h="7px" bg="verdigris" borderRadius="2px" w={`${Math.max(3, (g.count / most) * 100)}%`} />
            <Mono textAlign="right">{grouped(g.count)}</Mono>
            {g.curved > 0 && (
              <Muted textStyle="small" gridColumn="1 / -1" mt="-3px">
                {grouped(g.curved)} of them with arcs
              </Muted>
            )}
          </Grid>
        ))}
      </Section>
      <Section
        title="Attributes"
        aside={
          <Flex align="center" gap="2px">
            <Button
              size="sm"
              variant="ghost"
              px="0"
              h="20px"
              minW="20px"
              aria-label="Previous record"
              disabled={index === 0}
              onClick={() => setIndex(index - 1)}
            >
              <ChevronLeft {...ICON} size={14} />
            </Button>
            record {grouped(index + 1)} of {grouped(profile.count)}
            <Button
              size="sm"
              variant="ghost"
              px="0"
              h="20px"
              minW="20px"
              aria-label="Next record"
              disabled={index + 1 >= profile.count}
              onClick={() => setIndex(index + 1)}
            >
              <ChevronRight {...ICON} size={14} />
            </Button>
          </Flex>
        }
      >
        {record &&
          Object.entries(record.attributes).map(([name, value]) => (
            <Grid
              key={name}
              templateColumns="108px minmax(0, 1fr)"
              gap="8px"
              py="2.5px"
              borderTopWidth="1px"
              borderColor="hairline"
              _first={{ borderTopWidth: 0 }}
            >
              <Mono fontSize="11.5px" truncate title={name} color="muted">
                {name}
              </Mono>
              <Mono fontSize="11.5px" truncate title={String(value)}>
                {name === 'color' ? <Swatch color={String(value)} /> : null}
                {shown(value)}
              </Mono>
            </Grid>
          ))}
        <Box asChild display="inline-block" mt="6px" color="verdigrisInk" fontWeight={550} textDecoration="underline" minH="24px">
          <Link to={recordsOf(id, source.name, profile.name)}>All records as a table</Link>
        </Box>
        {record && (
          <Muted textStyle="small" display="block" mt="4px">
            {formatById(source.format)?.features.counts ?? 'record'} {grouped(record.place)} of the file
          </Muted>
        )}
      </Section>
      {e && (
        <Section title={`Extent as drawn${source.unit ? `, ${source.unit.name}s` : ''}`}>
          {(
            [
              ['East', e[0], e[2]],
              ['North', e[1], e[3]],
              ...(profile.zRange && (profile.zRange[0] !== 0 || profile.zRange[1] !== 0)
                ? [['Height', profile.zRange[0], profile.zRange[1]] as const]
                : []),
            ] as const
          ).map(([name, a, b]) => (
            <Grid key={name} templateColumns="46px 1fr 1fr" gap="8px" py="2px">
              <Muted>{name}</Muted>
              <Mono fontSize="11.5px" textAlign="right">
                {grouped(a, decimals(a, b))}
              </Mono>
              <Mono fontSize="11.5px" textAlign="right">
                {grouped(b, decimals(a, b))}
              </Mono>
            </Grid>
          ))}
          {measured > 0 && (
            <Muted textStyle="small" display="block" pt="4px">
              Measures (M) on the vertices of {measured === profile.count ? 'all ' : `${grouped(measured)} of `}
              {plural(profile.count, 'record')}
            </Muted>
          )}
        </Section>
      )}
      {source.crsText && (
        <Section title="Coordinate system, as stated">
          <Chip mono>{source.crs?.id ?? 'no code'}</Chip>
          <Text mt="6px" fontFamily="mono" fontSize="11px" lineHeight="15px" color="muted" overflowWrap="anywhere">
            {source.crsText}
          </Text>
        </Section>
      )}
    </Scroll>
  );
}

function decimals(a: number, b: number): number {
  const largest = Math.max(Math.abs(a), Math.abs(b));
  return largest >= 1e7 ? 0 : largest >= 1000 ? 2 : 3;
}

export function Swatch({ color }: { color: string }) {
  return (
    <Box
      as="span"
      display="inline-block"
      w="10px"
      h="10px"
      borderRadius="2px"
      mr="5px"
      verticalAlign="-1px"
      borderWidth="1px"
      borderColor="line"
      style={{ background: color }}
    />
  );
}
