import { useMemo, useRef, useState } from 'react';
import { Box, Button, chakra, Flex, Input, Text } from '@chakra-ui/react';
import { ArrowRight, ChevronDown, ChevronRight, Sigma } from 'lucide-react';
import { Link } from 'react-router';
import { useVirtualizer } from '@tanstack/react-virtual';
import { DAY, NIGHT } from '@pontrel/contract/palette';
import type { Forecast, ForecastRow } from '@pontrel/core/content/features/forecast';
import { isTaken } from '@pontrel/core/operations/layer-rule';
import { takeLayer, useChange, useCrossing } from '../crossing/use-crossing';
import { chosenAfter, type ChooseHow, howOf } from '../components/choosing';
import { TextButton } from '../components/TextButton';
import { grouped } from '../components/numbers';
import { ICON, Mono, Muted, Scroll, Tick, ToneIcon } from '../components/parts';
import { Side } from '../components/Side';
import { useKept } from '../state/kept';
import { useAppSelector } from '../state/store';
import { onPaper } from '../theme/on-paper';
import { JobRow, useJobs } from '../app/JobRow';
import { useKeys } from '../app/keys';
import { ChangedDot } from './Rule';
import { isChanged } from './rule-groups';
import type { ShapedLayer } from './shaped-layers';
import { rowOf } from './shaping';

/** Layers that are chosen together by what they hold. */
const KINDS = [
  { kind: 'line', name: 'lines' },
  { kind: 'polygon', name: 'areas' },
  { kind: 'point', name: 'points' },
  { kind: 'text', name: 'texts' },
] as const;

const mainKind = ({ layer }: ShapedLayer): string | undefined => [...layer.profile.groups].sort((a, b) => b.count - a.count)[0]?.kind;

/** Whether a name of the layer or of one of its fields has the text in it. */
const isFound = ({ layer }: ShapedLayer, text: string): boolean =>
  [layer.profile.name, ...layer.profile.groups.flatMap((g) => g.fields.map((f) => f.name))].some((name) =>
    name.toLowerCase().includes(text),
  );

/** The layers of a crossing: which are taken, and which the rules on the page are about. */
export function LayerList({
  all,
  chosen,
  forecast,
  onChoose,
  onDerive,
}: {
  all: readonly ShapedLayer[];
  chosen: readonly ShapedLayer[];
  forecast: Forecast | null;
  onChoose(keys: readonly string[]): void;
  /** Asks what is to be worked out of layers. */
  onDerive(): void;
}) {
  const crossing = useCrossing();
  const change = useChange();
  const jobs = useJobs(crossing.id, 'read');
  const [text, setText] = useState('');
  const [folded, setFolded] = useKept<string[]>(`shape.${crossing.id}.folded`, []);
  const field = useRef<HTMLInputElement>(null);
  const holder = useRef<HTMLDivElement>(null);
  const last = useRef<string | null>(null);
  useKeys({ l: () => field.current?.focus() });
  const faults = useMemo(
    () =>
      new Set(forecast?.sets.filter((s) => s.fields.some((f) => f.fault)).flatMap((s) => s.members.map((m) => `${m.source}\n${m.layer}`))),
    [forecast],
  );
  const wanted = text.trim().toLowerCase();
  const listed = wanted === '' ? all : all.filter((l) => isFound(l, wanted));
  const isChosen = (l: ShapedLayer): boolean => chosen.includes(l);
  const choose = (l: ShapedLayer, how: ChooseHow): void => {
    const keys = chosen.map((c) => c.key);
    onChoose(
      chosenAfter(
        listed.map((x) => x.key),
        keys,
        last.current ?? keys[0],
        l.key,
        how,
      ),
    );
    if (how !== 'up-to') last.current = l.key;
  };
  const take = (layers: readonly ShapedLayer[], on: boolean): void =>
    change(`${on ? 'take' : 'leave'} ${layers.length === 1 ? layers[0]!.layer.profile.name : `${layers.length} layers`}`, (draft) => {
      for (const l of layers) takeLayer(draft, l.source.name, l.layer.profile.name, on);
    });
  const takenOnes = listed.filter((l) => isTaken(l.rule));
  const kinds = KINDS.filter(({ kind }) => takenOnes.some((l) => mainKind(l) === kind));
  const items = crossing.sources.flatMap((source): (SourceItem | ShapedLayer)[] => {
    const own = listed.filter((l) => l.source === source);
    if (own.length === 0) return [];
    const shut = folded.includes(source.name) && wanted === '';
    return [{ source: source.name, own, shut }, ...(shut ? [] : own)];
  });
  // a drawing may have thousands of layers: those are there that can be seen
  const virtual = useVirtualizer({
    count: items.length,
    getScrollElement: () => holder.current,
    estimateSize: (k) => ('own' in items[k]! ? SOURCE_ROW : LAYER_ROW),
    getItemKey: (k) => ('own' in items[k]! ? items[k].source : items[k]!.key),
    overscan: 12,
  });
  return (
    <Side side="left" label="Layers crossing" width="230px">
      <Flex justify="space-between" align="baseline" px="14px" pt="12px" pb="6px">
        <Text as="h1" textStyle="title">
          Layers crossing
        </Text>
        <Mono color="muted">
          {all.filter((l) => isTaken(l.rule)).length} of {all.length}
        </Mono>
      </Flex>
      <Box px="14px" pb="6px">
        <Input
          ref={field}
          size="sm"
          type="search"
          aria-label="Find a layer or a field"
          placeholder="Find a layer or a field"
          value={text}
          onChange={(e) => setText(e.target.value)}
          onKeyDown={(e) => {
            if (e.key === 'Escape') setText('');
            if (e.key === 'Enter' && listed.length > 0) onChoose(listed.map((l) => l.key));
          }}
        />
        <Flex gap="8px" mt="4px" align="baseline" textStyle="small">
          <Muted whiteSpace="nowrap">All</Muted>
          {kinds.map(({ kind, name }) => (
            <TextButton key={kind} onClick={() => onChoose(takenOnes.filter((l) => mainKind(l) === kind).map((l) => l.key))}>
              {name}
            </TextButton>
          ))}
        </Flex>
      </Box>
      <Scroll ref={holder} pb="8px">
        <Box position="relative" h={`${virtual.getTotalSize()}px`}>
          {virtual.getVirtualItems().map(({ index, key, start, size }) => {
            const item = items[index]!;
            return (
              <Box key={key} position="absolute" left="0" right="0" style={{ top: `${start}px`, height: `${size}px` }}>
                {'own' in item ? (
                  <SourceRow
                    {...item}
                    onTake={(on) => take(item.own, on)}
                    onFold={() => setFolded(item.shut ? folded.filter((n) => n !== item.source) : [...folded, item.source])}
                  />
                ) : (
                  <LayerRow
                    shaped={item}
                    chosen={isChosen(item)}
                    fault={faults.has(item.key)}
                    row={rowOf(forecast, item) ?? null}
                    onTake={(on) => take(isChosen(item) ? chosen : [item], on)}
                    onChoose={(how) => choose(item, how)}
                  />
                )}
              </Box>
            );
          })}
        </Box>
        {listed.length === 0 && (
          <Muted display="block" px="14px" py="8px">
            No layer and no field is called that.
          </Muted>
        )}
      </Scroll>
      {jobs.length > 0 && (
        <Flex direction="column" gap="8px" px="12px" pb="8px">
          {jobs.map((job) => (
            <JobRow key={job.id} job={job} />
          ))}
        </Flex>
      )}
      <Flex p="12px" gap="8px" borderTopWidth="1px" borderColor="hairline">
        <Button onClick={onDerive} title="Areas from lines, networks, ground surfaces, and whether records hold together">
          <Sigma {...ICON} />
          Work out
        </Button>
        <Button asChild variant="solid" flex="1">
          <Link to={`/crossings/${crossing.id}/deliver`}>
            Deliver
            <ArrowRight {...ICON} />
          </Link>
        </Button>
      </Flex>
    </Side>
  );
}

/** Heights of the rows, pixels. */
const SOURCE_ROW = 28,
  LAYER_ROW = 26;

/** A source above those of its layers that are listed. */
interface SourceItem {
  source: string;
  own: readonly ShapedLayer[];
  shut: boolean;
}

function SourceRow({ source, own, shut, onTake, onFold }: SourceItem & { onTake(on: boolean): void; onFold(): void }) {
  const taken = own.filter((l) => isTaken(l.rule));
  const Chevron = shut ? ChevronRight : ChevronDown;
  return (
    <Flex align="center" gap="6px" px="14px" h="100%">
      <Tick label={`Take all of ${source}`} checked={taken.length === own.length} some={taken.length > 0} onChange={onTake} />
      <Flex asChild align="center" gap="4px" flex="1" minW="0" h="100%" color="muted" cursor="pointer">
        <button type="button" aria-expanded={!shut} onClick={onFold}>
          <Chevron {...ICON} size={12} />
          <Mono fontSize="11.5px" truncate title={source}>
            {source}
          </Mono>
          <Box flex="1" />
          <Mono fontSize="11.5px" flex="none">
            {taken.length} of {own.length}
          </Mono>
        </button>
      </Flex>
    </Flex>
  );
}

function LayerRow({
  shaped: l,
  chosen,
  fault,
  row,
  onTake,
  onChoose,
}: {
  shaped: ShapedLayer;
  chosen: boolean;
  fault: boolean;
  /** What becomes of its records, as far as it is known. */
  row: ForecastRow | null;
  onTake(on: boolean): void;
  onChoose(how: ChooseHow): void;
}) {
  const palette = useAppSelector((s) => s.ui.night) ? NIGHT : DAY;
  const { name, count } = l.layer.profile;
  const taken = isTaken(l.rule);
  return (
    <Flex
      align="center"
      gap="8px"
      h="100%"
      px="14px"
      bg={chosen ? 'verdigrisTint' : undefined}
      boxShadow={chosen ? 'inset 3px 0 0 {colors.verdigris}' : undefined}
      _hover={{ bg: chosen ? 'verdigrisTint' : 'sunk' }}
    >
      <Tick label={`Take ${name}`} checked={taken} onChange={onTake} />
      <Box
        w="13px"
        h="3px"
        flex="none"
        borderRadius="1px"
        style={{ background: onPaper(l.layer.plan.strokes[0]?.color ?? '', palette) }}
        opacity={taken ? 1 : 0.4}
      />
      <chakra.button
        type="button"
        aria-pressed={chosen}
        title={`${name}. Ctrl and a click, or Space, add a layer to those that are chosen; Shift and a click all up to it.`}
        onClick={(e) => onChoose(howOf(e))}
        onKeyDown={(e) => {
          if (e.key !== ' ') return;
          e.preventDefault();
          onChoose(e.shiftKey ? 'up-to' : 'add');
        }}
        flex="1"
        minW="0"
        h="100%"
        textAlign="left"
        cursor="pointer"
      >
        <Mono display="block" truncate fontWeight={chosen ? 600 : 400} color={taken ? 'ink' : 'muted'}>
          {name}
        </Mono>
      </chakra.button>
      {fault && <ToneIcon tone="wrong" size={13} />}
      <ChangedDot changed={isChanged(l.rule)} />
      <Mono color="muted" flex="none">
        {row && row.left > 0 && taken && <b>{grouped(row.records - row.left)} of </b>}
        {grouped(row?.records ?? count)}
      </Mono>
    </Flex>
  );
}
