import { useEffect, useState } from 'react';
import { Box, Button, chakra, Flex, Grid, Input } from '@chakra-ui/react';
import { Link, Outlet, useLocation, useNavigate, useParams } from 'react-router';
import type { CrossingState } from '@pontrel/contract/crossing';
import { Deck } from '../app/Deck';
import { useKeys } from '../app/keys';
import { Mark } from '../app/Mark';
import { type Stage, STAGES, stagesOf } from '../app/stages';
import { Tools } from '../app/Tools';
import { Empty, Mono } from '../components/parts';
import { messageOfError, useCrossingQuery, useOpenedMutation, useRenameMutation } from '../state/api';
import { redo, undo } from '../state/recipe';
import { UndoButton } from './UndoButton';
import { useAppDispatch } from '../state/store';
import { jobsKnown } from '../state/ui';

/** The header with the deck, and the stage below it. */
export function Crossing() {
  const { id = '' } = useParams();
  const { data, error } = useCrossingQuery(id);
  const [opened] = useOpenedMutation();
  const dispatch = useAppDispatch();
  const navigate = useNavigate();
  const { pathname } = useLocation();
  const page = pathname.split('/')[3];
  const spanned = page === 'span';
  const stage = spanned || page === 'records' ? null : (STAGES.find((s) => page === s) ?? 'gather');
  useEffect(() => {
    void opened(id);
  }, [id, opened]);
  useEffect(() => {
    if (data) dispatch(jobsKnown(data.jobs));
  }, [data, dispatch]);
  useEffect(() => {
    if (data) document.title = `${data.name} – Pontrel`;
    return () => {
      document.title = 'Pontrel';
    };
  }, [data]);
  const to = (s: Stage | 'span') => (): void => void navigate(`/crossings/${id}/${s}`);
  useKeys({
    '1': to('gather'),
    '2': to('place'),
    '3': to('shape'),
    '4': to('deliver'),
    '5': to('prove'),
    s: to('span'),
    'ctrl+z': () => dispatch(undo(id)),
    'ctrl+shift+z': () => dispatch(redo(id)),
    'ctrl+y': () => dispatch(redo(id)),
  });
  if (error)
    return (
      <Empty
        title="This crossing cannot be opened"
        action={
          <Button asChild>
            <Link to="/">All crossings</Link>
          </Button>
        }
      >
        {messageOfError(error)}
      </Empty>
    );
  if (!data) return null;
  return (
    <Grid h="100vh" templateRows="92px minmax(0, 1fr)" templateColumns="minmax(0, 1fr)">
      <Grid
        as="header"
        templateColumns="minmax(0, 1fr) auto minmax(0, 1fr)"
        columnGap="12px"
        alignItems="center"
        px="16px"
        borderBottomWidth="1px"
        borderColor="line"
      >
        <Flex align="center" gap="8px" minW="0">
          <Box flex="1" minW="0">
            <Name crossing={data} />
          </Box>
          <UndoButton crossing={id} />
        </Flex>
        <Deck crossing={id} current={stage} stages={stagesOf(data)} />
        <Flex justify="flex-end" gap="8px">
          <chakra.a
            asChild
            px="10px"
            py="4px"
            borderWidth="1px"
            borderColor="line"
            borderRadius="sheet"
            bg="surface"
            minW="0"
            maxW="190px"
            _hover={{ bg: 'sunk' }}
          >
            <Link to={`/crossings/${id}/place`} title="Reference frame">
              <Mono display="block" fontSize="11.5px" lineHeight="15px" truncate>
                {data.frame?.name ?? 'No reference frame'}
              </Mono>
              <Mono display="block" fontSize="11px" lineHeight="14px" color="muted" truncate>
                {data.frame ? `${data.frame.label} · ${data.frame.unit}` : 'choose it in Place'}
              </Mono>
            </Link>
          </chakra.a>
          <Button
            asChild
            px="0"
            minW="32px"
            aria-label="Span"
            aria-keyshortcuts="s"
            {...(spanned ? { bg: 'verdigrisTint', borderColor: 'verdigris', color: 'verdigrisInk' } : {})}
          >
            <Link to={`/crossings/${id}/span`} title="Span: which records reach which deliverable">
              <SpanMark />
            </Link>
          </Button>
          <Tools />
        </Flex>
      </Grid>
      <Outlet context={data} />
    </Grid>
  );
}

/** Bands that part and join. */
function SpanMark() {
  return (
    <svg width="16" height="16" viewBox="0 0 16 16" aria-hidden="true">
      <path
        d="M1.5 3C8 3 8 5.5 14.5 5.5M1.5 8C8 8 8 5.5 14.5 5.5M1.5 8.5C8 8.5 8 12.5 14.5 12.5"
        fill="none"
        stroke="currentColor"
        strokeWidth="1.7"
      />
    </svg>
  );
}

/** The crossing's name, which can be changed where it stands. */
function Name({ crossing }: { crossing: CrossingState }) {
  const [rename] = useRenameMutation();
  const [text, setText] = useState<string | null>(null);
  const save = (): void => {
    if (text !== null && text.trim() !== '' && text !== crossing.name) void rename({ id: crossing.id, name: text.trim() });
    setText(null);
  };
  return (
    <Flex align="center" gap="10px" minW="0">
      <Link to="/" aria-label="Pontrel, all crossings">
        <Mark />
      </Link>
      <Box minW="0" flex="1">
        {text === null ? (
          <chakra.button
            type="button"
            display="block"
            maxW="100%"
            truncate
            fontWeight={650}
            fontSize="14.5px"
            lineHeight="24px"
            letterSpacing="-0.01em"
            cursor="text"
            aria-label={`Rename ${crossing.name}`}
            onClick={() => setText(crossing.name)}
          >
            {crossing.name}
          </chakra.button>
        ) : (
          <Input
            size="sm"
            autoFocus
            aria-label="Name of the crossing"
            value={text}
            onChange={(e) => setText(e.target.value)}
            onBlur={save}
            onKeyDown={(e) => {
              if (e.key === 'Enter') save();
              if (e.key === 'Escape') setText(null);
            }}
          />
        )}
        <Box asChild textStyle="small" color="muted" display="inline-block" py="4px">
          <Link to="/">All crossings</Link>
        </Box>
      </Box>
    </Flex>
  );
}
