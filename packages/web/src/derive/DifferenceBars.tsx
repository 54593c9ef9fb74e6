import { Box, Flex } from '@chakra-ui/react';
import type { SourceState } from '@pontrel/contract/crossing';
import { AREAS } from '@pontrel/core/content/parcels/measures';
import { settingsOf } from '@pontrel/core/crossing/derive-records';
import { useCrossing } from '../crossing/use-crossing';
import { Bars } from '../components/Bars';
import { grouped } from '../components/numbers';
import { Mono, Muted } from '../components/parts';
import { useStatisticsQuery } from '../state/api';

const WIDTH = 246,
  HEIGHT = 46;

const squareMetres = (v: number): string => `${grouped(v, 2)} m²`;

/** How computed areas differ from those that are stated; bars that are wholly within the tolerance are green. */
export function DifferenceBars({ source }: { source: SourceState }) {
  const { id } = useCrossing();
  const { name, settings } = source.derived!;
  const { currentData: s } = useStatisticsQuery({ id, source: source.id, layer: name, field: 'area_diff' });
  if (!s?.numbers || s.numbers.count === 0) return null;
  const { bins, lowest, highest, count } = s.numbers;
  const within = Number(settingsOf(AREAS, settings).tolerance);
  return (
    <Box px="14px" pt="8px" flex="none">
      <Muted textStyle="small" display="block" mb="3px">
        Computed less stated
      </Muted>
      <Bars
        bins={bins}
        lowest={lowest}
        highest={highest}
        width={WIDTH}
        height={HEIGHT}
        figure={squareMetres}
        label={`How ${grouped(count)} differences lie between ${squareMetres(lowest)} and ${squareMetres(highest)}`}
        toneOf={(from, to) => (Math.max(Math.abs(from), Math.abs(to)) <= within ? 'verdigris' : 'amber')}
      />
      <Flex justify="space-between" gap="8px">
        <Mono>{squareMetres(lowest)}</Mono>
        <Mono>{squareMetres(highest)}</Mono>
      </Flex>
    </Box>
  );
}
