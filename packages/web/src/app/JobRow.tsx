import { useEffect, useState } from 'react';
import { Box, Button, Flex, Text } from '@chakra-ui/react';
import { Square, X } from 'lucide-react';
import type { Job } from '@pontrel/contract/job';
import { bytes, grouped } from '../components/numbers';
import { ICON, Mono, Note } from '../components/parts';
import { useCancelJobMutation, useDismissJobMutation } from '../state/api';
import { useAppDispatch, useAppSelector } from '../state/store';
import { jobGone } from '../state/ui';

const LIVE = new Set<Job['status']>(['waiting', 'running']);

/** Jobs of a crossing that are under way, or that ended in a way a person should read. */
export function useJobs(crossing: string, kind?: Job['kind']): Job[] {
  const jobs = useAppSelector((s) => s.ui.jobs);
  return Object.values(jobs)
    .filter((j) => j.crossing === crossing && (!kind || j.kind === kind) && j.status !== 'done' && j.status !== 'cancelled')
    .sort((a, b) => a.started.localeCompare(b.started));
}

export const isLive = (job: Job): boolean => LIVE.has(job.status);

/** Long work: what, how far, how fast, how long still; or why it did not come to its end. */
export function JobRow({ job }: { job: Job }) {
  const [cancel] = useCancelJobMutation();
  const [dismiss] = useDismissJobMutation();
  const dispatch = useAppDispatch();
  const rate = useRate(job);
  if (!isLive(job)) {
    return (
      <Note tone={job.status === 'interrupted' ? 'caution' : 'wrong'}>
        <Flex gap="8px" align="flex-start">
          <Box flex="1" minW="0" overflowWrap="anywhere">
            <b>{job.subject}</b> {job.kind === 'read' ? 'was not taken in. ' : 'was not written. '}
            {job.message}
          </Box>
          <Button
            variant="ghost"
            size="sm"
            h="18px"
            minW="18px"
            px="0"
            aria-label={`Dismiss message about ${job.subject}`}
            onClick={() => {
              void dismiss(job.id);
              dispatch(jobGone(job.id));
            }}
          >
            <X {...ICON} size={14} />
          </Button>
        </Flex>
      </Note>
    );
  }
  const share = job.total > 0 ? Math.min(1, job.done / job.total) : 0;
  const amount =
    job.unit === 'bytes' ? `${bytes(job.done)} of ${bytes(job.total)}` : `${grouped(job.done)} of ${grouped(job.total)} records`;
  return (
    <Box
      role="group"
      aria-label={`${job.phase} ${job.subject}`}
      borderWidth="1px"
      borderColor="hairline"
      borderRadius="sheet"
      bg="surface"
      px="10px"
      py="8px"
    >
      <Flex justify="space-between" align="center" gap="8px">
        <Text truncate>
          <b>{job.phase}</b> <Mono>{job.subject}</Mono>
        </Text>
        <Flex align="center" gap="6px">
          <Mono whiteSpace="nowrap">{Math.round(share * 100)} %</Mono>
          <Button
            size="sm"
            h="22px"
            minW="22px"
            px="0"
            aria-label={`Stop ${job.phase.toLowerCase()} ${job.subject}`}
            onClick={() => void cancel(job.id)}
          >
            <Square size={9} strokeWidth={2.4} />
          </Button>
        </Flex>
      </Flex>
      <Box
        role="progressbar"
        aria-label={job.phase}
        aria-valuemin={0}
        aria-valuemax={100}
        aria-valuenow={Math.round(share * 100)}
        h="5px"
        bg="sunk"
        borderRadius="3px"
        mt="6px"
        overflow="hidden"
      >
        <Box h="100%" w={`${share * 100}%`} bg="oxide" borderRadius="3px" transition="width 100ms linear" />
      </Box>
      <Flex justify="space-between" columnGap="8px" wrap="wrap" mt="4px" textStyle="small" color="muted">
        <span>{amount}</span>
        <span>{rate}</span>
      </Flex>
    </Box>
  );
}

/** "12 000 records a second, 4 s left". */
function useRate(job: Job): string {
  const [text, setText] = useState('');
  const { phase, done, total, unit } = job;
  const [start, setStart] = useState<{ phase: string; at: number; done: number }>({ phase: '', at: 0, done: 0 });
  useEffect(() => {
    const now = performance.now();
    if (start.phase !== phase) {
      setStart({ phase, at: now, done });
      setText('');
      return;
    }
    const seconds = (now - start.at) / 1000;
    if (seconds < 0.4 || done <= start.done) return;
    const perSecond = (done - start.done) / seconds;
    setText(
      `${unit === 'bytes' ? `${bytes(perSecond)}/s` : `${grouped(perSecond)} a second`}, ${Math.ceil((total - done) / perSecond)} s left`,
    );
  }, [phase, done, total, unit, start]);
  return text;
}
