import { Box, Button, Flex, Grid, Text } from '@chakra-ui/react';
import { X } from 'lucide-react';
import type { FieldStatistics } from '@pontrel/contract/crossing';
import { Bars } from '../components/Bars';
import { grouped, shown } from '../components/numbers';
import { ICON, Mono, Muted } from '../components/parts';
import { messageOfError, useStatisticsQuery } from '../state/api';

const WIDTH = 252,
  HEIGHT = 62;

/** A figure with as many digits as say something. */
const figure = (v: number): string => shown(Number(v.toPrecision(6)));

/** What the records that are listed have in a field: how many have a value, which, and how numbers lie. */
export function ColumnStatistics({
  crossing,
  source,
  layer,
  field,
  where,
  onClose,
}: {
  crossing: string;
  source: string;
  layer: string;
  field: string;
  where: string | undefined;
  onClose(): void;
}) {
  const { currentData: s, error } = useStatisticsQuery({ id: crossing, source, layer, field, ...(where === undefined ? {} : { where }) });
  return (
    <Box
      role="region"
      aria-label={`Statistics of ${field}`}
      position="absolute"
      right="12px"
      top="34px"
      zIndex="4"
      w={`${WIDTH + 26}px`}
      maxH="calc(100% - 46px)"
      overflowY="auto"
      bg="surface"
      borderWidth="1px"
      borderColor="line"
      borderRadius="sheet"
      boxShadow="sm"
      px="12px"
      py="9px"
    >
      <Flex justify="space-between" align="center" gap="8px">
        <Mono fontWeight={600} truncate title={field}>
          {field}
        </Mono>
        <Button size="sm" variant="ghost" px="0" h="20px" minW="20px" aria-label="Close the statistics" onClick={onClose}>
          <X {...ICON} size={14} />
        </Button>
      </Flex>
      {error ? (
        <Text color="madderInk">{messageOfError(error)}</Text>
      ) : !s ? (
        <Muted>counting</Muted>
      ) : (
        <>
          <Muted textStyle="small" display="block" mb="5px">
            {grouped(s.filled)} of {grouped(s.records)} with a value, {grouped(s.distinct)} different
          </Muted>
          {s.numbers && <Numbers of={s.numbers} />}
          {(!s.numbers || s.distinct <= s.top.length) && <Top of={s} />}
        </>
      )}
    </Box>
  );
}

/** How numbers lie, with the figures that sum them up. */
function Numbers({ of: { count, lowest, highest, mean, sum, bins } }: { of: NonNullable<FieldStatistics['numbers']> }) {
  const rows: [string, string][] = [
    ['lowest', figure(lowest)],
    ['highest', figure(highest)],
    ['mean', figure(mean)],
    ['sum', figure(sum)],
  ];
  return (
    <>
      <Bars
        bins={bins}
        lowest={lowest}
        highest={highest}
        width={WIDTH}
        height={HEIGHT}
        figure={figure}
        label={`How ${grouped(count)} numbers lie between ${figure(lowest)} and ${figure(highest)}`}
      />
      <Grid templateColumns="auto 1fr auto 1fr" columnGap="8px" mt="5px">
        {rows.map(([name, value]) => (
          <Box key={name} display="contents">
            <Muted textStyle="small">{name}</Muted>
            <Mono textAlign="right">{value}</Mono>
          </Box>
        ))}
      </Grid>
    </>
  );
}

/** The most frequent values, with how many records have each. */
function Top({ of: { top, filled } }: { of: FieldStatistics }) {
  const most = top[0]?.count ?? 1;
  const told = top.reduce((n, t) => n + t.count, 0);
  return (
    <Box mt="6px">
      {top.map((t) => (
        <Grid key={`${typeof t.value} ${t.value}`} templateColumns="minmax(0, 1fr) 84px 44px" gap="8px" alignItems="center" h="21px">
          <Mono fontSize="11.5px" truncate title={String(t.value)}>
            {shown(t.value)}
          </Mono>
          <Box h="6px" bg="verdigris" borderRadius="2px" style={{ width: `${Math.max(2, (t.count / most) * 100)}%` }} />
          <Mono textAlign="right">{grouped(t.count)}</Mono>
        </Grid>
      ))}
      {told < filled && <Muted textStyle="small">{grouped(filled - told)} others</Muted>}
    </Box>
  );
}
