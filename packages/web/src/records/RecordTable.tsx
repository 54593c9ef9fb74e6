import { useEffect, useRef, useState } from 'react';
import { Box, chakra, Flex } from '@chakra-ui/react';
import { ArrowDown, ArrowUp } from 'lucide-react';
import type { RecordView, SourceState } from '@pontrel/contract/crossing';
import type { Picked } from '../map/styles';
import { grouped, shown } from '../components/numbers';
import { ICON, Mono, Muted, Tick } from '../components/parts';
import { useRecordsQuery } from '../state/api';

const ROW = 27,
  PAGE = 100,
  COLUMN = 132,
  FIRST = 104;

/** A page cannot be scrolled further than this many pixels in every browser. */
const MOST_PIXELS = 8_000_000;

export interface Order {
  sort?: string;
  descending?: 'yes';
  where?: string;
}

interface Rows {
  fields: string[];
  picked: Picked | null;
  ticked: ReadonlyMap<number, RecordView>;
  /** Finds a record on the map. */
  onPick(r: RecordView): void;
  /** @param span whether all from the row ticked before up to this one are meant */
  onTick(r: RecordView, row: number, on: boolean, span: boolean): void;
}

interface Props extends Rows {
  crossing: string;
  source: SourceState;
  layer: string;
  total: number;
  order: Order;
  onSort(field: string): void;
}

/** Rows are there only while they can be seen; pages of them are asked for as they come into sight. */
export function RecordTable({ crossing, source, layer, total, order, onSort, ...rows }: Props) {
  const { fields } = rows;
  const holder = useRef<HTMLDivElement>(null);
  const [seen, setSeen] = useState({ top: 0, height: 600 });
  useEffect(() => {
    const el = holder.current!;
    const look = (): void => setSeen({ top: el.scrollTop, height: el.clientHeight });
    look();
    const watch = new ResizeObserver(look);
    watch.observe(el);
    el.addEventListener('scroll', look, { passive: true });
    return () => {
      watch.disconnect();
      el.removeEventListener('scroll', look);
    };
  }, []);
  useEffect(() => {
    holder.current?.scrollTo({ top: 0 });
  }, [order]);
  const scale = Math.max(1, (total * ROW) / MOST_PIXELS);
  const top = seen.top * scale;
  const from = Math.max(0, Math.floor(top / ROW) - 4),
    to = Math.min(total, Math.ceil((top + seen.height) / ROW) + 4);
  const pages = Array.from({ length: Math.max(0, Math.ceil(to / PAGE) - Math.floor(from / PAGE)) }, (_, k) => Math.floor(from / PAGE) + k);
  const width = FIRST + fields.length * COLUMN;
  return (
    <Box ref={holder} flex="1" minH="0" overflow="auto" tabIndex={0} role="region" aria-label={`Records of ${layer}`}>
      <Box
        position="relative"
        minW={`${width}px`}
        h={`${Math.min(total * ROW, MOST_PIXELS) + ROW}px`}
        role="table"
        aria-rowcount={total + 1}
        aria-label={`Records of ${layer}`}
      >
        <Flex
          role="row"
          position="sticky"
          top="0"
          zIndex="1"
          h={`${ROW}px`}
          bg="surface"
          borderBottomWidth="1px"
          borderColor="line"
          pl="16px"
        >
          <Box role="columnheader" w={`${FIRST - 16}px`} pl="26px" flex="none" alignSelf="center">
            <Muted textStyle="small">place</Muted>
          </Box>
          {fields.map((f) => (
            <Box
              key={f}
              role="columnheader"
              aria-sort={order.sort === f ? (order.descending ? 'descending' : 'ascending') : 'none'}
              w={`${COLUMN}px`}
              flex="none"
            >
              <chakra.button
                type="button"
                display="flex"
                alignItems="center"
                gap="4px"
                w="100%"
                h="100%"
                px="6px"
                cursor="pointer"
                textStyle="small"
                fontWeight={600}
                title={`Order by ${f}`}
                onClick={() => onSort(f)}
              >
                <Box as="span" truncate>
                  {f}
                </Box>
                {order.sort === f && (order.descending ? <ArrowDown {...ICON} size={12} /> : <ArrowUp {...ICON} size={12} />)}
              </chakra.button>
            </Box>
          ))}
        </Flex>
        {pages.map((page) => (
          <PageRows
            key={page}
            {...rows}
            query={{ id: crossing, source: source.id, layer, offset: page * PAGE, limit: PAGE, ...order }}
            from={from}
            to={to}
            shift={seen.top - top}
          />
        ))}
      </Box>
    </Box>
  );
}

function PageRows({
  query,
  from,
  to,
  shift,
  fields,
  picked,
  ticked,
  onPick,
  onTick,
}: Rows & { query: Parameters<typeof useRecordsQuery>[0] & { offset: number }; from: number; to: number; shift: number }) {
  const { data } = useRecordsQuery(query);
  // whether Shift is held says nothing to a checkbox itself
  const span = useRef(false);
  return (data?.records ?? []).map((r, k) => {
    const row = query.offset + k;
    if (row < from || row >= to) return null;
    const on = picked?.id === r.id && picked.source === r.source,
      has = ticked.has(r.id);
    const bg = on ? 'oxideTint' : has ? 'verdigrisTint' : undefined;
    return (
      <Flex
        key={r.id}
        role="row"
        aria-rowindex={row + 2}
        aria-selected={on}
        tabIndex={0}
        position="absolute"
        left="0"
        right="0"
        top={`${ROW + row * ROW + shift}px`}
        h={`${ROW}px`}
        pl="16px"
        align="center"
        cursor="pointer"
        bg={bg}
        borderBottomWidth="1px"
        borderColor="hairline"
        _hover={{ bg: bg ?? 'sunk' }}
        onClick={() => onPick(r)}
        onKeyDown={(e) => {
          if (e.target !== e.currentTarget || (e.key !== 'Enter' && e.key !== ' ')) return;
          e.preventDefault();
          if (e.key === 'Enter') onPick(r);
          else onTick(r, row, !has, e.shiftKey);
        }}
      >
        <Flex
          role="cell"
          w={`${FIRST - 16}px`}
          flex="none"
          gap="10px"
          align="center"
          onClickCapture={(e) => void (span.current = e.shiftKey)}
        >
          <Tick label={`Choose ${grouped(r.place)}`} checked={has} onChange={(ticks) => onTick(r, row, ticks, span.current)} />
          <Mono color="muted" fontSize="11.5px">
            {grouped(r.place)}
          </Mono>
        </Flex>
        {fields.map((f) => (
          <Box key={f} role="cell" w={`${COLUMN}px`} flex="none" px="6px">
            <Mono
              display="block"
              fontSize="11.5px"
              truncate
              textAlign={typeof r.attributes[f] === 'number' ? 'right' : 'left'}
              title={r.attributes[f] === undefined || r.attributes[f] === null ? '' : String(r.attributes[f])}
            >
              {r.attributes[f] === undefined || r.attributes[f] === null ? '' : shown(r.attributes[f])}
            </Mono>
          </Box>
        ))}
      </Flex>
    );
  });
}
