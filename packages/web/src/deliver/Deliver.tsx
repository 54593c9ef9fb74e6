import { FileDown, MapPin, Files, Plus, ListChecks, FileCheck } from 'lucide-react';
import { useEffect, useState } from 'react';
import { Box, Flex, Grid } from '@chakra-ui/react';
import { useChange, useCrossing } from '../crossing/use-crossing';
import { Empty, Note } from '../components/parts';
import { GoTo } from '../components/GoTo';
import { Steps } from '../components/Steps';
import { Side } from '../components/Side';
import { useForecastsQuery, usePictureSizesQuery } from '../state/api';
import { AreaSheet } from './AreaSheet';
import { DeliverableList } from './DeliverableList';
import { DeliverableOptions } from './DeliverableOptions';
import { ForecastTable } from './ForecastTable';
import { ImageOptions } from './ImageOptions';
import { ImageRunPanel } from './ImageRunPanel';
import { isOfImages } from './offered-formats';
import { PieceSheet } from './PieceSheet';
import { RunAllBar } from './RunAllBar';
import { RunPanel } from './RunPanel';
import { GOOD_ENOUGH, pixelUnder, qualityUnder } from './SizeCurve';

/** What is handed over: formats, their options, what they will change, and the run. */
export function Deliver() {
  const crossing = useCrossing();
  const change = useChange();
  const { data: forecasts } = useForecastsQuery(crossing.id);
  const { deliverables, frame } = crossing.recipe;
  const [selected, setSelected] = useState<string | null>(null);
  const [drawing, setDrawing] = useState(false);
  const current = deliverables.find((d) => d.id === selected) ?? deliverables[0];
  const { forecast, picture, problem } = forecasts?.find((f) => f.deliverable === current?.id) ?? {};
  const isImage = current !== undefined && isOfImages(current);
  const { currentData: sizes } = usePictureSizesQuery(
    { id: crossing.id, deliverable: current?.id ?? '', key: `${crossing.revision}` },
    { skip: !isImage || !picture || picture.blocked.length > 0 },
  );
  const limit = current?.image?.under_bytes;
  const wanted = sizes && limit !== undefined && sizes.curve.length > 1 ? qualityUnder(sizes, limit) : undefined;
  const hasQuality = sizes !== undefined && sizes.curve.length > 1;
  const waiting = limit !== undefined && (!sizes || (hasQuality ? wanted !== current?.options?.quality : sizes.bytes > limit));
  const currentId = current?.id;
  // the quality follows the size that is asked for
  useEffect(() => {
    if (typeof wanted === 'number' && waiting && currentId)
      change(`quality ${wanted}`, (draft) => {
        const d = draft.deliverables.find((x) => x.id === currentId)!;
        d.options = { ...d.options, quality: wanted };
      });
    // eslint-disable-next-line react-hooks/exhaustive-deps -- a change of the quality is made once for each answer
  }, [wanted, waiting, currentId]);
  if (crossing.sources.length === 0)
    return (
      <Empty
        title="Nothing to deliver yet"
        picture={
          <Steps
            of={[
              { icon: FileDown, says: 'a source is gathered' },
              { icon: MapPin, says: 'it gets its place' },
              { icon: Files, says: 'files in other formats' },
            ]}
          />
        }
        action={<GoTo stage="gather" />}
      >
        Gather a source first. Here you choose the formats it is handed over in, and see what each will do to it.
      </Empty>
    );
  if (!frame)
    return (
      <Empty title="No reference frame yet" action={<GoTo stage="place" solid />}>
        Say in Place first which system the numbers are in. A file without a system is what this tool is there to prevent.
      </Empty>
    );
  return (
    <Grid templateColumns="auto minmax(0, 1fr) auto" minH="0">
      <DeliverableList
        current={current}
        onChoose={(id) => {
          setSelected(id);
          setDrawing(false);
        }}
      />
      <Flex as="main" direction="column" minW="0" minH="0">
        <RunAllBar />
        {current && drawing ? (
          <AreaSheet
            onCancel={() => setDrawing(false)}
            onDone={(ring) => {
              change(`area of ${current.name}`, (draft) => {
                draft.deliverables.find((d) => d.id === current.id)!.area = { kind: 'drawn', ring };
              });
              setDrawing(false);
            }}
          />
        ) : current && isImage ? (
          <>
            <ImageOptions
              key={current.id}
              deliverable={current}
              forecast={picture}
              quality={limit === undefined ? undefined : wanted}
              larger={
                sizes && picture && limit !== undefined && (hasQuality ? (wanted ?? 0) < GOOD_ENOUGH : sizes.bytes > limit)
                  ? pixelUnder(sizes, limit, picture.pixelSize)
                  : null
              }
              onDraw={() => setDrawing(true)}
            />
            {problem ? (
              <Box p="16px">
                <Note tone="wrong">{problem}</Note>
              </Box>
            ) : (
              picture && picture.blocked.length === 0 && <PieceSheet key={`piece ${current.id}`} deliverable={current} forecast={picture} />
            )}
          </>
        ) : current ? (
          <>
            <DeliverableOptions
              key={current.id}
              deliverable={current}
              picture={picture}
              problem={problem}
              onDraw={() => setDrawing(true)}
            />
            {forecast && <ForecastTable forecast={forecast} />}
          </>
        ) : (
          <Empty
            title="No deliverable yet"
            picture={
              <Steps
                of={[
                  { icon: Plus, says: 'a format is chosen' },
                  { icon: ListChecks, says: 'its forecast is read' },
                  { icon: FileCheck, says: 'files, written and proved' },
                ]}
              />
            }
          >
            Add one on the left. What it will change or leave behind is worked out at once, before anything is written.
          </Empty>
        )}
      </Flex>
      <Side side="right" width="272px" label="Files to be written">
        {current && isImage && picture ? (
          <ImageRunPanel deliverable={current} forecast={picture} sizes={sizes} waiting={waiting} />
        ) : current && forecast ? (
          <RunPanel deliverable={current} forecast={forecast} picture={picture} stopped={problem !== undefined} />
        ) : current && problem === undefined ? (
          <Empty title="Working it out">
            What will be written, and what becomes of everything, is worked out from the rules as they are.
          </Empty>
        ) : (
          <Empty title="No files yet">The files of a deliverable are listed here with their estimated sizes.</Empty>
        )}
      </Side>
    </Grid>
  );
}
