import { Box, Flex, Grid, Text } from '@chakra-ui/react';
import { TextButton } from '../components/TextButton';
import { Muted } from '../components/parts';

const STAGES: readonly [string, string][] = [
  ['Gather', 'drawings, layers, images, tables'],
  ['Place', 'where on earth each of them lies'],
  ['Shape', 'what crosses, and how'],
  ['Deliver', 'the files to hand over'],
  ['Prove', 'read back, and compared'],
];

/** What a crossing is, in a sentence, and its five stages as the piers of a bridge. */
export function WhatItIs({ onHide }: { onHide(): void }) {
  return (
    <Grid
      as="section"
      aria-label="What a crossing is"
      templateColumns="minmax(210px, 300px) minmax(0, 1fr) auto"
      gap="22px"
      alignItems="center"
      px="16px"
      py="12px"
      mb="12px"
      flex="none"
      borderWidth="1px"
      borderColor="hairline"
      borderRadius="sheet"
      bg="surface"
    >
      <Text fontSize="14px" lineHeight="1.5">
        A <b>crossing</b> is one job: files come in, are carried across into the formats that you need, and are read back to prove that{' '}
        <b>nothing was lost</b>.
      </Text>
      <Box position="relative">
        <Box position="absolute" left="4%" right="4%" top="27px" borderTopWidth="3px" borderTopStyle="double" borderColor="ink" />
        <Grid templateColumns="repeat(5, minmax(0, 1fr))" textAlign="center" position="relative">
          {STAGES.map(([name, what], k) => (
            <Flex key={name} direction="column" align="center" px="4px">
              <Text fontWeight={650} mb="3px">
                {name}
              </Text>
              <Box
                w="20px"
                h="20px"
                lineHeight="18px"
                bg="surface"
                borderWidth="1px"
                borderColor="ink"
                fontFamily="mono"
                fontSize="11.5px"
                fontWeight={600}
              >
                {k + 1}
              </Box>
              <Muted textStyle="small" mt="3px">
                {what}
              </Muted>
            </Flex>
          ))}
        </Grid>
      </Box>
      <TextButton alignSelf="start" onClick={onHide}>
        Hide
      </TextButton>
    </Grid>
  );
}
