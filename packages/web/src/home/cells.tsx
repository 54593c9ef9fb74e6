import { useState } from 'react';
import { Box, Button, Flex, Input, Menu, Portal, Text } from '@chakra-ui/react';
import { Archive, Copy, Ellipsis, Pencil, Trash2 } from 'lucide-react';
import { Link } from 'react-router';
import type { CrossingRow } from '@pontrel/contract/crossing';
import { SmallDeck } from '../app/Deck';
import { clock, day, grouped, plural } from '../components/numbers';
import { Chip, FateBar, ICON, Mono, Muted, ToneIcon } from '../components/parts';
import { ThumbnailView } from '../components/SmallPlanView';
import { messageOfError, useCopyMutation, useRemoveMutation, useRenameMutation } from '../state/api';
import { useAppDispatch, useAppSelector } from '../state/store';
import { noticeGiven, renamingIn } from '../state/ui';
import { standingOf } from './crossing-states';

const AT = ['Gather', 'Place', 'Shape', 'Deliver', 'Prove'];
const PATHS = ['gather', 'place', 'shape', 'deliver', 'prove'];

interface Of {
  row: CrossingRow;
}

/** Its largest layer, small. */
export const Plan = ({ row: { plan } }: Of) => (
  <Box w="62px" h="40px" overflow="hidden">
    {plan ? <ThumbnailView plan={plan} /> : <Box h="40px" bg="map" borderWidth="1px" borderColor="hairline" />}
  </Box>
);

/** Its name, which leads to where it stands, or is changed where it stands. */
export function Named({ row: r }: Of) {
  const { next } = standingOf(r);
  const renaming = useAppSelector((s) => s.ui.renaming === r.id);
  return (
    <>
      {renaming ? (
        <Rename row={r} />
      ) : (
        <Box
          asChild
          display="block"
          fontWeight={650}
          fontSize="13.5px"
          truncate
          _before={{ content: '""', position: 'absolute', inset: 0 }}
        >
          <Link to={`/crossings/${r.id}/${PATHS[next < 0 ? 4 : next]}`}>{r.name}</Link>
        </Box>
      )}
      <Text color="muted" textStyle="small" truncate title={r.sources.join(', ')}>
        {r.sources.join(', ') || 'no source yet'}
      </Text>
    </>
  );
}

function Rename({ row: r }: Of) {
  const [rename] = useRenameMutation();
  const dispatch = useAppDispatch();
  const [text, setText] = useState(r.name);
  const done = (save: boolean): void => {
    if (save && text.trim() !== '' && text.trim() !== r.name) void rename({ id: r.id, name: text.trim() });
    dispatch(renamingIn(null));
  };
  return (
    <Input
      size="sm"
      h="24px"
      autoFocus
      position="relative"
      fontWeight={650}
      aria-label={`Name of ${r.name}`}
      maxLength={80}
      value={text}
      onFocus={(e) => e.target.select()}
      onChange={(e) => setText(e.target.value)}
      onBlur={() => done(true)}
      onKeyDown={(e) => {
        if (e.key === 'Enter') done(true);
        if (e.key === 'Escape') done(false);
      }}
    />
  );
}

/** Its reference frame. */
export const SystemCell = ({ row: { frame } }: Of) =>
  frame ? (
    <>
      <Mono display="block" truncate fontSize="11.5px">
        {frame.name}
      </Mono>
      <Mono color="muted" fontSize="11.5px">
        {frame.label} · {frame.unit}
      </Mono>
    </>
  ) : (
    <Text color="muted">not chosen yet</Text>
  );

/** What goes in, and what comes out. */
export const InAndOut = ({ row: r }: Of) => (
  <>
    <Text whiteSpace="nowrap" title={plural(r.records, 'record')}>
      {plural(r.sources.length, 'source')}
    </Text>
    <Text color="muted" textStyle="small" whiteSpace="nowrap">
      → {r.deliverables === 0 ? 'no deliverable' : plural(r.deliverables, 'deliverable')}
    </Text>
  </>
);

/** Its stages as a small bridge. */
export function StagesCell({ row }: Of) {
  const { states, next } = standingOf(row);
  return (
    <>
      <SmallDeck states={states} />
      <Text color="muted" textStyle="small" mt="-2px">
        {next < 0 ? 'all five passed' : `at ${AT[next]}`}
      </Text>
    </>
  );
}

/** What its last proofs say, and the account of what was read. */
export function Proof({ row: r }: Of) {
  const { ran, stale } = standingOf(r);
  if (ran === 0) return <Text color="muted">not run</Text>;
  const { account } = r;
  return (
    <>
      <Flex align="center" gap="5px" whiteSpace="nowrap" mb="2px">
        <ToneIcon tone={r.runs.differs > 0 || stale > 0 ? 'caution' : 'good'} size={13} />
        <Text fontWeight={600}>{r.runs.differs > 0 ? `${r.runs.differs} differ` : stale > 0 ? 'rules changed' : 'match'}</Text>
        <Box flex="1" />
        <Muted textStyle="small">
          {ran < r.deliverables ? `${ran} of ${r.deliverables} run` : account && `${grouped(account.crossed)} of ${grouped(account.read)}`}
        </Muted>
      </Flex>
      {account && (
        <FateBar unchanged={account.crossed} changed={0} excluded={account.byYou} left={account.notCarried + account.missing} height={5} />
      )}
    </>
  );
}

/** When it was opened last. */
export const Opened = ({ row: { opened } }: Of) => (
  <>
    {day(opened)}
    <Mono display="block" color="muted" fontSize="11.5px">
      {clock(opened)}
    </Mono>
  </>
);

/** A crossing that cannot be opened, with what can be done about it. */
export const DamagedCrossing = ({ row: r }: Of) => (
  <Flex role="cell" gridColumn="1 / 8" gap="12px" align="center" minW="0">
    <Text fontWeight={650} fontSize="13.5px" flex="none">
      {r.name}
    </Text>
    <Chip tone="caution" icon={<ToneIcon tone="caution" size={12} />}>
      cannot be opened
    </Chip>
    <Text truncate title={r.damaged ?? ''}>
      {r.damaged}
    </Text>
  </Flex>
);

/** The last cell of a row. */
export const Last = ({ row }: Of) => (
  <Box role="cell">
    <RowActions row={row} />
  </Box>
);

/** What can be done with a crossing: renamed, copied, saved as one file, put into the bin. */
export function RowActions({ row: r }: Of) {
  const [remove] = useRemoveMutation();
  const [copy] = useCopyMutation();
  const [renames, setRenames] = useState(false);
  const dispatch = useAppDispatch();
  const told = (work: Promise<unknown>, message: string): void =>
    void work
      .then(() => dispatch(noticeGiven({ tone: 'good', message })))
      .catch((e: unknown) => dispatch(noticeGiven({ tone: 'wrong', message: messageOfError(e) })));
  return (
    <Flex position="relative" justify="flex-end">
      <Menu.Root
        positioning={{ placement: 'bottom-end' }}
        onExitComplete={() => {
          // the menu gives the focus back when it closes, and a name that is changed needs it
          if (renames) dispatch(renamingIn(r.id));
          setRenames(false);
        }}
      >
        <Menu.Trigger asChild>
          <Button size="sm" variant="ghost" px="0" minW="26px" color="muted" aria-label={`More about ${r.name}`}>
            <Ellipsis {...ICON} size={16} />
          </Button>
        </Menu.Trigger>
        <Portal>
          <Menu.Positioner>
            <Menu.Content minW="210px">
              {r.damaged === null && (
                <>
                  <Menu.Item value="rename" onClick={() => setRenames(true)}>
                    <Pencil {...ICON} size={14} />
                    Rename
                  </Menu.Item>
                  <Menu.Item value="copy" onClick={() => told(copy(r.id).unwrap(), `${r.name} is copied, with its files, rules and runs.`)}>
                    <Copy {...ICON} size={14} />
                    Duplicate
                  </Menu.Item>
                  <Menu.Item value="save" asChild>
                    <a href={`/api/crossings/${r.id}/saved`} download aria-label={`Save ${r.name} as one file`}>
                      <Archive {...ICON} size={14} />
                      Save as one file
                    </a>
                  </Menu.Item>
                </>
              )}
              <Menu.Item
                value="bin"
                aria-label={`Put ${r.name} into the bin`}
                onClick={() => told(remove(r.id).unwrap(), `${r.name} lies in the bin, with its files, rules and runs.`)}
              >
                <Trash2 {...ICON} size={14} />
                Put into the bin
              </Menu.Item>
            </Menu.Content>
          </Menu.Positioner>
        </Portal>
      </Menu.Root>
    </Flex>
  );
}
