import { Box, Flex } from '@chakra-ui/react';
import { Mono, Muted } from '../components/parts';
import { HEIGHT_TONES } from '../map/height-tones';
import { useAppSelector } from '../state/store';

/** What the colours of a ground on the map mean. @param lowest and @param highest in metres */
export function HeightBar({ lowest, highest }: { lowest: number; highest: number }) {
  const night = useAppSelector((s) => s.ui.night);
  const stops = HEIGHT_TONES[night ? 'night' : 'day'].map((tone) => `{colors.${tone}}`).join(', ');
  return (
    <Box px="14px" pt="8px" flex="none">
      <Box
        h="8px"
        borderRadius="2px"
        borderWidth="1px"
        borderColor="hairline"
        css={{ backgroundImage: `linear-gradient(90deg, ${stops})` }}
      />
      <Flex justify="space-between" align="baseline" mt="2px">
        <Mono>{lowest.toFixed(2)} m</Mono>
        <Muted textStyle="small">height</Muted>
        <Mono>{highest.toFixed(2)} m</Mono>
      </Flex>
    </Box>
  );
}
