import { useState } from 'react';
import { Box, Button, Flex, Grid, Text } from '@chakra-ui/react';
import { ArrowRight, MapPin, FileDown, Search } from 'lucide-react';
import { Link } from 'react-router';
import type { SourceState } from '@pontrel/contract/crossing';
import { useChange, useCrossing } from '../crossing/use-crossing';
import { PlanSheet } from '../map/PlanSheet';
import { RecordCard } from '../map/RecordCard';
import type { Picked } from '../map/styles';
import { CrsSearch } from '../components/CrsSearch';
import { type ChooseHow, chosenAfter, howOf } from '../components/choosing';
import { plural } from '../components/numbers';
import { liesSomewhere } from '../components/lies-somewhere';
import { Empty, ICON, Mono, Muted, Scroll, Section, ToneIcon } from '../components/parts';
import { GoTo } from '../components/GoTo';
import { Steps } from '../components/Steps';
import { Side } from '../components/Side';
import { TextButton } from '../components/TextButton';
import { CoordinatePath } from './CoordinatePath';
import { SourcePlacement } from './SourcePlacement';
import { usePlaceMap } from './use-place-map';

/** Where on earth is it? The frame, and how each source gets into it. */
export function Place() {
  const crossing = useCrossing();
  const change = useChange();
  const placementOf = (s: SourceState): unknown => crossing.recipe.sources[s.name]?.placement ?? null;
  const sources = crossing.sources.filter(liesSomewhere);
  const [chosen, setChosen] = useState<readonly string[]>([]);
  const first = sources.find((s) => !placementOf(s)) ?? sources[0];
  // the one that was chosen last is shown; the others are placed with it
  const current = sources.find((s) => s.id === chosen.at(-1)) ?? first;
  const others = sources.filter((s) => s !== current && chosen.includes(s.id));
  const choose = (source: SourceState, how: ChooseHow): void => {
    const order = sources.map((s) => s.id);
    const now = chosen.length > 0 ? chosen : current ? [current.id] : [];
    const next = chosenAfter(order, now, now.at(-1), source.id, how);
    setChosen([...next.filter((id) => id !== source.id), ...(next.includes(source.id) ? [source.id] : [])]);
  };
  const [picked, setPicked] = useState<Picked | null>(null);
  const [changingFrame, setChangingFrame] = useState(false);
  const placed = sources.filter(placementOf);
  const several = placed.length > 1;
  const { map, frame, plane, layers, extent, fitKey, taking, overlay, inOwnNumbers } = usePlaceMap(crossing, current, several);
  const [goTo, setGoTo] = useState<{ x: number; y: number } | null>(null);
  if (!current && crossing.sources.length > 0)
    return (
      <Empty title="Nothing to place" action={<GoTo stage="deliver" solid />}>
        What was gathered are records without a place: tables that cross as they are, or join the records of a layer by a key.
      </Empty>
    );
  if (!current)
    return (
      <Empty
        title="Nothing to place yet"
        picture={
          <Steps
            of={[
              { icon: FileDown, says: 'a source is gathered' },
              { icon: Search, says: 'its system is found' },
              { icon: MapPin, says: 'it lies on earth' },
            ]}
          />
        }
        action={<GoTo stage="gather" />}
      >
        Gather a source first. Then say here where on earth it is.
      </Empty>
    );
  const isChosen = (s: SourceState): boolean => s === current || others.includes(s);
  const open = sources.filter((s) => !placementOf(s));
  const next = placementOf(current) && others.length === 0 ? open.find((s) => s !== current) : undefined;
  return (
    <Grid templateColumns="auto minmax(0, 1fr) auto" minH="0">
      <Side side="left" width="320px" label="Placement">
        <Section
          title="Reference frame"
          aside={
            crossing.frame && (
              <TextButton onClick={() => setChangingFrame(!changingFrame)}>{changingFrame ? 'keep it' : 'change'}</TextButton>
            )
          }
        >
          {crossing.frame ? (
            <Box>
              <Text>{crossing.frame.name}</Text>
              <Mono color="muted">
                {crossing.frame.label} · {crossing.frame.unit}
              </Mono>
              <Muted display="block" textStyle="small">
                Heights: {crossing.frame.heights ?? 'no system stated'}
              </Muted>
            </Box>
          ) : (
            <Muted>The system that all is shown and compared in. The first source that is placed brings its own; or choose another.</Muted>
          )}
          {(changingFrame || !crossing.frame) && (
            <Box mt="7px">
              <CrsSearch
                label="Find a reference frame"
                autoFocus={changingFrame}
                onChoose={(crs) => {
                  change(`reference frame ${crs.id}`, (draft) => void (draft.frame = { crs: crs.id }));
                  setChangingFrame(false);
                }}
              />
            </Box>
          )}
        </Section>
        {sources.length > 1 && (
          <Box px="10px" py="8px" borderTopWidth="1px" borderColor="hairline" maxH="190px" overflowY="auto" flex="none">
            {open.length > 1 && (
              <Flex justify="space-between" px="6px" pb="4px">
                <Muted textStyle="small">{plural(open.length, 'source')} not placed</Muted>
                <TextButton onClick={() => setChosen(open.map((s) => s.id))}>choose all of these</TextButton>
              </Flex>
            )}
            {sources.map((s) => (
              <Flex
                asChild
                key={s.id}
                align="center"
                gap="8px"
                w="100%"
                h="26px"
                px="6px"
                borderRadius="sheet"
                cursor="pointer"
                textAlign="left"
                borderWidth="1px"
                borderColor={s === current ? 'verdigris' : 'transparent'}
                bg={isChosen(s) ? 'verdigrisTint' : undefined}
                _hover={{ bg: isChosen(s) ? 'verdigrisTint' : 'sunk' }}
              >
                <button type="button" aria-pressed={isChosen(s)} onClick={(e) => choose(s, howOf(e))}>
                  {placementOf(s) ? <ToneIcon tone="good" /> : <MapPin {...ICON} size={15} />}
                  <Mono flex="1" truncate>
                    {s.name}
                  </Mono>
                  <Muted textStyle="small">{placementOf(s) ? (s.crs ? 'stated' : 'assigned') : 'not placed'}</Muted>
                </button>
              </Flex>
            ))}
          </Box>
        )}
        <SourcePlacement
          key={current.id}
          source={current}
          others={others}
          map={map}
          onPlaced={() => setChosen([current.id])}
          onGo={(x, y) => setGoTo({ x, y })}
        />
        {next && (
          <Flex p="12px" borderTopWidth="1px" borderColor="hairline" flex="none">
            <Button variant="solid" flex="1" minW="0" onClick={() => setChosen([next.id])}>
              <Text as="span" truncate>
                Place {next.name}
              </Text>
              <ArrowRight {...ICON} />
            </Button>
          </Flex>
        )}
        {open.length === 0 && (
          <Flex p="12px" borderTopWidth="1px" borderColor="hairline" flex="none">
            <Button asChild variant="solid" flex="1">
              <Link to={`/crossings/${crossing.id}/deliver`}>
                Deliver
                <ArrowRight {...ICON} />
              </Link>
            </Button>
            <Button asChild ml="8px">
              <Link to={`/crossings/${crossing.id}/shape`}>Shape first</Link>
            </Button>
          </Flex>
        )}
      </Side>
      <Box as="main" minW="0" minH="0">
        {frame && plane && (placed.length > 0 || map.previewed !== null || inOwnNumbers) ? (
          <PlanSheet
            crossing={crossing.id}
            frame={frame}
            layers={layers}
            extent={extent}
            fitKey={fitKey}
            picked={picked}
            onPick={setPicked}
            taking={taking}
            marks={overlay.marks}
            vectors={overlay.vectors}
            onDrag={overlay.onDrag}
            goTo={goTo}
            head={
              <Flex align="center" gap="8px" minW="0">
                <Mono truncate fontWeight={500}>
                  {current.name}
                </Mono>
                <Muted truncate>
                  {inOwnNumbers
                    ? `${current.images ? 'the image alone, in its own pixels' : 'the drawing alone, in its own numbers'}${placementOf(current) ? '' : ': it has no place yet'}`
                    : map.previewed
                      ? `as it would lie${placed.length > 0 ? ', over what is placed' : ''}`
                      : several
                        ? 'over what is already placed'
                        : 'click an object for its record'}
                </Muted>
              </Flex>
            }
            card={picked && <RecordCard crossing={crossing.id} picked={picked} onClose={() => setPicked(null)} />}
          />
        ) : (
          <Box h="calc(100% - 24px)" m="12px" borderWidth="1px" borderColor="line" bg="map">
            <Empty title={crossing.frame ? 'Nothing placed yet' : 'No reference frame yet'}>
              Choose on the left which system the numbers of {current.name} are in. The drawing appears here as soon as it is placed.
            </Empty>
          </Box>
        )}
      </Box>
      <Side side="right" width="250px" label="Path of a coordinate">
        <Scroll>
          <CoordinatePath source={current} />
        </Scroll>
      </Side>
    </Grid>
  );
}
