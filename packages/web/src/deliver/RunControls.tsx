import { Button, Flex } from '@chakra-ui/react';
import { Download, MemoryStick as SdCard, Play } from 'lucide-react';
import { Link } from 'react-router';
import type { RunSummary } from '@pontrel/contract/crossing';
import type { Deliverable } from '@pontrel/core/crossing/recipe';
import { useCrossing } from '../crossing/use-crossing';
import { isLive, JobRow, useJobs } from '../app/JobRow';
import { grouped, plural } from '../components/numbers';
import { ICON, Note } from '../components/parts';
import { messageOfError, usePutOnCardMutation } from '../state/api';
import { useAppDispatch } from '../state/store';
import { noticeGiven } from '../state/ui';
import { useRun } from './use-run';

/** What came of a run that matches, in a sentence. */
const matched = (run: RunSummary): string =>
  run.picture
    ? `${grouped(run.picture.width)} × ${grouped(run.picture.height)} pixels read back as they should be`
    : `${plural(run.records.out, 'record')} read back as they went in`;

/**
 * Runs a deliverable, and tells what came of it the last time.
 * @param blocked whether it cannot run as it is
 * @param card the card that its files are put on
 */
export function RunControls({ deliverable, blocked, card }: { deliverable: Deliverable; blocked: boolean; card?: string | undefined }) {
  const crossing = useCrossing();
  const dispatch = useAppDispatch();
  const start = useRun();
  const [put, putting] = usePutOnCardMutation();
  const jobs = useJobs(crossing.id, 'run').filter((j) => j.subjectId === deliverable.id);
  const running = jobs.some(isLive);
  const run = crossing.runs.find((r) => r.deliverable === deliverable.id);
  const stale = run !== undefined && !run.current;
  const onCard = async (runId: string): Promise<void> => {
    try {
      const { files } = await put({ run: runId, card: card! }).unwrap();
      dispatch(noticeGiven({ tone: 'good', message: `On the card ${card}: ${files.join(', ')}. It can be taken out.` }));
    } catch (error) {
      dispatch(noticeGiven({ tone: 'wrong', message: messageOfError(error) }));
    }
  };
  return (
    <Flex direction="column" gap="8px" p="14px" borderTopWidth="1px" borderColor="hairline">
      {jobs.map((job) => (
        <JobRow key={job.id} job={job} />
      ))}
      {run && !running && (
        <Note tone={stale || run.status !== 'match' ? 'caution' : 'good'}>
          {stale ? (
            'The rules have changed since this was last written.'
          ) : run.status === 'match' ? (
            <>
              <b>Match.</b> {matched(run)}, {plural(run.files.length, 'file')}, {run.seconds.toFixed(1)} s.
            </>
          ) : (
            <>
              <b>Differs.</b> {plural(run.differences, 'difference')} that the forecast did not announce.
            </>
          )}
        </Note>
      )}
      {run && !stale && !running ? (
        <>
          {card !== undefined && (
            <Button variant="solid" disabled={putting.isLoading} onClick={() => void onCard(run.id)}>
              <SdCard {...ICON} />
              Put on the card
            </Button>
          )}
          <Button asChild {...(card === undefined ? { variant: 'solid' as const } : {})}>
            <a href={`/api/runs/${run.id}/zip`} download>
              <Download {...ICON} />
              Download zip
            </a>
          </Button>
          <Flex gap="8px">
            <Button asChild flex="1">
              <Link to={`/crossings/${crossing.id}/prove?deliverable=${deliverable.id}`}>See the proof</Link>
            </Button>
            <Button flex="1" onClick={() => void start([deliverable.id])}>
              Run again
            </Button>
          </Flex>
        </>
      ) : (
        <Button
          variant={crossing.recipe.deliverables.length > 1 ? 'outline' : 'solid'}
          disabled={running || blocked}
          onClick={() => void start([deliverable.id])}
        >
          <Play {...ICON} />
          {running ? 'Running' : stale ? 'Run again' : 'Run and prove'}
        </Button>
      )}
    </Flex>
  );
}
