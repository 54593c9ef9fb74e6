import { useEffect, useRef } from 'react';
import { Box, Button, chakra, Flex, Grid, Text } from '@chakra-ui/react';
import { ChevronLeft, ChevronRight, Hammer, RotateCcw } from 'lucide-react';
import { useVirtualizer } from '@tanstack/react-virtual';
import type { SourceState } from '@pontrel/contract/crossing';
import { derivationById } from '@pontrel/core/content/derived/derivations';
import { type FaultCode, faultKind, faultSize } from '@pontrel/core/content/derived/fault';
import { useKeys } from '../app/keys';
import { DifferenceBars } from './DifferenceBars';
import { FigureList } from './FigureList';
import { HeightBar } from './HeightBar';
import { grouped, plural } from '../components/numbers';
import { Empty, ICON, Mono, Muted, Note, Scroll, ToneIcon } from '../components/parts';
import { SaveElevation } from './SaveElevation';
import type { Faults, ListedFault } from './use-faults';

const sizeOf = (f: ListedFault): string => faultSize({ kind: f.kind as FaultCode, size: f.size });

/** Where the records of a source that was worked out do not hold together, stepped through one by one. */
export function FaultPanel({
  source,
  faults,
  onAgain,
  onMend,
}: {
  source: SourceState;
  faults: Faults;
  onAgain(): void;
  /** Mends what it was worked out of; absent where nothing can. */
  onMend?: (() => void) | undefined;
}) {
  const { list, open, current, total } = faults;
  const derived = source.derived!;
  useKeys({
    '[': () => faults.step(-1),
    ']': () => faults.step(1),
    ',': () => faults.step(-1),
    '.': () => faults.step(1),
    x: () => faults.leave(),
    e: () => faults.mend?.(),
  });
  return (
    <>
      <Flex justify="space-between" align="baseline" gap="8px" px="14px" pt="10px">
        <Text as="h2" textStyle="title">
          {derivationById(derived.operation)?.title ?? derived.operation}
        </Text>
        {list.length > 0 && (
          <Muted whiteSpace="nowrap">
            {grouped(open)} open of {grouped(total)}
          </Muted>
        )}
      </Flex>
      {!derived.current && (
        <Note tone="caution" mx="14px" mt="8px">
          The files or placements that it was worked out of have changed since. Work it out again.
        </Note>
      )}
      <FigureList figures={derived.figures} />
      {derived.operation === 'surface' && (
        <>
          <HeightBar lowest={derived.figures.lowest_m ?? 0} highest={derived.figures.highest_m ?? 0} />
          <SaveElevation source={source} />
        </>
      )}
      {(derived.figures.compared ?? 0) > 0 && <DifferenceBars source={source} />}
      {list.length === 0 ? (
        <Flex flex="1" minH="0" direction="column">
          <Empty title="All of it holds together">Nothing was found that a person should look at.</Empty>
        </Flex>
      ) : (
        <>
          <Shares list={list} />
          <Grid templateColumns="auto 1fr auto" alignItems="center" px="14px" pt="9px" pb="9px" gap="8px">
            <Button size="sm" onClick={() => faults.step(-1)} title="Previous ([ or ,)">
              <ChevronLeft {...ICON} />
              Previous
            </Button>
            <Muted textAlign="center" aria-live="polite">
              {current ? (
                <>
                  <b>{current.number}</b> of {grouped(list.length)}
                </>
              ) : (
                plural(list.length, 'place')
              )}
            </Muted>
            <Button size="sm" onClick={() => faults.step(1)} title="Next (] or .)">
              Next
              <ChevronRight {...ICON} />
            </Button>
          </Grid>
          {current && (
            <Box px="14px" py="9px" borderTopWidth="1px" borderColor="hairline">
              <Flex gap="8px" align="flex-start">
                <Box pt="2px">
                  <ToneIcon tone={current.isMended ? 'good' : current.isLeft ? 'plain' : faultKind(current.kind as FaultCode).severity} />
                </Box>
                <Box minW="0" flex="1">
                  <Text fontWeight={650}>{faultKind(current.kind as FaultCode).title}</Text>
                  <Text textStyle="small" color="muted" overflowWrap="anywhere">
                    {[current.about, sizeOf(current)].filter((t) => t !== '').join(': ')}
                    {current.isLeft && ', left by you'}
                    {current.isMended && ', mended'}
                  </Text>
                </Box>
                {faults.mend && (
                  <Button
                    size="sm"
                    onClick={faults.mend}
                    title={current.isMended ? 'Take the mending of this one back (E)' : 'Mend this one; the others stay as they are (E)'}
                  >
                    {current.isMended ? 'As it was' : 'Mend it'}
                  </Button>
                )}
                <Button size="sm" onClick={faults.leave} title={current.isLeft ? 'Open it again (X)' : 'Let it be (X)'}>
                  {current.isLeft ? 'Open again' : 'Leave'}
                </Button>
              </Flex>
            </Box>
          )}
          <FaultList faults={faults} />
        </>
      )}
      <Flex gap="8px" p="12px" borderTopWidth="1px" borderColor="hairline">
        <Button flex="1" onClick={onAgain}>
          <RotateCcw {...ICON} />
          Work out again
        </Button>
        {onMend && (
          <Button flex="1" variant={open > 0 ? 'solid' : undefined} onClick={onMend}>
            <Hammer {...ICON} />
            Mend
          </Button>
        )}
      </Flex>
    </>
  );
}

/** How many of the faults are open and left, as one bar. */
function Shares({ list }: { list: readonly ListedFault[] }) {
  const count = (tone: 'wrong' | 'caution'): number =>
    list.filter((f) => !f.isLeft && !f.isMended && faultKind(f.kind as FaultCode).severity === tone).length;
  const shares = [
    ['madder', count('wrong')],
    ['amber', count('caution')],
    ['verdigris', list.filter((f) => f.isMended).length],
    ['ghost', list.filter((f) => f.isLeft && !f.isMended).length],
  ] as const;
  return (
    <Flex h="5px" gap="2px" mx="14px" mt="10px" aria-hidden="true">
      {shares.map(([tone, n]) => n > 0 && <Box key={tone} flexGrow={n} flexBasis="0" minW="4px" bg={tone} borderRadius="2px" />)}
    </Flex>
  );
}

const ROW = 27;

function FaultList({ faults: { list, current, choose } }: { faults: Faults }) {
  const holder = useRef<HTMLDivElement>(null);
  const virtual = useVirtualizer({
    count: list.length,
    getScrollElement: () => holder.current,
    estimateSize: () => ROW,
    getItemKey: (k) => list[k]!.key,
    overscan: 10,
  });
  const at = current ? list.indexOf(current) : -1;
  useEffect(() => {
    if (at >= 0) virtual.scrollToIndex(at);
  }, [at, virtual]);
  return (
    <Scroll ref={holder} borderTopWidth="1px" borderColor="hairline" role="list" aria-label="Faults">
      <Box position="relative" h={`${virtual.getTotalSize()}px`}>
        {virtual.getVirtualItems().map(({ index, key, start, size }) => {
          const fault = list[index]!;
          const { title, severity } = faultKind(fault.kind as FaultCode);
          const on = fault === current;
          return (
            <Box key={key} role="listitem" position="absolute" left="0" right="0" style={{ top: `${start}px`, height: `${size}px` }}>
              <chakra.button
                type="button"
                aria-current={on}
                onClick={() => choose(fault)}
                display="flex"
                alignItems="center"
                gap="8px"
                w="100%"
                h="100%"
                px="14px"
                textAlign="left"
                cursor="pointer"
                bg={on ? 'verdigrisTint' : undefined}
                boxShadow={on ? 'inset 3px 0 0 {colors.verdigris}' : undefined}
                _hover={{ bg: on ? 'verdigrisTint' : 'sunk' }}
                color={fault.isLeft || fault.isMended ? 'muted' : 'ink'}
              >
                <ToneIcon tone={fault.isMended ? 'good' : fault.isLeft ? 'plain' : severity} size={13} />
                <Text as="span" truncate fontWeight={on ? 600 : 400} flex="0 1 auto">
                  {title}
                </Text>
                <Muted textStyle="small" truncate flex="1 1 0" minW="0">
                  {fault.about}
                </Muted>
                <Mono flex="none" color={fault.isLeft ? 'muted' : undefined}>
                  {fault.isMended ? 'mended' : fault.isLeft ? 'left' : sizeOf(fault)}
                </Mono>
              </chakra.button>
            </Box>
          );
        })}
      </Box>
    </Scroll>
  );
}
