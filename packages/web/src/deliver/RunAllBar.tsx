import { useEffect, useState } from 'react';
import { Box, Button, Flex, Text } from '@chakra-ui/react';
import { ArrowRight, X } from 'lucide-react';
import { Link } from 'react-router';
import type { Job } from '@pontrel/contract/job';
import { useCrossing } from '../crossing/use-crossing';
import { isLive } from '../app/JobRow';
import { grouped, plural } from '../components/numbers';
import { ICON, Mono, Muted, ToneIcon } from '../components/parts';
import { useCancelJobMutation, useForecastsQuery } from '../state/api';
import { useAppDispatch, useAppSelector } from '../state/store';
import { batchIs } from '../state/ui';

/** How far a job is, 0 to 1. */
const shareOf = (job: Job): number => (!isLive(job) ? 1 : job.total > 0 ? Math.min(1, job.done / job.total) : 0);

/** The least part of the bar that a deliverable has, so that it can be seen beside larger ones. */
const LEAST = 0.06;

/** The runs that were started together: one bar, with a part for each as long as its records, and what came of them. */
export function RunAllBar() {
  const crossing = useCrossing();
  const dispatch = useAppDispatch();
  const [cancel] = useCancelJobMutation();
  const { data: forecasts } = useForecastsQuery(crossing.id);
  const ids = useAppSelector((s) => s.ui.batches[crossing.id]);
  const all = useAppSelector((s) => s.ui.jobs);
  const jobs = (ids ?? []).flatMap((id) => all[id] ?? []);
  const live = jobs.filter(isLive);
  const records = jobs.map((j) => forecasts?.find((f) => f.deliverable === j.subjectId)?.forecast?.totals.records ?? 0);
  const total = records.reduce((n, r) => n + r, 0);
  const weights = records.map((r) => Math.max(total > 0 ? r / total : 0, LEAST));
  const done =
    jobs.reduce((n, j, k) => n + weights[k]! * shareOf(j), 0) /
    Math.max(
      1e-9,
      weights.reduce((n, w) => n + w, 0),
    );
  const left = useTimeLeft(ids?.join() ?? '', done, live.length > 0);
  if (jobs.length === 0) return null;
  const running = live.find((j) => j.status === 'running') ?? live[0];
  const failed = jobs.filter((j) => !isLive(j) && j.status !== 'done');
  const runs = jobs.flatMap((j) => crossing.runs.filter((r) => r.deliverable === j.subjectId && j.status === 'done'));
  const matching = runs.filter((r) => r.status === 'match').length;
  const differing = runs.length - matching;
  const away = (): void => void dispatch(batchIs({ crossing: crossing.id, jobs: [] }));
  return (
    <Box
      as="section"
      aria-label="All runs"
      px="16px"
      pt="10px"
      pb="9px"
      bg="surface"
      borderBottomWidth="1px"
      borderColor="hairline"
      flex="none"
    >
      <Flex align="center" gap="12px" minH="28px">
        {running ? (
          <>
            <Text as="h2" textStyle="title" flex="none">
              Running {jobs.length}
            </Text>
            <Text truncate flex="1" minW="0">
              <b>{jobs.length - live.length + 1}</b> of {jobs.length}, <b>{running.subject}</b>, {running.phase.toLowerCase()}
            </Text>
            <Muted whiteSpace="nowrap">
              {running.unit === 'records' && running.total > 0 && (
                <>
                  <Mono>{grouped(running.done)}</Mono> of {plural(running.total, 'record')}
                  {'   '}
                </>
              )}
              {left}
            </Muted>
            <Button size="sm" flex="none" onClick={() => live.forEach((j) => void cancel(j.id))}>
              Cancel
            </Button>
          </>
        ) : (
          <>
            <ToneIcon tone={failed.length > 0 ? 'wrong' : differing > 0 ? 'caution' : 'good'} />
            <Text flex="1" minW="0" role="status">
              {[
                matching > 0 && (matching === jobs.length ? `All ${matching} match.` : `${matching} match.`),
                differing > 0 && `${plural(differing, 'run differs', 'runs differ')} from the forecast.`,
                failed.length > 0 && `${plural(failed.length, 'deliverable was', 'deliverables were')} not written.`,
              ]
                .filter(Boolean)
                .join(' ')}
            </Text>
            {runs.length > 0 && (
              <Button asChild size="sm" variant="solid" flex="none">
                <Link to={`/crossings/${crossing.id}/prove`}>
                  See the proof
                  <ArrowRight {...ICON} size={14} />
                </Link>
              </Button>
            )}
            <Button size="sm" variant="ghost" px="0" flex="none" aria-label="Put the runs away" onClick={away}>
              <X {...ICON} size={14} />
            </Button>
          </>
        )}
      </Flex>
      <Flex
        role="progressbar"
        aria-label="All runs"
        aria-valuemin={0}
        aria-valuemax={100}
        aria-valuenow={Math.round(100 * done)}
        gap="3px"
        mt="7px"
      >
        {jobs.map((job, k) => (
          <Box key={job.id} flexGrow={weights[k]} flexBasis="0" minW="0">
            <Box h="6px" bg="sunk" borderRadius="2px" overflow="hidden">
              <Box
                h="100%"
                w={`${100 * shareOf(job)}%`}
                bg={isLive(job) ? 'oxide' : job.status === 'done' ? 'verdigris' : job.status === 'cancelled' ? 'ghost' : 'madder'}
                transition="width 100ms linear"
              />
            </Box>
            <Muted textStyle="small" display="block" truncate mt="2px" {...(job === running ? { color: 'ink', fontWeight: 600 } : {})}>
              {job.subject}
            </Muted>
          </Box>
        ))}
      </Flex>
    </Box>
  );
}

/** "4 s left", from how long it took so far. @param of what it is about; another one begins anew */
function useTimeLeft(of: string, done: number, running: boolean): string {
  const [begun, setBegun] = useState<{ of: string; at: number; done: number } | null>(null);
  const [text, setText] = useState('');
  useEffect(() => {
    const now = performance.now();
    if (!running || begun?.of !== of) {
      setBegun(running ? { of, at: now, done } : null);
      setText('');
      return;
    }
    const seconds = (now - begun.at) / 1000,
      came = done - begun.done;
    if (seconds > 0.5 && came > 0) setText(`about ${Math.ceil((seconds * (1 - done)) / came)} s left`);
  }, [of, done, running, begun]);
  return text;
}
