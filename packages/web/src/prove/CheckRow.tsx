import type { ReactNode } from 'react';
import { Box, Flex, Text } from '@chakra-ui/react';
import { Mono, type Tone, ToneIcon } from '../components/parts';

/** One thing that a proof looked at, its figure, and below it what differs. */
export function CheckRow({ name, figure, tone, children }: { name: string; figure: string; tone: Tone; children: ReactNode }) {
  return (
    <Box px="14px" py="5px" pl="38px" bg={tone === 'good' ? undefined : tone === 'caution' ? 'amberTint' : 'madderTint'}>
      <Flex align="center" gap="8px" ml="-24px">
        <ToneIcon tone={tone} />
        <Text flex="1" fontWeight={tone === 'good' ? 400 : 600}>
          {name}
        </Text>
        <Mono color="muted">{figure}</Mono>
      </Flex>
      {children}
    </Box>
  );
}
