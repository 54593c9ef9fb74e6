import { Box, type BoxProps, Flex, Grid, Text } from '@chakra-ui/react';
import { grouped, plural } from '../components/numbers';
import { Mono, Muted, Tick, ToneIcon } from '../components/parts';
import { groupNames } from './entity-names';
import { type ImageAt, imageKey } from './image-at';
import { ImageCard } from './ImageCard';
import { keyOf, type LayerAt, worst } from './layer-at';
import { LayerCard } from './LayerCard';
import { realSize } from './real-size';
import type { ChooseHow } from '../components/choosing';
import { CardButton, type SheetView } from './SheetCard';
import type { SheetGroup } from './sheet-groups';

const COLUMNS: Record<Exclude<SheetView, 'list'>, string> = {
  cards: 'repeat(auto-fill, minmax(154px, 1fr))',
  small: 'repeat(auto-fill, minmax(98px, 1fr))',
};

/** Where the arrow keys go from a card: to the nearest one on that side. */
function moveFocus(e: React.KeyboardEvent<HTMLElement>): void {
  const step = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[e.key];
  if (!step || !(e.target instanceof HTMLButtonElement) || !e.target.matches('[data-card]')) return;
  const middle = (el: Element): [number, number] => {
    const box = (el.closest('[role=listitem]') ?? el).getBoundingClientRect();
    return [(box.left + box.right) / 2, (box.top + box.bottom) / 2];
  };
  const [x, y] = middle(e.target);
  let best: { card: HTMLElement; off: number } | null = null;
  for (const card of e.currentTarget.querySelectorAll<HTMLElement>('[data-card]')) {
    const [dx, dy] = [middle(card)[0] - x, middle(card)[1] - y];
    const ahead = dx * step[0]! + dy * step[1]!,
      aside = Math.abs(dx * step[1]!) + Math.abs(dy * step[0]!);
    if (ahead < 4) continue;
    // in the same line first
    const off = ahead + 8 * aside;
    if (!best || off < best.off) best = { card, off };
  }
  if (!best) return;
  e.preventDefault();
  best.card.focus();
  best.card.scrollIntoView({ block: 'nearest' });
}

/** All layers and images on one sheet, each group with a label of its own among them. */
export function LayerSheet({
  groups,
  view,
  chosen,
  onChoose,
  onTake,
  onTakeImages,
}: {
  groups: readonly SheetGroup[];
  view: SheetView;
  /** Keys of what is chosen. */
  chosen: ReadonlySet<string>;
  onChoose(key: string, how: ChooseHow): void;
  onTake(layers: readonly LayerAt[], on: boolean): void;
  onTakeImages(images: readonly ImageAt[], on: boolean): void;
}) {
  const takeOne = (at: LayerAt, on: boolean, group: SheetGroup): void => {
    // what is ticked among several that are chosen is ticked for all of them
    const together = chosen.has(keyOf(at)) ? groups.flatMap((g) => g.layers).filter((l) => chosen.has(keyOf(l))) : [at];
    onTake(together.length > 0 ? together : group.layers, on);
  };
  return (
    <Box onKeyDown={moveFocus} {...(view === 'list' ? {} : { display: 'grid', gridTemplateColumns: COLUMNS[view], gap: '9px' })} pt="12px">
      {groups.map((group) => (
        <Box as="section" key={group.title} aria-label={group.title} display={view === 'list' ? 'block' : 'contents'} mb="10px">
          <GroupLabel
            group={group}
            view={view}
            onTake={(on) => {
              if (group.images.length > 0) onTakeImages(group.images, on);
              else onTake(group.layers, on);
            }}
          />
          <Box
            role="list"
            {...(view !== 'list'
              ? { display: 'contents' }
              : group.images.length > 0
                ? { display: 'grid', gridTemplateColumns: COLUMNS.cards, gap: '9px', pt: '8px' }
                : {})}
          >
            {group.images.map((at) => (
              <ImageCard
                key={imageKey(at)}
                at={at}
                view={view}
                current={chosen.has(imageKey(at))}
                onSelect={(how) => onChoose(imageKey(at), how)}
                onTake={(on) => onTakeImages([at], on)}
              />
            ))}
            {group.layers.map((at) =>
              view === 'list' ? (
                <LayerLine
                  key={keyOf(at)}
                  at={at}
                  current={chosen.has(keyOf(at))}
                  onSelect={(how) => onChoose(keyOf(at), how)}
                  onTake={(on) => takeOne(at, on, group)}
                />
              ) : (
                <LayerCard
                  key={keyOf(at)}
                  at={at}
                  small={view === 'small'}
                  current={chosen.has(keyOf(at))}
                  onSelect={(how) => onChoose(keyOf(at), how)}
                  onTake={(on) => takeOne(at, on, group)}
                />
              ),
            )}
          </Box>
        </Box>
      ))}
    </Box>
  );
}

/** A group's name among its cards, with a box to take or leave all of it. */
function GroupLabel({ group, view, onTake }: { group: SheetGroup; view: SheetView; onTake(on: boolean): void }) {
  const all = [...group.layers, ...group.images];
  const taken = all.filter((at) => at.taken).length;
  const isImages = group.images.length > 0;
  const tick = (
    <Tick
      label={isImages ? 'Take all images' : `Take all layers of ${group.title}`}
      checked={taken === all.length}
      some={taken > 0}
      onChange={onTake}
    />
  );
  const count = (
    <Muted textStyle="small" whiteSpace="nowrap">
      {taken} of {all.length}
    </Muted>
  );
  if (view === 'list')
    return (
      <Flex align="center" gap="9px" h="32px" px="8px" borderBottomWidth="1px" borderColor="ink">
        {tick}
        <Mono fontWeight={600}>{group.title}</Mono>
        <Muted flex="1" truncate>
          {group.says}
        </Muted>
        {count}
      </Flex>
    );
  return (
    <Flex direction="column" justify="space-between" minW="0" minH="86px" pl="10px" py="3px" borderLeftWidth="2px" borderColor="ink">
      <Box minW="0">
        <Mono
          display="block"
          fontWeight={600}
          fontSize="12px"
          overflowWrap="anywhere"
          lineClamp={view === 'small' ? 2 : 3}
          title={group.title}
        >
          {group.title}
        </Mono>
        <Muted textStyle="small" display="block" lineClamp={2}>
          {group.says}
        </Muted>
      </Box>
      <Flex align="center" gap="8px" mt="6px">
        {tick}
        {count}
      </Flex>
    </Flex>
  );
}

const WIDE_ONLY = { base: 'none', xl: 'block' } as const;

/** A layer as a row. */
function LayerLine({
  at,
  current,
  onSelect,
  onTake,
}: {
  at: LayerAt;
  current: boolean;
  onSelect(how: ChooseHow): void;
  onTake(on: boolean): void;
}) {
  const { profile, states } = at.layer;
  const grave = worst(at);
  const said = groupNames(profile.groups)
    .map((g) => `${grouped(g.count)} ${g.name}`)
    .join(' · ');
  return (
    <LineFrame current={current}>
      <Tick label={`Take ${profile.name}`} checked={at.taken} onChange={onTake} />
      <CardButton
        name={profile.name}
        says={plural(profile.count, 'record')}
        taken={at.taken}
        current={current}
        onSelect={onSelect}
        onTake={onTake}
      />
      <Box>{grave && <ToneIcon tone={grave} size={14} />}</Box>
      <Mono textAlign="right">{grouped(profile.count)}</Mono>
      <Text textStyle="small" truncate title={said} color={at.taken ? 'ink' : 'muted'}>
        {said}
      </Text>
      <Mono display={WIDE_ONLY} fontSize="11.5px" color="muted" whiteSpace="nowrap" textAlign="right">
        {realSize(at.source, profile.extent)}
      </Mono>
      <Muted display={WIDE_ONLY} textStyle="small" truncate>
        {states?.join(', ')}
      </Muted>
    </LineFrame>
  );
}

/** The frame of a row: its columns are the same for all. */
function LineFrame({ current, children, ...rest }: BoxProps & { current: boolean }) {
  return (
    <Grid
      role="listitem"
      position="relative"
      // the narrowest windows have no room for its size and what the drawing says of it: both stand beside it when it is chosen
      templateColumns={{
        base: '15px minmax(90px, 1fr) 16px 54px minmax(90px, 1.3fr)',
        xl: '15px minmax(110px, 1.1fr) 16px 62px minmax(120px, 1.6fr) 112px minmax(0, 0.6fr)',
      }}
      gap="9px"
      alignItems="center"
      h="28px"
      px="8px"
      borderBottomWidth="1px"
      borderColor="hairline"
      bg={current ? 'verdigrisTint' : undefined}
      _hover={{ bg: current ? 'verdigrisTint' : 'sunk' }}
      {...rest}
    >
      {children}
    </Grid>
  );
}
