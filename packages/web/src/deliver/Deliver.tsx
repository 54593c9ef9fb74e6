import { excludedIn } from './fates';
import { useEffect, useState } from 'react';
import { Box, Button, Flex, Grid, Text } from '@chakra-ui/react';
import { FileDown, Plus } from 'lucide-react';
import { Link } from 'react-router';
import { fileStem } from '@pontrel/core/content/features/plan';
import type { Deliverable, Recipe } from '@pontrel/core/crossing/recipe';
import { anyFormatById } from '@pontrel/core/formats/every-format';
import type { Format } from '@pontrel/core/formats/format';
import { IMAGE_FORMATS } from '@pontrel/core/formats/images';
import { FORMATS } from '@pontrel/core/formats/index';
import { prescribedCrs } from '@pontrel/core/formats/options';
import { useChange, useCrossing } from '../crossing/use-crossing';
import { crsLabel } from '../components/crs-label';
import { pixelsText, plural } from '../components/numbers';
import { Chip, Empty, FateBar, ICON, Muted, Note, Scroll, Side, ToneIcon } from '../components/parts';
import { useForecastsQuery, usePictureSizesQuery } from '../state/api';
import { AreaSheet } from './AreaSheet';
import { DeliverableOptions } from './DeliverableOptions';
import { ForecastTable } from './ForecastTable';
import { ImageOptions, PLAIN } from './ImageOptions';
import { ImageRunPanel } from './ImageRunPanel';
import { PieceSheet } from './PieceSheet';
import { RunPanel } from './RunPanel';
import { usualScale } from './usual-scale';
import { GOOD_ENOUGH, pixelUnder, qualityUnder } from './SizeCurve';

const RECORDS = FORMATS.filter((f) => f.features.write);
const IMAGES = IMAGE_FORMATS.filter((f) => f.images.write);
/** Those in which a map of a scale can be written: its system is chosen, and the size of its pixels follows from the scale. */
const MAPS = IMAGES.filter((f) => f.images.write!.prescribedCrs === undefined && !f.images.write!.gridFor);

/** A name within a sentence: abbreviations keep their capitals. */
const inSentence = (name: string): string => (/^[A-Z][a-z]+\b/.test(name) ? name[0]!.toLowerCase() + name.slice(1) : name);

/** The name of a format as it is heard: after what is seen on its button, where that is not a part of it. */
const spoken = ({ name, brief }: Format): string =>
  brief === undefined || name.includes(brief) ? inSentence(name) : `${brief}: ${inSentence(name)}`;

/** Hands the rules over as a file. */
function saveRecipe(name: string, recipe: Recipe): void {
  const address = URL.createObjectURL(new Blob([JSON.stringify(recipe, null, 2)], { type: 'application/json' }));
  const link = document.createElement('a');
  link.href = address;
  link.download = `${fileStem(name)}.recipe.json`;
  link.click();
  URL.revokeObjectURL(address);
}

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
  const images = crossing.sources.filter((s) => s.images);
  const hasRecords = crossing.sources.some((s) => !s.images);
  const offered: { of: string; formats: readonly Format[] }[] = [
    ...(images.length > 0 ? [{ of: 'Images', formats: IMAGES }] : []),
    ...(hasRecords || images.length === 0 ? [{ of: 'Records', formats: RECORDS }] : []),
    ...(hasRecords && images.length === 0 ? [{ of: 'A map of the records', formats: MAPS }] : []),
  ];
  const add = (format: Format): void => {
    const id = Math.random().toString(36).slice(2, 10);
    const same = deliverables.filter((d) => d.format === format.id).length;
    const made: Deliverable = {
      id,
      name: `${crossing.name}, ${inSentence(format.name)}${same > 0 ? ` ${same + 1}` : ''}`.slice(0, 80),
      format: format.id,
      crs: prescribedCrs(format) ?? frame!.crs,
      grouping: 'layer',
      // several images are of one kind only where somebody says so
      ...(!format.images || format.features
        ? {}
        : images.length > 0
          ? { image: { ...PLAIN, sources: [crossing.pictures[0]?.source ?? images[0]!.name] } }
          : { image: { ...PLAIN, sources: [], drawn: usualScale(crossing) } }),
    };
    change(`add ${made.name}`, (draft) => void draft.deliverables.push(made));
    setSelected(id);
  };
  const isImage = current !== undefined && IMAGES.some((f) => f.id === current.format);
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
        action={
          <Button asChild>
            <Link to={`/crossings/${crossing.id}/gather`}>Go to Gather</Link>
          </Button>
        }
      >
        Gather a source first. Here you choose the formats it is handed over in, and see what each will do to it.
      </Empty>
    );
  if (!frame)
    return (
      <Empty
        title="No reference frame yet"
        action={
          <Button asChild variant="solid">
            <Link to={`/crossings/${crossing.id}/place`}>Go to Place</Link>
          </Button>
        }
      >
        Say in Place first which system the numbers are in. A file without a system is what this tool is there to prevent.
      </Empty>
    );
  return (
    <Grid templateColumns="260px minmax(0, 1fr) 272px" minH="0">
      <Side side="left" label="Deliverables">
        <Flex justify="space-between" align="baseline" px="14px" pt="12px" pb="8px">
          <Text as="h1" textStyle="title">
            Deliverables
          </Text>
          <Muted textStyle="small">{deliverables.length}</Muted>
        </Flex>
        <Scroll px="14px">
          <Flex direction="column" gap="8px" pb="8px">
            {deliverables.map((d) => {
              const own = forecasts?.find((x) => x.deliverable === d.id);
              const f = own?.forecast;
              const run = crossing.runs.find((r) => r.deliverable === d.id);
              const format = anyFormatById(d.format);
              return (
                <Box
                  asChild
                  key={d.id}
                  textAlign="left"
                  w="100%"
                  px="11px"
                  py="9px"
                  borderWidth="1px"
                  borderRadius="sheet"
                  cursor="pointer"
                  borderColor={d === current ? 'verdigris' : 'hairline'}
                  bg={d === current ? 'verdigrisTint' : 'surface'}
                  _hover={{ borderColor: 'verdigrisLine' }}
                >
                  <button
                    type="button"
                    aria-pressed={d === current}
                    onClick={() => {
                      setSelected(d.id);
                      setDrawing(false);
                    }}
                  >
                    <Flex justify="space-between" gap="6px">
                      <Text fontWeight={650} truncate>
                        {d.name}
                      </Text>
                      {run && <ToneIcon tone={!run.current || run.status !== 'match' ? 'caution' : 'good'} />}
                    </Flex>
                    <Muted textStyle="small" display="block">
                      {format?.name}
                      {f ? `, ${plural(f.sets.length, format?.features?.carries.oneFile ? 'layer' : 'set')}` : ''}
                    </Muted>
                    <Flex gap="6px" my="6px">
                      <Chip mono>{crsLabel(d.crs)}</Chip>
                      {f && <Chip mono>{plural(f.totals.records - f.totals.left, 'record')}</Chip>}
                      {own?.picture && !f && <Chip mono>{pixelsText(own.picture.info.width * own.picture.info.height)}</Chip>}
                    </Flex>
                    {f && <FateBar {...f.totals} excluded={excludedIn(f)} left={f.totals.left - excludedIn(f)} height={6} />}
                  </button>
                </Box>
              );
            })}
            <Muted textStyle="small" mt={deliverables.length > 0 ? '4px' : '0'}>
              {deliverables.length === 0 ? 'What is it handed over as?' : 'Add another one'}
            </Muted>
            {offered.map(({ of, formats }) => (
              <Box key={of}>
                {offered.length > 1 && (
                  <Text textStyle="small" fontWeight={650} mb="4px">
                    {of}
                  </Text>
                )}
                <Grid templateColumns="1fr 1fr" gap="6px">
                  {formats.map((format) => (
                    <Button
                      key={format.id}
                      size="sm"
                      px="8px"
                      justifyContent="flex-start"
                      aria-label={`Add ${spoken(format)}`}
                      title={format.name}
                      onClick={() => add(format)}
                    >
                      <Plus {...ICON} size={14} />
                      {format.brief ?? format.name}
                    </Button>
                  ))}
                </Grid>
              </Box>
            ))}
          </Flex>
        </Scroll>
        <Box px="14px" pb="8px">
          <Button
            size="sm"
            variant="ghost"
            w="100%"
            justifyContent="flex-start"
            px="4px"
            title="The rules of this crossing as one file, to be run again: pontrel convert FILES FOLDER --recipe FILE"
            onClick={() => saveRecipe(crossing.name, crossing.recipe)}
          >
            <FileDown {...ICON} size={14} />
            Save the rules as a recipe
          </Button>
        </Box>
        <Flex
          columnGap="12px"
          rowGap="4px"
          wrap="wrap"
          px="14px"
          py="10px"
          whiteSpace="nowrap"
          borderTopWidth="1px"
          borderColor="hairline"
          textStyle="small"
        >
          {(
            [
              ['unchanged', 'verdigris'],
              ['changed', 'amberLine'],
              ['left out', 'ghost'],
              ['not carried', 'madder'],
            ] as const
          ).map(([name, color]) => (
            <Flex key={name} align="center" gap="6px">
              <Box w="9px" h="9px" borderRadius="2px" bg={color} />
              {name}
            </Flex>
          ))}
        </Flex>
      </Side>
      <Flex as="main" direction="column" minW="0" minH="0">
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
          <Empty title="No deliverable yet">
            Add one on the left. What it will change or leave behind is worked out at once, before anything is written.
          </Empty>
        )}
      </Flex>
      <Side side="right" label="Files to be written">
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
