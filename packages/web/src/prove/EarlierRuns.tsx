import { Box, Button, Flex, Text } from '@chakra-ui/react';
import { Pin } from 'lucide-react';
import type { RunSummary } from '@pontrel/contract/crossing';
import { clock, day, plural } from '../components/numbers';
import { ICON, Muted, ToneIcon } from '../components/parts';
import { messageOfError, usePinRunMutation } from '../state/api';
import { useAppDispatch } from '../state/store';
import { noticeGiven } from '../state/ui';

/** Runs of a deliverable before its last one: the last ten are kept, and those that are pinned. */
export function EarlierRuns({ runs, shown, onShow }: { runs: readonly RunSummary[]; shown: string; onShow(run: string): void }) {
  const [pin] = usePinRunMutation();
  const dispatch = useAppDispatch();
  if (runs.length < 2) return null;
  return (
    <Box px="14px" py="8px">
      <Muted textStyle="small">Runs of this deliverable; the last ten are kept, and those that are pinned</Muted>
      {runs.map((r, k) => (
        <Flex key={r.id} align="center" gap="8px" mt="2px" bg={r.id === shown ? 'verdigrisTint' : undefined} borderRadius="chip">
          <Flex asChild flex="1" minW="0" minH="26px" align="center" gap="8px" px="4px" textAlign="left" cursor="pointer">
            <button type="button" aria-pressed={r.id === shown} onClick={() => onShow(r.id)}>
              <ToneIcon tone={r.status === 'match' ? 'good' : 'caution'} size={13} />
              <Text truncate>
                {day(r.finished)}, {clock(r.finished)}
              </Text>
              <Muted textStyle="small" truncate>
                {k === 0 ? 'the last one' : plural(r.records.out, 'record')}
              </Muted>
            </button>
          </Flex>
          <Button
            size="sm"
            variant="ghost"
            px="0"
            color={r.pinned ? 'verdigrisInk' : 'muted'}
            aria-label={`Keep the run of ${day(r.finished)}, ${clock(r.finished)}`}
            aria-pressed={r.pinned}
            title={r.pinned ? 'Pinned: it is kept however many runs come after it' : 'Pin it, so that it is kept'}
            onClick={() =>
              pin({ run: r.id, pinned: !r.pinned })
                .unwrap()
                .catch((e: unknown) => dispatch(noticeGiven({ tone: 'wrong', message: messageOfError(e) })))
            }
          >
            <Pin {...ICON} size={14} fill={r.pinned ? 'currentColor' : 'none'} />
          </Button>
        </Flex>
      ))}
    </Box>
  );
}
