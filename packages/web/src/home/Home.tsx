import { useEffect, useState } from 'react';
import { Box, Button, Flex, Grid, Input, Text } from '@chakra-ui/react';
import { Download, Plus, Search, Table } from 'lucide-react';
import { asTable } from '../gather/pasted-table';
import { PasteTable } from '../gather/PasteTable';
import { chooseFiles, useTakeFiles } from '../app/files';
import { Mark } from '../app/Mark';
import { Bin } from './Bin';
import { Tools } from '../app/Tools';
import { Choice, Empty, ICON, Mono } from '../components/parts';
import { READ } from '../components/read-formats';
import { messageOfError, useCrossingsQuery } from '../state/api';
import { CrossingTable } from './CrossingTable';
import { isProved } from './crossing-states';
import { RecentRuns } from './RecentRuns';
import { WhatItIs } from './WhatItIs';

type Which = 'all' | 'todo' | 'proved';

/** What is kept of Home on this machine: whether it says what a crossing is. */
const TOLD = 'pontrel-home-told';

export function Home() {
  const { data: rows, error } = useCrossingsQuery();
  const [text, setText] = useState('');
  const take = useTakeFiles();
  const [which, setWhich] = useState<Which>('all');
  const [told, setTold] = useState(() => localStorage.getItem(TOLD) === 'yes');
  const proved = rows?.filter(isProved).length ?? 0;
  const found = rows?.filter(
    (r) =>
      `${r.name} ${r.frame?.label} ${r.frame?.name} ${r.sources.join(' ')}`.toLowerCase().includes(text.trim().toLowerCase()) &&
      (which === 'all' || isProved(r) === (which === 'proved')),
  );
  const start = (): void => chooseFiles((files) => void take(files));
  const [pasted, setPasted] = useState<string | null>(null);
  useEffect(() => {
    const onPaste = (e: ClipboardEvent): void => {
      const within = e.target instanceof HTMLElement && e.target.closest('input, textarea');
      if (within) return;
      const text = e.clipboardData?.getData('text/plain') ?? '';
      const { rows, columns } = asTable(text);
      // rows that are pasted anywhere but into a field are a table
      if (rows > 1 && columns > 1) setPasted(text);
    };
    document.addEventListener('paste', onPaste);
    return () => document.removeEventListener('paste', onPaste);
  }, []);
  return (
    <Grid h="100vh" templateRows="60px minmax(0, 1fr)" templateColumns="minmax(0, 1fr)">
      <Flex as="header" align="center" gap="12px" px="24px" borderBottomWidth="1px" borderColor="line">
        <Mark />
        <Text fontSize="19px" fontWeight={700} letterSpacing="-0.01em">
          Pontrel
        </Text>
        <Box flex="1" />
        <Flex position="relative" align="center" w="280px">
          <Box position="absolute" left="9px" color="muted" pointerEvents="none" zIndex="1">
            <Search {...ICON} />
          </Box>
          <Input
            pl="31px"
            aria-label="Find a crossing"
            placeholder="Find a crossing, file or EPSG code"
            value={text}
            onChange={(e) => setText(e.target.value)}
          />
        </Flex>
        <Tools />
      </Flex>
      <Grid
        minH="0"
        px="24px"
        pb="12px"
        w="100%"
        maxW="1640px"
        mx="auto"
        gap="16px"
        templateColumns={{ base: 'minmax(0, 1fr)', xl: 'minmax(0, 1fr) 268px' }}
      >
        <Flex as="main" direction="column" minH="0" pt="12px">
          {!told && (
            <WhatItIs
              onHide={() => {
                localStorage.setItem(TOLD, 'yes');
                setTold(true);
              }}
            />
          )}
          <Flex align="center" h="44px" gap="12px" flex="none">
            <Text as="h1" fontSize="17px" fontWeight={650}>
              Crossings
            </Text>
            <Mono color="muted">{rows?.length ?? ''}</Mono>
            {rows && rows.length > 1 && (
              <Choice<Which>
                small
                label="Which crossings"
                value={which}
                onChange={setWhich}
                options={[
                  { value: 'all', label: `All ${rows.length}` },
                  { value: 'todo', label: `To do ${rows.length - proved}` },
                  { value: 'proved', label: `Proved ${proved}` },
                ]}
              />
            )}
            <Box flex="1" />
            <Bin />
            <Button onClick={() => setPasted('')}>
              <Table {...ICON} />
              Paste a table
            </Button>
            <Button variant="solid" onClick={start} aria-keyshortcuts="n">
              <Plus {...ICON} />
              New crossing
            </Button>
          </Flex>
          <Box flex="0 1 auto" minH="0" overflowY="auto" borderWidth="1px" borderColor="hairline" borderRadius="sheet" bg="surface">
            {error ? (
              <Empty title="The crossings cannot be shown">{messageOfError(error)}</Empty>
            ) : rows && rows.length === 0 ? (
              <Box h="300px">
                <Empty title="No crossing yet" action={<Button onClick={start}>Choose files</Button>}>
                  Drop drawings or map files anywhere on this page, or paste a table. Pontrel reads them, shows what is in them, and takes
                  it across.
                </Empty>
              </Box>
            ) : (
              found && (
                <>
                  <CrossingTable rows={found} />
                  {found.length === 0 && (
                    <Box p="24px" color="muted" textAlign="center">
                      {text.trim() === '' ? 'No crossing is like that.' : `No crossing has “${text}” in its name, files or frame.`}
                    </Box>
                  )}
                </>
              )
            )}
          </Box>
          <Flex
            asChild
            align="center"
            justify="center"
            gap="10px"
            mt="12px"
            px="14px"
            py="8px"
            minH="54px"
            flex="none"
            borderWidth="1px"
            borderStyle="dashed"
            borderColor="ghost"
            borderRadius="sheet"
            color="muted"
            cursor="pointer"
            _hover={{ bg: 'surface' }}
          >
            <button type="button" onClick={start}>
              <Box color="ink">
                <Download {...ICON} />
              </Box>
              <Text color="ink" fontWeight={600} flex="none">
                Drop files anywhere to start a crossing
              </Text>
              <Text minW="0" textAlign="start">
                {READ}
              </Text>
            </button>
          </Flex>
        </Flex>
        <RecentRuns />
      </Grid>
      {pasted !== null && <PasteTable open others={[]} pasted={pasted} onClose={() => setPasted(null)} />}
    </Grid>
  );
}
