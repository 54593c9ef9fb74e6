import { keyOf, type LayerAt, worst } from './layer-at';
import { isTaken } from '@pontrel/core/operations/layer-rule';
import { useMemo, useState } from 'react';
import { Box, Button, Flex, Grid, Input, Text } from '@chakra-ui/react';
import { ArrowRight, Download, Images, Search, Table } from 'lucide-react';
import { Link } from 'react-router';
import type { SourceState } from '@pontrel/contract/crossing';
import { layerRule } from '@pontrel/core/crossing/recipe';
import type { Kind } from '@pontrel/core/model/batch';
import { takeImages, takeLayer, useChange, useCrossing } from '../crossing/use-crossing';
import { chooseFiles, useTakeFiles } from '../app/files';
import { isLive, JobRow, useJobs } from '../app/JobRow';
import { plural } from '../components/numbers';
import { Choice, Empty, ICON, Mono, Muted, Scroll, Side, Tick } from '../components/parts';
import { READ } from '../components/read-formats';
import { AddImages } from './AddImages';
import { type ImageAt, imageKey, imagesOf, worstOf } from './image-at';
import { ImageCard } from './ImageCard';
import { ImageInspector } from './ImageInspector';
import { LayerCard } from './LayerCard';
import { LayerInspector } from './LayerInspector';
import { PasteTable } from './PasteTable';
import { SideAction } from './SideAction';
import { TakeRecipe } from './TakeRecipe';
import { SourceCard } from './SourceCard';

type Shown = Kind | 'all' | 'image';

const KINDS: { value: Shown; name: string }[] = [
  { value: 'all', name: 'All' },
  { value: 'image', name: 'Images' },
  { value: 'line', name: 'Lines' },
  { value: 'polygon', name: 'Areas' },
  { value: 'point', name: 'Points' },
  { value: 'text', name: 'Text' },
  { value: 'none', name: 'Rows' },
];

/** The sources, and their layers as a contact sheet, to take or leave. */
export function Gather() {
  const crossing = useCrossing();
  const change = useChange();
  const take = useTakeFiles();
  const jobs = useJobs(crossing.id, 'read');
  const [text, setText] = useState('');
  const [kind, setKind] = useState<Shown>('all');
  const [selected, setSelected] = useState<string | null>(null);
  const all = useMemo(
    () =>
      crossing.sources.flatMap((source) =>
        source.layers.map((layer): LayerAt => ({
          source,
          layer,
          taken: isTaken(layerRule(crossing.recipe, source.name, layer.profile.name)),
        })),
      ),
    [crossing],
  );
  const images = useMemo(() => imagesOf(crossing.sources, crossing.recipe), [crossing]);
  const named = (name: string): boolean => name.toLowerCase().includes(text.trim().toLowerCase());
  const matches = (at: LayerAt, k: Shown): boolean =>
    (k === 'all' || at.layer.profile.groups.some((g) => g.kind === k)) && named(at.layer.profile.name);
  const shown = all.filter((at) => matches(at, kind));
  const shownImages = kind === 'all' || kind === 'image' ? images.filter((at) => named(at.source.name)) : [];
  const image =
    images.find((at) => imageKey(at) === selected) ??
    (all.some((at) => keyOf(at) === selected) ? null : (shownImages.find((at) => worstOf(at) !== null) ?? shownImages[0] ?? null));
  const current = image ? null : (all.find((at) => keyOf(at) === selected) ?? shown.find((at) => worst(at) !== null) ?? shown[0] ?? null);
  const takeImage = (at: ImageAt, taken: boolean): void =>
    change(`${taken ? 'take' : 'leave'} ${at.source.name}`, (draft) => takeImages(draft, at.source.name, taken));
  const [adding, setAdding] = useState(false);
  const setTaken = (at: LayerAt, taken: boolean): void =>
    change(`${taken ? 'take' : 'leave'} ${at.layer.profile.name}`, (draft) =>
      takeLayer(draft, at.source.name, at.layer.profile.name, taken),
    );
  const setAll = (source: SourceState, taken: boolean): void =>
    change(`${taken ? 'take' : 'leave'} all layers of ${source.name}`, (draft) => {
      for (const at of shown.filter((a) => a.source === source)) takeLayer(draft, source.name, at.layer.profile.name, taken);
    });
  const [pasting, setPasting] = useState(false);
  // what was pasted is shown as soon as it is there: how it is read comes next
  const [awaited, setAwaited] = useState<string | null>(null);
  const arrived = awaited === null ? undefined : all.find((at) => at.source.name === awaited);
  if (arrived) {
    setAwaited(null);
    setSelected(keyOf(arrived));
  }
  const choose = (): void => chooseFiles((files) => void take(files));
  const count = all.length + images.length;
  const takenCount = all.filter((a) => a.taken).length + images.filter((a) => a.taken).length;
  return (
    <Grid templateColumns="272px minmax(0, 1fr) 276px" minH="0">
      <Side side="left" label="Sources">
        <Flex justify="space-between" align="baseline" px="14px" pt="12px" pb="8px">
          <Text as="h1" textStyle="title">
            Sources
          </Text>
          <Muted textStyle="small">{plural(crossing.sources.length, 'source')}</Muted>
        </Flex>
        <Scroll px="14px" pb="12px">
          <Flex direction="column" gap="7px">
            {jobs.map((job) => (
              <JobRow key={job.id} job={job} />
            ))}
            {crossing.sources.map((s) => (
              <SourceCard
                key={s.id}
                source={s}
                current={(image ?? current)?.source === s}
                onSelect={() => setSelected(`${s.name}\n${s.layers[0]?.profile.name ?? ''}`)}
              />
            ))}
            <Flex
              asChild
              align="center"
              gap="10px"
              px="11px"
              py="9px"
              borderWidth="1px"
              borderStyle="dashed"
              borderColor="ghost"
              borderRadius="sheet"
              textAlign="left"
              cursor="pointer"
              _hover={{ bg: 'paper' }}
            >
              <button type="button" onClick={choose}>
                <Download {...ICON} />
                <Box>
                  <Text fontWeight={600}>Drop more sources here</Text>
                  <Text textStyle="small" color="muted">
                    or choose files; tiles are one source
                  </Text>
                </Box>
              </button>
            </Flex>
            <SideAction onClick={() => setAdding(true)}>
              <Images {...ICON} />A folder of images
            </SideAction>
            <SideAction onClick={() => setPasting(true)}>
              <Table {...ICON} />
              Type or paste a table
            </SideAction>
            {crossing.sources.length > 0 && <TakeRecipe />}
          </Flex>
        </Scroll>
      </Side>
      <Flex as="main" direction="column" minW="0" minH="0">
        <Flex
          align="center"
          wrap="wrap"
          gap="8px"
          minH="50px"
          px="16px"
          py="8px"
          borderBottomWidth="1px"
          borderColor="hairline"
          flex="none"
        >
          <Flex position="relative" align="center" w="112px">
            <Box position="absolute" left="8px" color="muted" pointerEvents="none" zIndex="1">
              <Search {...ICON} size={14} />
            </Box>
            <Input
              pl="27px"
              h="28px"
              aria-label="Find a layer"
              placeholder="Find a layer"
              value={text}
              onChange={(e) => setText(e.target.value)}
            />
          </Flex>
          <Box order={{ base: 1, xl: 0 }} flexBasis={{ base: '100%', xl: 'auto' }}>
            <Choice<Shown>
              label="Kind of object"
              value={kind}
              onChange={setKind}
              options={KINDS.flatMap((k) => {
                const n = k.value === 'image' ? images.length : all.filter((at) => matches(at, k.value)).length;
                // a kind that there is none of has no place among the others
                return n === 0 && k.value !== 'all' && k.value !== kind
                  ? []
                  : [{ value: k.value, label: k.value === 'all' ? k.name : `${k.name} ${n}` }];
              })}
            />
          </Box>
          <Box flex="1" />
          <Text fontWeight={650} whiteSpace="nowrap">
            {takenCount} of {count} taken
          </Text>
          <Button asChild variant="solid" disabled={takenCount === 0}>
            <Link to={`/crossings/${crossing.id}/place`}>
              Place
              <ArrowRight {...ICON} />
            </Link>
          </Button>
        </Flex>
        <Scroll px="16px" pb="16px">
          {count === 0 &&
            (jobs.some(isLive) ? (
              <Empty title="Reading">The layers appear here as soon as the file is read.</Empty>
            ) : (
              <Empty title="No source yet" action={<Button onClick={choose}>Choose files</Button>}>
                Drop drawings or map files anywhere on this page: {READ}.
              </Empty>
            ))}
          {count > 0 && shown.length + shownImages.length === 0 && (
            <Empty
              title="No layer found"
              action={
                <Button
                  onClick={() => {
                    setText('');
                    setKind('all');
                  }}
                >
                  Show all layers
                </Button>
              }
            >
              No layer has this kind of object and “{text}” in its name.
            </Empty>
          )}
          {shownImages.length > 0 && (
            <Box as="section" aria-label="Images">
              <Flex align="center" gap="8px" h="36px">
                <Tick
                  label="Take all images"
                  checked={shownImages.every((at) => at.taken)}
                  some={shownImages.some((at) => at.taken)}
                  onChange={(on) =>
                    change(`${on ? 'take' : 'leave'} all images`, (draft) => {
                      for (const at of shownImages) takeImages(draft, at.source.name, on);
                    })
                  }
                />
                <Text fontWeight={650}>Images</Text>
                <Muted>
                  {shownImages.filter((at) => at.taken).length} of {shownImages.length} taken
                </Muted>
              </Flex>
              <Grid templateColumns="repeat(auto-fill, minmax(206px, 1fr))" gap="10px" role="list">
                {shownImages.map((at) => (
                  <ImageCard
                    key={imageKey(at)}
                    at={at}
                    current={at === image}
                    onSelect={() => setSelected(imageKey(at))}
                    onTake={(on) => takeImage(at, on)}
                  />
                ))}
              </Grid>
            </Box>
          )}
          {crossing.sources.map((source) => {
            const own = shown.filter((at) => at.source === source);
            if (own.length === 0) return null;
            const n = own.filter((at) => at.taken).length;
            return (
              <Box as="section" key={source.id} aria-label={source.name}>
                <Flex align="center" gap="8px" h="36px">
                  <Tick
                    label={`Take all layers of ${source.name}`}
                    checked={n === own.length}
                    some={n > 0}
                    onChange={(on) => setAll(source, on)}
                  />
                  <Mono fontWeight={500}>{source.name}</Mono>
                  <Muted>
                    {n} of {own.length} layers taken
                  </Muted>
                </Flex>
                <Grid templateColumns="repeat(auto-fill, minmax(154px, 1fr))" gap="10px" role="list">
                  {own.map((at) => (
                    <LayerCard
                      key={keyOf(at)}
                      at={at}
                      current={at === current}
                      onSelect={() => setSelected(keyOf(at))}
                      onTake={(on) => setTaken(at, on)}
                    />
                  ))}
                </Grid>
              </Box>
            );
          })}
        </Scroll>
      </Flex>
      <PasteTable others={crossing.sources.map((s) => s.name)} open={pasting} onClose={() => setPasting(false)} onTaken={setAwaited} />
      <AddImages open={adding} onClose={() => setAdding(false)} />
      <Side side="right" label={image ? 'Image' : 'Layer'}>
        {image ? (
          <ImageInspector key={imageKey(image)} at={image} onTake={(on) => takeImage(image, on)} />
        ) : current ? (
          <LayerInspector key={keyOf(current)} at={current} onTake={(on) => setTaken(current, on)} />
        ) : (
          <Empty title="No layer chosen">Choose a layer to see its objects, its attributes and what was found.</Empty>
        )}
      </Side>
    </Grid>
  );
}
