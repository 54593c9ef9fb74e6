import { keyOf, type LayerAt, worst } from './layer-at';
import { isTaken } from '@pontrel/core/operations/layer-rule';
import { useMemo, useRef, useState } from 'react';
import { Box, Button, Flex, Grid, Input, Text } from '@chakra-ui/react';
import { ArrowRight, Download, Grid3x3, Images, LayoutGrid, List, Search, Table, FileDown, SquareCheck } from 'lucide-react';
import { Link } from 'react-router';
import { layerRule } from '@pontrel/core/crossing/recipe';
import type { Kind } from '@pontrel/core/model/batch';
import type { SourceState } from '@pontrel/contract/crossing';
import { takeImages, takeLayer, useChange, useCrossing } from '../crossing/use-crossing';
import { chooseFiles, useTakeFiles } from '../app/files';
import { isLive, JobRow, useJobs } from '../app/JobRow';
import { chosenAfter, type ChooseHow } from '../components/choosing';
import { plural } from '../components/numbers';
import { Choice, Empty, ICON, Muted, Scroll } from '../components/parts';
import { Steps } from '../components/Steps';
import { Side } from '../components/Side';
import { READ } from '../components/read-formats';
import { AddImages } from './AddImages';
import { CompareRevisions, useRevisions } from './CompareRevisions';
import { type ImageAt, imageKey, imagesOf, worstOf } from './image-at';
import { ImageInspector } from './ImageInspector';
import { LayerInspector } from './LayerInspector';
import { LayerSheet } from './LayerSheet';
import { PasteTable } from './PasteTable';
import { SeveralInspector } from './SeveralInspector';
import type { SheetView } from './SheetCard';
import { sheetGroups } from './sheet-groups';
import { SideAction } from './SideAction';
import { useKept } from '../state/kept';
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

const VIEWS = [
  { value: 'cards', name: 'As cards', icon: LayoutGrid },
  { value: 'small', name: 'As small cards', icon: Grid3x3 },
  { value: 'list', name: 'As a list', icon: List },
] as const;

/** The sources, and their layers as a contact sheet, to take or leave. */
export function Gather() {
  const crossing = useCrossing();
  const change = useChange();
  const take = useTakeFiles();
  const jobs = useJobs(crossing.id, 'read');
  const [text, setText] = useState('');
  const [kind, setKind] = useState<Shown>('all');
  const [selected, setSelected] = useState<readonly string[]>([]);
  const [view, setView] = useKept<SheetView>('gather.view', 'cards');
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
  const groups = sheetGroups(crossing.sources, shown, shownImages);
  const chosen = all.filter((at) => selected.includes(keyOf(at)));
  const image =
    images.find((at) => selected.includes(imageKey(at))) ??
    (chosen.length > 0 ? null : (shownImages.find((at) => worstOf(at) !== null) ?? shownImages[0] ?? null));
  const current = image ? null : (chosen.at(-1) ?? shown.find((at) => worst(at) !== null) ?? shown[0] ?? null);
  const chosenKeys = new Set(image ? [imageKey(image)] : chosen.length > 0 ? chosen.map(keyOf) : current ? [keyOf(current)] : []);
  const takeImage = (at: ImageAt, taken: boolean): void =>
    change(`${taken ? 'take' : 'leave'} ${at.source.name}`, (draft) => takeImages(draft, at.source.name, taken));
  const last = useRef<string | null>(null);
  const chooseCard = (key: string, how: ChooseHow): void => {
    const order = groups.flatMap((g) => [...g.images.map(imageKey), ...g.layers.map(keyOf)]);
    const now = [...chosenKeys];
    setSelected(chosenAfter(order, now, last.current ?? now[0], key, how));
    if (how !== 'up-to') last.current = key;
  };
  const [adding, setAdding] = useState(false);
  const setTaken = (of: readonly LayerAt[], taken: boolean): void =>
    change(`${taken ? 'take' : 'leave'} ${of.length === 1 ? of[0]!.layer.profile.name : plural(of.length, 'layer')}`, (draft) => {
      for (const at of of) takeLayer(draft, at.source.name, at.layer.profile.name, taken);
    });
  const [pasting, setPasting] = useState(false);
  const revisions = useRevisions();
  const [compared, setCompared] = useState<SourceState | null>(null);
  // what was pasted is shown as soon as it is there: how it is read comes next
  const [awaited, setAwaited] = useState<string | null>(null);
  const arrived = awaited === null ? undefined : all.find((at) => at.source.name === awaited);
  if (arrived) {
    setAwaited(null);
    setSelected([keyOf(arrived)]);
  }
  const choose = (): void => chooseFiles((files) => void take(files));
  const count = all.length + images.length;
  const takenCount = all.filter((a) => a.taken).length + images.filter((a) => a.taken).length;
  return (
    <Grid templateColumns="auto minmax(0, 1fr) auto" minH="0">
      <Side side="left" width="272px" label="Sources">
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
                onCompare={!s.images && !s.compared && revisions.length > 1 ? () => setCompared(s) : undefined}
                onSelect={() => setSelected(s.images ? [imageKey({ source: s })] : s.layers.map((layer) => keyOf({ source: s, layer })))}
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
                  <Text fontWeight={600}>{crossing.sources.length > 0 ? 'Drop more sources here' : 'Drop sources here'}</Text>
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
        {count > 0 && (
          <Flex p="12px" borderTopWidth="1px" borderColor="hairline">
            <Button asChild variant="solid" flex="1">
              <Link to={`/crossings/${crossing.id}/place`}>
                Place
                <ArrowRight {...ICON} />
              </Link>
            </Button>
          </Flex>
        )}
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
          <Choice<SheetView>
            label="How layers are shown"
            value={view}
            onChange={setView}
            options={VIEWS.map(({ value, name, icon: Icon }) => ({
              value,
              label: (
                <Flex as="span" align="center" justify="center" h="26px" title={name}>
                  <Icon size={14} strokeWidth={1.6} aria-label={name} role="img" />
                </Flex>
              ),
            }))}
          />
          <Text fontWeight={650} whiteSpace="nowrap">
            {takenCount} of {count} taken
          </Text>
        </Flex>
        <Scroll px="16px" pb="16px">
          {count === 0 &&
            (jobs.some(isLive) ? (
              <Empty title="Reading">The layers appear here as soon as the file is read.</Empty>
            ) : (
              <Empty
                title="No source yet"
                action={
                  <Button variant="solid" onClick={choose}>
                    Choose files
                  </Button>
                }
                picture={
                  <Steps
                    of={[
                      { icon: FileDown, says: 'files are dropped here' },
                      { icon: LayoutGrid, says: 'their layers are looked at' },
                      { icon: SquareCheck, says: 'and taken or left' },
                    ]}
                  />
                }
              >
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
          <LayerSheet
            groups={groups}
            view={view}
            chosen={chosenKeys}
            onChoose={chooseCard}
            onTake={setTaken}
            onTakeImages={(of, on) =>
              change(`${on ? 'take' : 'leave'} ${of.length === 1 ? of[0]!.source.name : 'all images'}`, (draft) => {
                for (const at of of) takeImages(draft, at.source.name, on);
              })
            }
          />
        </Scroll>
      </Flex>
      <CompareRevisions next={compared} onClose={() => setCompared(null)} onBegun={setAwaited} />
      <PasteTable others={crossing.sources.map((s) => s.name)} open={pasting} onClose={() => setPasting(false)} onTaken={setAwaited} />
      <AddImages open={adding} onClose={() => setAdding(false)} />
      <Side side="right" width="276px" label={image ? 'Image' : chosen.length > 1 ? 'Layers' : 'Layer'}>
        {image ? (
          <ImageInspector key={imageKey(image)} at={image} onTake={(on) => takeImage(image, on)} />
        ) : chosen.length > 1 ? (
          <SeveralInspector layers={chosen} onTake={(on) => setTaken(chosen, on)} />
        ) : current ? (
          <LayerInspector key={keyOf(current)} at={current} onTake={(on) => setTaken([current], on)} />
        ) : (
          <Empty title="No layer chosen">Choose a layer to see its objects, its attributes and what was found.</Empty>
        )}
      </Side>
    </Grid>
  );
}
