import type { ReactNode } from 'react';
import { Box, Flex } from '@chakra-ui/react';
import { Mono, Muted, type Tone, ToneIcon } from './parts';

/** What is told of a file or a part of a recipe: how it stands, what it is called, and why. */
export function ToldRow({ tone, name, children }: { tone: Tone; name: ReactNode; children: ReactNode }) {
  return (
    <Flex gap="10px" py="6px" borderTopWidth="1px" borderColor="hairline" align="flex-start">
      <Box pt="1px">
        <ToneIcon tone={tone} />
      </Box>
      <Box minW="0">
        <Mono overflowWrap="anywhere">{name}</Mono>
        {children !== null && (
          <Muted display="block" textStyle="small">
            {children}
          </Muted>
        )}
      </Box>
    </Flex>
  );
}
