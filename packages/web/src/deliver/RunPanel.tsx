import { Box, Button, Flex, Text } from '@chakra-ui/react';
import { Download, FileText, Play } from 'lucide-react';
import { Link } from 'react-router';
import type { Deliverable } from '@pontrel/core/crossing/recipe';
import type { Forecast } from '@pontrel/core/content/features/forecast';
import { useCrossing } from '../crossing/use-crossing';
import { isLive, JobRow, useJobs } from '../app/JobRow';
import { bytes, plural } from '../components/numbers';
import { ICON, Mono, Muted, Note, Scroll } from '../components/parts';
import { messageOfError, useRunMutation } from '../state/api';
import { allSaved } from '../state/recipe';
import { useAppDispatch } from '../state/store';
import { jobsKnown, noticeGiven } from '../state/ui';

/** The files that a run will write, and the run. */
export function RunPanel({ deliverable, forecast }: { deliverable: Deliverable; forecast: Forecast }) {
  const crossing = useCrossing();
  const dispatch = useAppDispatch();
  const [start] = useRunMutation();
  const jobs = useJobs(crossing.id, 'run').filter((j) => j.subjectId === deliverable.id);
  const running = jobs.some(isLive);
  const run = crossing.runs.find((r) => r.deliverable === deliverable.id);
  const stale = run !== undefined && !run.current;
  const groups = new Map<string, { name: string; bytes: number; more: number }>();
  for (const file of forecast.files) {
    const stem = file.name.replace(/\.[^.]+$/, '');
    const known = groups.get(stem);
    if (known) {
      known.bytes += file.bytes;
      known.more++;
    } else groups.set(stem, { name: file.name, bytes: file.bytes, more: 0 });
  }
  const go = async (): Promise<void> => {
    try {
      // what runs is what the page shows, even when it was changed a moment ago
      await allSaved(crossing.id);
      dispatch(jobsKnown([await start({ id: crossing.id, deliverable: deliverable.id }).unwrap()]));
    } catch (error) {
      dispatch(noticeGiven({ tone: 'wrong', message: messageOfError(error) }));
    }
  };
  return (
    <>
      <Flex justify="space-between" align="baseline" px="14px" pt="12px" pb="6px">
        <Text as="h2" textStyle="title">
          Files to be written
        </Text>
        <Muted textStyle="small">about {bytes(forecast.files.reduce((n, f) => n + f.bytes, 0))}</Muted>
      </Flex>
      <Scroll px="14px" tabIndex={0} role="region" aria-label="List of files">
        {[...groups.values()].map((g) => (
          <Flex key={g.name} align="center" gap="8px" h="25px" borderBottomWidth="1px" borderColor="hairline">
            <Box color="muted">
              <FileText {...ICON} size={14} />
            </Box>
            <Mono flex="1" truncate title={g.name}>
              {g.name}
            </Mono>
            {g.more > 0 && <Muted textStyle="small">+{g.more}</Muted>}
            <Mono color="muted" minW="52px" textAlign="right">
              {bytes(g.bytes)}
            </Mono>
          </Flex>
        ))}
        {groups.size === 0 && <Muted>No file would be written: no record crosses.</Muted>}
      </Scroll>
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
                <b>Match.</b> {plural(run.records.out, 'record')} read back as they went in, {plural(run.files.length, 'file')},{' '}
                {run.seconds.toFixed(1)} s.
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
            <Button asChild variant="solid">
              <a href={`/api/runs/${run.id}/zip`} download>
                <Download {...ICON} />
                Download zip
              </a>
            </Button>
            <Flex gap="8px">
              <Button asChild flex="1">
                <Link to={`/crossings/${crossing.id}/prove`}>See the proof</Link>
              </Button>
              <Button flex="1" onClick={() => void go()}>
                Run again
              </Button>
            </Flex>
          </>
        ) : (
          <Button variant="solid" disabled={running || forecast.blocked.length > 0 || groups.size === 0} onClick={() => void go()}>
            <Play {...ICON} />
            {running ? 'Running' : stale ? 'Run again' : 'Run and prove'}
          </Button>
        )}
      </Flex>
    </>
  );
}
