import { useEffect, useState } from 'react';
import { Box, Button, Flex, Grid, Input, Text } from '@chakra-ui/react';
import { Archive, ArrowRight, Download, Plus, Search, Table, Trash2 } from 'lucide-react';
import { Link } from 'react-router';
import type { CrossingRow } from '@pontrel/contract/crossing';
import { asTable } from '../gather/pasted-table';
import { PasteTable } from '../gather/PasteTable';
import { SmallDeck } from '../app/Deck';
import { chooseFiles, useTakeFiles } from '../app/files';
import { Mark } from '../app/Mark';
import { Bin } from './Bin';
import { Tools } from '../app/Tools';
import { clock, day, plural } from '../components/numbers';
import { Chip, Empty, ICON, Mono, ToneIcon } from '../components/parts';
import { READ } from '../components/read-formats';
import { ThumbnailView } from '../components/SmallPlanView';
import { messageOfError, useCrossingsQuery, useRemoveMutation } from '../state/api';
import { useAppDispatch } from '../state/store';
import { noticeGiven } from '../state/ui';

const COLUMNS = {
  base: '96px minmax(150px, 1.4fr) minmax(96px, 1fr) 168px 122px 112px 64px 56px',
  xl: '132px minmax(180px, 1.4fr) minmax(150px, 1fr) minmax(172px, 1fr) 134px 124px 88px 60px',
};
const ROW = {
  role: 'row',
  templateColumns: COLUMNS,
  gap: { base: '12px', xl: '14px' },
  px: '12px',
  py: '8px',
  alignItems: 'center',
  borderBottomWidth: '1px',
  borderColor: 'hairline',
  _last: { borderBottomWidth: 0 },
} as const;

export function Home() {
  const { data: rows, error } = useCrossingsQuery();
  const [text, setText] = useState('');
  const take = useTakeFiles();
  const found = rows?.filter((r) =>
    `${r.name} ${r.frame?.label} ${r.frame?.name} ${r.sources.join(' ')}`.toLowerCase().includes(text.trim().toLowerCase()),
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
      <Flex as="main" direction="column" minH="0" px="24px" pb="12px" w="100%" maxW="1640px" mx="auto">
        <Flex align="center" h="56px" gap="12px" flex="none">
          <Text as="h1" fontSize="17px" fontWeight={650}>
            Crossings
          </Text>
          <Mono color="muted">{rows?.length ?? ''}</Mono>
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
                Drop drawings or map files anywhere on this page, or paste a table. Pontrel reads them, shows what is in them, and takes it
                across.
              </Empty>
            </Box>
          ) : (
            <Box role="table" aria-label="Crossings">
              <Grid
                role="row"
                templateColumns={COLUMNS}
                gap={{ base: '12px', xl: '14px' }}
                px="12px"
                h="30px"
                alignItems="center"
                position="sticky"
                top="0"
                bg="surface"
                zIndex="1"
                fontSize="11.5px"
                color="muted"
                fontWeight={550}
                borderBottomWidth="1px"
                borderColor="line"
              >
                {['Plan', 'Crossing', 'Reference frame', 'Sources to deliverables', 'Stages', 'Last proof', 'Opened', ''].map((h) => (
                  <span role="columnheader" key={h || 'more'}>
                    {h}
                  </span>
                ))}
              </Grid>
              {found?.map((row) => (row.damaged === null ? <Row key={row.id} row={row} /> : <DamagedRow key={row.id} row={row} />))}
              {found?.length === 0 && (
                <Box p="24px" color="muted" textAlign="center">
                  No crossing has “{text}” in its name, files or frame.
                </Box>
              )}
            </Box>
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
      {pasted !== null && <PasteTable open others={[]} pasted={pasted} onClose={() => setPasted(null)} />}
    </Grid>
  );
}

function statesOf(r: CrossingRow): ('done' | 'caution' | 'todo')[] {
  const ran = r.runs.match + r.runs.differs;
  return [
    r.sources.length > 0 ? 'done' : 'todo',
    r.placed > 0 && r.placed === r.sources.length ? 'done' : 'todo',
    r.deliverables > 0 && r.taken > 0 ? 'done' : 'todo',
    r.deliverables > 0 && ran === r.deliverables ? 'done' : 'todo',
    ran === 0 ? 'todo' : r.runs.differs > 0 || r.runs.current < ran ? 'caution' : 'done',
  ];
}

const AT = ['Gather', 'Place', 'Shape', 'Deliver', 'Prove'];
const PATHS = ['gather', 'place', 'shape', 'deliver', 'prove'];

function Row({ row: r }: { row: CrossingRow }) {
  const states = statesOf(r);
  const next = states.findIndex((s) => s !== 'done');
  const ran = r.runs.match + r.runs.differs;
  const stale = ran - r.runs.current;
  return (
    <Grid {...ROW} position="relative" _hover={{ bg: 'verdigrisTint/50' }}>
      <Box role="cell">{r.plan ? <ThumbnailView plan={r.plan} /> : <Box h="82px" bg="map" borderWidth="1px" borderColor="hairline" />}</Box>
      <Box role="cell" minW="0">
        <Box asChild fontWeight={650} fontSize="13.5px" _before={{ content: '""', position: 'absolute', inset: 0 }}>
          <Link to={`/crossings/${r.id}/${PATHS[next < 0 ? 4 : next]}`}>{r.name}</Link>
        </Box>
        <Text color="muted" textStyle="small" truncate>
          {r.sources.join(', ') || 'no source yet'}
        </Text>
      </Box>
      <Box role="cell" minW="0">
        {r.frame ? (
          <>
            <Mono display="block" truncate>
              {r.frame.name}
            </Mono>
            <Mono color="muted">
              {r.frame.label} · {r.frame.unit}
            </Mono>
          </>
        ) : (
          <Text color="muted">not chosen yet</Text>
        )}
      </Box>
      <Box role="cell">
        <Flex align="center" gap="6px" whiteSpace="nowrap">
          <span>{plural(r.sources.length, 'source')}</span>
          <Box flex="none">
            <ArrowRight size={14} strokeWidth={1.5} />
          </Box>
          <span>{plural(r.deliverables, 'deliverable')}</span>
        </Flex>
        <Text color="muted" textStyle="small">
          {plural(r.records, 'record')}
        </Text>
      </Box>
      <Box role="cell">
        <SmallDeck states={states} />
        <Text color="muted" textStyle="small">
          {next < 0 ? 'all five passed' : `at ${AT[next]}`}
        </Text>
      </Box>
      <Box role="cell">
        {ran === 0 ? (
          <Chip>not run</Chip>
        ) : r.runs.differs > 0 ? (
          <Chip tone="caution" icon={<ToneIcon tone="caution" size={12} />}>
            differs
          </Chip>
        ) : stale > 0 ? (
          <Chip tone="caution">rules changed</Chip>
        ) : (
          <Chip tone="good" icon={<ToneIcon tone="good" size={12} />}>
            match
          </Chip>
        )}
        {ran > 0 && (
          <Text color="muted" textStyle="small" mt="2px">
            {r.runs.match} of {ran} match
          </Text>
        )}
      </Box>
      <Box role="cell">
        {day(r.opened)}
        <Mono display="block" color="muted">
          {clock(r.opened)}
        </Mono>
      </Box>
      <Delete row={r} />
    </Grid>
  );
}

/** A crossing that cannot be opened, with what can be done about it. */
function DamagedRow({ row: r }: { row: CrossingRow }) {
  return (
    <Grid {...ROW}>
      <Box role="cell" h="82px" bg="map" borderWidth="1px" borderColor="hairline" />
      <Box role="cell" minW="0">
        <Text fontWeight={650} fontSize="13.5px" mb="2px">
          {r.name}
        </Text>
        <Chip tone="caution" icon={<ToneIcon tone="caution" size={12} />}>
          cannot be opened
        </Chip>
      </Box>
      <Text role="cell" gridColumn="3 / 8">
        {r.damaged}
      </Text>
      <Delete row={r} />
    </Grid>
  );
}

function Delete({ row: r }: { row: CrossingRow }) {
  const [remove] = useRemoveMutation();
  const dispatch = useAppDispatch();
  const put = (): void =>
    void remove(r.id)
      .unwrap()
      .then(() => dispatch(noticeGiven({ tone: 'good', message: `${r.name} lies in the bin, with its files, rules and runs.` })))
      .catch((e: unknown) => dispatch(noticeGiven({ tone: 'wrong', message: messageOfError(e) })));
  return (
    <Flex role="cell" position="relative" justify="flex-end">
      {r.damaged === null && (
        <Button asChild size="sm" variant="ghost" px="0" color="muted">
          <a
            href={`/api/crossings/${r.id}/saved`}
            download
            aria-label={`Save ${r.name} as one file`}
            title="Save as one file, to open it on another machine"
          >
            <Archive {...ICON} size={15} />
          </a>
        </Button>
      )}
      <Button size="sm" variant="ghost" px="0" color="muted" aria-label={`Put ${r.name} into the bin`} title="Into the bin" onClick={put}>
        <Trash2 {...ICON} size={15} />
      </Button>
    </Flex>
  );
}
