import { Box, Flex, Text } from '@chakra-ui/react';
import { Link } from 'react-router';
import type { RecentRun } from '@pontrel/contract/crossing';
import { clock, day, grouped, plural } from '../components/numbers';
import { Mono, Muted, Scroll } from '../components/parts';
import { useRecentRunsQuery } from '../state/api';

const TONES = { match: 'verdigrisInk', differs: 'amberInk', failed: 'madderInk' } as const;

/** The runs of the last days of all crossings, day by day; each leads to its proof. */
export function RecentRuns() {
  const { data } = useRecentRunsQuery();
  const days = new Map<string, RecentRun[]>();
  for (const run of data ?? []) days.set(day(run.finished), [...(days.get(day(run.finished)) ?? []), run]);
  return (
    <Flex as="aside" aria-label="Runs of the last days" direction="column" minH="0" display={{ base: 'none', xl: 'flex' }}>
      <Flex align="center" h="44px" flex="none">
        <Text as="h2" fontSize="14px" fontWeight={650}>
          Runs of the last days
        </Text>
      </Flex>
      <Box
        flex="0 1 auto"
        minH="0"
        display="flex"
        borderWidth="1px"
        borderColor="hairline"
        borderRadius="sheet"
        bg="surface"
        overflow="hidden"
      >
        <Scroll px="12px" py="8px" tabIndex={0} role="region" aria-label="Runs">
          {data?.length === 0 && <Muted>Nothing has been run yet. What is run is listed here, with what its proof says.</Muted>}
          {[...days].map(([name, runs]) => (
            <Box key={name} mb="6px">
              <Muted display="block" textStyle="small" mb="2px">
                {name}
              </Muted>
              {runs.map((r) => (
                <Flex key={r.id} gap="9px" py="4px" align="baseline" position="relative" _hover={{ bg: 'verdigrisTint/50' }}>
                  <Mono color="muted" fontSize="11.5px" flex="none">
                    {clock(r.finished)}
                  </Mono>
                  <Box minW="0" flex="1">
                    <Flex justify="space-between" gap="6px">
                      <Box asChild fontWeight={600} truncate _before={{ content: '""', position: 'absolute', inset: 0 }}>
                        <Link
                          to={`/crossings/${r.crossing}/prove?deliverable=${r.deliverable}`}
                          aria-label={`The proof of ${r.name} of ${r.crossingName}, ${clock(r.finished)}`}
                        >
                          {r.crossingName}
                        </Link>
                      </Box>
                      <Box as="span" color={TONES[r.status]} fontWeight={600} flex="none">
                        {r.status}
                      </Box>
                    </Flex>
                    <Muted textStyle="small" display="block" truncate title={r.name}>
                      {r.name}, {r.size ? `${grouped(r.size.width)} × ${grouped(r.size.height)} px` : plural(r.records ?? 0, 'record')},{' '}
                      {r.seconds.toFixed(1)} s
                    </Muted>
                  </Box>
                </Flex>
              ))}
            </Box>
          ))}
        </Scroll>
      </Box>
    </Flex>
  );
}
