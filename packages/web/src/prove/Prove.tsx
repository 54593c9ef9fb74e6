import { useMemo, useState } from 'react';
import { Box, Button, chakra, Flex, Grid, Text } from '@chakra-ui/react';
import { Download, FileText, Play, FileSearch, FileCheck } from 'lucide-react';
import { useSearchParams } from 'react-router';
import type { RunSummary } from '@pontrel/contract/crossing';
import type { RegistrationView } from '@pontrel/contract/pictures';
import { type ImageProof, isImageProof } from '@pontrel/core/content/raster/proof';
import { useCrossing } from '../crossing/use-crossing';
import { useJobs, JobRow } from '../app/JobRow';
import type { Mark } from '../map/Marks';
import { PlanSheet } from '../map/PlanSheet';
import type { SheetLayer } from '../map/sheet-layers';
import { RecordCard } from '../map/RecordCard';
import type { Picked } from '../map/styles';
import { pictureTiles, sourceTiles, useFrame } from '../map/use-frame';
import { useAppDispatch, useAppSelector } from '../state/store';
import { DAY, NIGHT } from '@pontrel/contract/palette';
import { clock, day, deviation, grouped, plural } from '../components/numbers';
import { Chip, Empty, ICON, Mono, Muted, Scroll, ToneIcon } from '../components/parts';
import { GoTo } from '../components/GoTo';
import { Steps } from '../components/Steps';
import { Side } from '../components/Side';
import { messageOfError, useLazyRunRecipeQuery, useProofQuery, useRunsQuery } from '../state/api';
import { changeRecipe } from '../state/recipe';
import { noticeGiven } from '../state/ui';
import { Dim } from '../components/Dim';
import { CheckRow } from './CheckRow';
import { checksOf } from './checks';
import { imageChecksOf, pixels } from './image-checks';
import { ImageFigures } from './ImageFigures';
import { EarlierRuns } from './EarlierRuns';
import { ProofFigures } from './ProofFigures';

/** The written files read back and compared with the source. */
export function Prove() {
  const crossing = useCrossing();
  const frame = useFrame(crossing);
  const palette = useAppSelector((s) => s.ui.night) ? NIGHT : DAY;
  const jobs = useJobs(crossing.id, 'run');
  const runs = crossing.recipe.deliverables.flatMap((d) => crossing.runs.filter((r) => r.deliverable === d.id));
  const [selected, setSelected] = useState<string | null>(null);
  const asked = useSearchParams()[0].get('deliverable');
  const { data: all = [] } = useRunsQuery(crossing.id);
  const run = [...runs, ...all].find((r) => r.id === selected) ?? runs.find((r) => r.deliverable === asked) ?? runs[0];
  const { data } = useProofQuery(run?.id ?? '', { skip: !run });
  const proof = data?.run.id === run?.id ? data?.proof : undefined;
  const [picked, setPicked] = useState<Picked | null>(null);
  const [goTo, setGoTo] = useState<{ x: number; y: number } | null>(null);
  const runId = run?.id;
  const isImage = run?.picture !== null && run?.picture !== undefined;
  const [dim, setDim] = useState(0);
  const layers = useMemo((): SheetLayer[] => {
    if (!runId) return [];
    if (isImage)
      return [
        ...pictureTiles(crossing, dim).map((l): SheetLayer => ({ ...l, key: `left-${l.key}`, side: 'left' })),
        {
          key: `right-${runId}`,
          address: `/api/runs/${runId}/picture-tiles/${crossing.tileStamp}`,
          opacity: 1 - dim,
          side: 'right',
        },
        { ...sourceTiles(crossing, () => ({ color: null })), key: 'over' },
      ];
    return [
      { ...sourceTiles(crossing, () => ({ color: palette.oxide })), key: 'left', side: 'left' },
      {
        key: `right-${runId}`,
        address: `/api/runs/${runId}/tiles/${crossing.tileStamp}`,
        look: () => ({ color: palette.verdigris }),
        visible: () => true,
        side: 'right',
      },
    ];
  }, [crossing, runId, palette, isImage, dim]);
  if (!run) {
    return (
      <Empty
        title={jobs.length > 0 ? 'Being written' : 'Nothing proved yet'}
        picture={
          jobs.length === 0 && (
            <Steps
              of={[
                { icon: Play, says: 'a deliverable is run' },
                { icon: FileSearch, says: 'its files are read back' },
                { icon: FileCheck, says: 'and compared with the source' },
              ]}
            />
          )
        }
        action={
          jobs.length > 0 ? (
            <Box w="360px" textAlign="left">
              {jobs.map((j) => (
                <JobRow key={j.id} job={j} />
              ))}
            </Box>
          ) : (
            <GoTo stage="deliver" solid />
          )
        }
      >
        Every run is proved: its files are read back and compared with the source, record by record. What came of it is shown here.
      </Empty>
    );
  }
  const stale = !run.current;
  const records = proof && !isImageProof(proof) ? proof : undefined;
  const image = proof && isImageProof(proof) ? proof : undefined;
  const places = data?.places ?? [];
  const marks: Mark[] = records
    ? records.differences.flatMap((d) =>
        d.samples.flatMap((s): Mark[] => (s.x === null || s.y === null ? [] : [{ x: s.x, y: s.y, tone: d.expected ? 'amber' : 'madder' }])),
      )
    : places.map(({ at, off }): Mark => ({ x: at[0], y: at[1], tone: off === null ? 'amber' : off.px > 0.5 ? 'madder' : 'verdigris' }));
  const exaggeration = image ? arrowScale(places, around(places)) : 1;
  const vectors = places.flatMap(({ at, off }) =>
    off ? [{ x: at[0], y: at[1], dx: exaggeration * off.dx, dy: exaggeration * off.dy }] : [],
  );
  return (
    <Grid templateRows="46px minmax(0, 1fr)" minH="0">
      <Flex
        align="center"
        gap="14px"
        px="16px"
        bg="surface"
        borderBottomWidth="1px"
        borderColor="hairline"
        overflow="hidden"
        whiteSpace="nowrap"
      >
        <Flex align="center" gap="14px" flex="1" minW="0" overflow="hidden">
          <Verdict run={run} stale={stale} />
          {stale && run.hasRules && <RulesAgain crossing={crossing.id} run={run} />}
          <Divider />
          <Muted>
            {run.account ? (
              <>
                <b>{grouped(run.account.crossed)}</b> of <b>{grouped(run.account.read)}</b>{' '}
                {run.picture ? (run.picture.isMap ? 'records drawn' : 'pixels crossed') : 'crossed'}
                {run.account.byYou > 0 && `, ${grouped(run.account.byYou)} left out by you`}
                {run.account.notCarried > 0 && `, ${grouped(run.account.notCarried)} not carried`}
              </>
            ) : (
              <>
                <b>{grouped(run.records.out)}</b> of <b>{grouped(run.records.in)}</b> records came back
              </>
            )}
          </Muted>
          <Divider />
          <Muted>
            {run.picture ? 'Worst registration ' : 'Worst deviation '}
            <Mono color="ink" fontWeight={600}>
              {run.picture ? pixels(run.picture.worst_px) : deviation(run.maxDeviation_m)}
            </Mono>
            {run.picture ? ' of 0.50 px allowed' : records && ` of ${deviation(records.tolerance_m)} allowed`}
          </Muted>
          <Divider />
          <Muted title={`${day(run.finished)} ${clock(run.finished)}`}>
            {runs.includes(run) ? clock(run.finished) : `${day(run.finished)}, ${clock(run.finished)}`}
          </Muted>
        </Flex>
        <Button asChild flex="none">
          <a href={`/api/runs/${run.id}/report`} target="_blank" rel="noreferrer">
            <FileText {...ICON} />
            Report
          </a>
        </Button>
        <Button asChild flex="none" px="9px" ml="-8px">
          <a href={`/api/runs/${run.id}/report.pdf`} target="_blank" rel="noreferrer">
            PDF
          </a>
        </Button>
        <Button asChild flex="none" variant="solid">
          <a href={`/api/runs/${run.id}/zip`} download>
            <Download {...ICON} />
            Download zip
          </a>
        </Button>
      </Flex>
      <Grid templateColumns="auto minmax(0, 1fr) auto" minH="0">
        <Side side="left" width="284px" label="Checks">
          <Scroll>
            {runs.map((r) => (
              <Box key={r.id} borderBottomWidth="1px" borderColor="hairline">
                <Flex
                  asChild
                  w="100%"
                  align="center"
                  gap="8px"
                  px="14px"
                  py="9px"
                  textAlign="left"
                  cursor="pointer"
                  bg={r.deliverable === run.deliverable ? 'verdigrisTint' : undefined}
                  _hover={{ bg: r.deliverable === run.deliverable ? 'verdigrisTint' : 'sunk' }}
                >
                  <button type="button" aria-pressed={r.deliverable === run.deliverable} onClick={() => setSelected(r.id)}>
                    <ToneIcon tone={r.status === 'match' ? 'good' : 'caution'} />
                    <Box flex="1" minW="0">
                      <Text fontWeight={650} truncate>
                        {r.name}
                      </Text>
                      <Muted textStyle="small">
                        {plural(r.files.length, 'file')},{' '}
                        {r.picture ? `${grouped(r.picture.width)} × ${grouped(r.picture.height)} pixels` : plural(r.records.out, 'record')}
                      </Muted>
                    </Box>
                    <Chip tone={r.status === 'match' ? 'good' : 'caution'}>{r.status}</Chip>
                  </button>
                </Flex>
                {r.deliverable === run.deliverable && image && <ImageChecks proof={image} />}
                {r.deliverable === run.deliverable &&
                  records &&
                  checksOf(records).map((c) => (
                    <CheckRow key={c.name} name={c.name} figure={c.figure} tone={c.tone}>
                      {c.differences.map((d) => (
                        <Box key={d.message + d.set + d.field} mt="3px" textStyle="small">
                          <Text>
                            {d.set && (
                              <Mono>
                                {d.set}
                                {d.field ? `.${d.field}` : ''}:{' '}
                              </Mono>
                            )}
                            {d.message} {d.expected && <Muted>As forecast.</Muted>}
                          </Text>
                          {d.samples.slice(0, 3).map((s) => (
                            <chakra.button
                              type="button"
                              key={s.record}
                              display="block"
                              minH="24px"
                              w="100%"
                              textAlign="left"
                              cursor="pointer"
                              color="verdigrisInk"
                              disabled={s.x === null}
                              onClick={() => s.x !== null && s.y !== null && setGoTo({ x: s.x, y: s.y })}
                              truncate
                            >
                              <Mono>
                                record {s.record}: {String(s.source)} → {String(s.readBack)}
                              </Mono>
                            </chakra.button>
                          ))}
                        </Box>
                      ))}
                    </CheckRow>
                  ))}
                {r.deliverable === run.deliverable && records?.below && (
                  <>
                    <Text textStyle="small" fontWeight={650} px="14px" pt="6px">
                      The image below
                    </Text>
                    <ImageChecks proof={records.below} />
                  </>
                )}
                {r.deliverable === run.deliverable && (
                  <EarlierRuns runs={all.filter((a) => a.deliverable === run.deliverable)} shown={run.id} onShow={setSelected} />
                )}
              </Box>
            ))}
          </Scroll>
        </Side>
        <Box as="main" minW="0" minH="0">
          {frame && (
            <PlanSheet
              crossing={crossing.id}
              frame={frame}
              layers={layers}
              extent={(image && around(places)) ?? crossing.frameExtent}
              fitKey={`${crossing.tileStamp}${run.id}${image ? places.length : ''}`}
              picked={picked}
              onPick={setPicked}
              marks={marks}
              vectors={vectors}
              goTo={goTo}
              swipeNames={['Source', 'Read back']}
              head={
                image ? (
                  <Dim dim={dim} onChange={setDim} />
                ) : (
                  <Muted truncate>Drag the divider: source to its left, the written files to its right</Muted>
                )
              }
              card={picked && <RecordCard crossing={crossing.id} picked={picked} onClose={() => setPicked(null)} />}
            />
          )}
        </Box>
        <Side side="right" width="276px" label="Figures">
          {image && (
            <Scroll>
              <ImageFigures
                proof={image}
                places={places}
                target={crossing.recipe.deliverables.find((d) => d.id === run.deliverable)?.crs ?? ''}
                files={run.files.map((f) => f.name)}
                onGo={([x, y]) => setGoTo({ x, y })}
              />
            </Scroll>
          )}
          {records && (
            <ProofFigures
              proof={records}
              onWorst={() => {
                const { worst } = records;
                if (worst && worst.x !== null && worst.y !== null) setGoTo({ x: worst.x, y: worst.y });
              }}
            />
          )}
        </Side>
      </Grid>
    </Grid>
  );
}

/** What lies around places, and some more; null where there are none. */
function around(places: readonly RegistrationView[]): [number, number, number, number] | null {
  if (places.length === 0) return null;
  const [xs, ys] = [places.map((p) => p.at[0]), places.map((p) => p.at[1])];
  const [minx, miny, maxx, maxy] = [Math.min(...xs), Math.min(...ys), Math.max(...xs), Math.max(...ys)];
  const more = 0.14 * Math.max(maxx - minx, maxy - miny);
  return [minx - more, miny - more, maxx + more, maxy + more];
}

/** Times by which shifts are drawn larger, so that the largest can be seen beside the others. */
function arrowScale(places: readonly RegistrationView[], extent: readonly [number, number, number, number] | null): number {
  const most = Math.max(0, ...places.map((p) => (p.off ? Math.hypot(p.off.dx, p.off.dy) : 0)));
  if (most === 0 || !extent) return 1;
  return (Math.max(extent[2] - extent[0], extent[3] - extent[1]) / 30 / most) | 0 || 1;
}

/** The checks of an image, one a line. */
function ImageChecks({ proof }: { proof: ImageProof }) {
  return imageChecksOf(proof).map((c) => (
    <CheckRow key={c.name} name={c.name} figure={c.figure} tone={c.tone}>
      {c.differences.map((d) => (
        <Text key={d.message} mt="3px" textStyle="small">
          {d.message} {d.expected && <Muted>As forecast.</Muted>}
        </Text>
      ))}
    </CheckRow>
  ));
}

/** Puts the rules back that a run was made by; what has come into the crossing since stays, and so can be undone. */
function RulesAgain({ crossing, run }: { crossing: string; run: RunSummary }) {
  const [ask] = useLazyRunRecipeQuery();
  const dispatch = useAppDispatch();
  const take = (): void =>
    void ask(run.id)
      .unwrap()
      .then((recipe) =>
        dispatch(
          changeRecipe(crossing, `the rules of ${day(run.finished)}, ${clock(run.finished)}`, (draft) => {
            const ids = new Set(recipe.deliverables.map((d) => d.id));
            Object.assign(draft, recipe, {
              sources: { ...draft.sources, ...recipe.sources },
              deliverables: [...recipe.deliverables, ...draft.deliverables.filter((d) => !ids.has(d.id))],
            });
          }),
        ),
      )
      .catch((e: unknown) => dispatch(noticeGiven({ tone: 'wrong', message: messageOfError(e) })));
  return (
    <Button size="sm" flex="none" onClick={take} title="The rules become what they were when this was run; undo takes that back">
      Use its rules again
    </Button>
  );
}

function Verdict({ run, stale }: { run: RunSummary; stale: boolean }) {
  if (stale)
    return (
      <Flex align="center" gap="7px">
        <ToneIcon tone="caution" />
        <Text fontWeight={650}>The rules have changed since</Text>
      </Flex>
    );
  if (run.status === 'match')
    return (
      <Flex align="center" gap="7px">
        <ToneIcon tone="good" />
        <Text fontWeight={650}>Match: nothing was lost that was not forecast</Text>
      </Flex>
    );
  return (
    <Flex align="center" gap="7px">
      <ToneIcon tone="wrong" />
      <Text fontWeight={650}>
        {plural(run.differences, 'difference')} that {run.differences === 1 ? 'was' : 'were'} not forecast
      </Text>
    </Flex>
  );
}

function Divider() {
  return <Box w="1px" h="20px" bg="hairline" flex="none" />;
}
