import { useEffect, useLayoutEffect, useMemo, useRef, useState } from 'react';
import { Box, Button, Flex, Menu, Portal } from '@chakra-ui/react';
import { closestCenter, DndContext, PointerSensor, useSensor, useSensors } from '@dnd-kit/core';
import { arrayMove, horizontalListSortingStrategy, SortableContext } from '@dnd-kit/sortable';
import { type Column, type ColumnDef, getCoreRowModel, type Updater, useReactTable } from '@tanstack/react-table';
import { elementScroll, observeElementOffset, useVirtualizer } from '@tanstack/react-virtual';
import { Columns3, Copy } from 'lucide-react';
import type { RecordView, SourceState } from '@pontrel/contract/crossing';
import type { Picked } from '../map/styles';
import { grouped, plural, shown } from '../components/numbers';
import { ICON, Mono, Muted, Tick } from '../components/parts';
import { messageOfError, useLazyRecordsQuery, useRecordsQuery } from '../state/api';
import { useKept } from '../state/kept';
import { useAppDispatch } from '../state/store';
import { noticeGiven } from '../state/ui';
import { asTable, type FieldColumn } from './columns';
import { type ColumnActs, ColumnHead } from './ColumnHead';
import { ColumnStatistics } from './ColumnStatistics';

const ROW = 27,
  PAGE = 100,
  FIRST = 104;

/** A page cannot be scrolled further than this many pixels in every browser. */
const MOST_PIXELS = 8_000_000;
/** Records that are copied at once, and that are asked for at a time. */
const MOST_COPIED = 10_000,
  COPIED_PAGE = 200;

export interface Order {
  sort?: string;
  descending?: 'yes';
  where?: string;
}

interface Rows {
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
  columns: readonly FieldColumn[];
  total: number;
  order: Order;
  /** Orders by a field, the way that is said, or the next one. */
  onSort(field: string, to?: 'ascending' | 'descending'): void;
}

/** How a person has the columns of a layer. */
interface Arranged {
  order: string[];
  hidden: Record<string, boolean>;
  frozen: string[];
  widths: Record<string, number>;
}
const AS_THEY_COME: Arranged = { order: [], hidden: {}, frozen: [], widths: {} };

const settled = <T,>(updater: Updater<T>, now: T): T => (typeof updater === 'function' ? (updater as (now: T) => T)(now) : updater);

/** The columns as they are arranged: a table without rows, since these come in pages. */
function useColumns(of: string, columns: readonly FieldColumn[]) {
  const [arranged, setArranged] = useKept<Arranged>(of, AS_THEY_COME);
  const defs = useMemo(
    (): ColumnDef<FieldColumn>[] => columns.map((c) => ({ id: c.name, header: c.name, size: c.width, minSize: 40, maxSize: 900, meta: c })),
    [columns],
  );
  const { order, hidden, frozen, widths } = arranged;
  const visibility = Object.fromEntries(Object.entries(hidden).map(([name, is]) => [name, !is]));
  const pinning = { left: frozen, right: [] };
  return useReactTable({
    data: NO_ROWS,
    columns: defs,
    columnResizeMode: 'onChange',
    state: { columnOrder: order, columnVisibility: visibility, columnPinning: pinning, columnSizing: widths },
    onColumnOrderChange: (u) => setArranged({ ...arranged, order: settled(u, order) }),
    onColumnVisibilityChange: (u) =>
      setArranged({
        ...arranged,
        hidden: Object.fromEntries(Object.entries(settled(u, visibility)).flatMap(([name, is]) => (is ? [] : [[name, true]]))),
      }),
    onColumnPinningChange: (u) => setArranged({ ...arranged, frozen: settled(u, pinning).left ?? [] }),
    onColumnSizingChange: (u) => setArranged({ ...arranged, widths: settled(u, widths) }),
    getCoreRowModel: getCoreRowModel(),
  });
}
const NO_ROWS: FieldColumn[] = [];

/** A column where it stands: those that are frozen are held at a distance from the left edge. */
interface Standing {
  column: Column<FieldColumn>;
  left: number | null;
}

/** Rows are there only while they can be seen; pages of them are asked for as they come into sight. */
export function RecordTable({ crossing, source, layer, columns, total, order, onSort, ...rows }: Props) {
  const dispatch = useAppDispatch();
  const holder = useRef<HTMLDivElement>(null);
  const [statistics, setStatistics] = useState<string | null>(null);
  const [askRecords] = useLazyRecordsQuery();
  const [copying, setCopying] = useState(false);
  const table = useColumns(`records.${crossing}.${source.id}.${layer}`, columns);
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 8 } }));
  const standing = useMemo(
    (): Standing[] => [
      ...table.getLeftVisibleLeafColumns().map((column) => ({ column, left: FIRST + column.getStart('left') })),
      ...table.getCenterVisibleLeafColumns().map((column) => ({ column, left: null })),
    ],
    // eslint-disable-next-line react-hooks/exhaustive-deps -- the table is one object for all of its states
    [table, table.getState(), columns],
  );
  const names = standing.map((s) => s.column.id);
  // what watches the scroll bar is set up once, and asks what is so now
  const scaled = useRef(1);
  const virtual = useVirtualizer({
    count: total,
    getScrollElement: () => holder.current,
    estimateSize: () => ROW,
    overscan: 4,
    observeElementOffset: (instance, told) => observeElementOffset(instance, (offset, moving) => told(offset * scaled.current, moving)),
    scrollToFn: (offset, options, instance) => elementScroll(offset / scaled.current, options, instance),
  });
  // where a page cannot be scrolled so far, a pixel of its scroll bar is several of the table's
  const length = total * ROW + ROW,
    inner = Math.min(length, MOST_PIXELS);
  const height = virtual.scrollRect?.height ?? 0;
  const scale = inner === length ? 1 : (length - height) / (inner - height);
  useLayoutEffect(() => {
    scaled.current = scale;
  });
  useEffect(() => virtual.scrollToOffset(0), [virtual, order]);
  const move = (field: string, to: number): void => {
    const all = [...names, ...table.getAllLeafColumns().flatMap((c) => (names.includes(c.id) ? [] : [c.id]))];
    const from = all.indexOf(field);
    if (to < 0 || to >= names.length || from < 0) return;
    table.setColumnOrder(arrayMove(all, from, to));
  };
  const acts: ColumnActs = {
    onSort,
    onMove: (field, by) => move(field, names.indexOf(field) + by),
    onStatistics: setStatistics,
  };
  /** The records that are chosen, or else all that are listed, as a table on the clipboard. */
  const copy = async (): Promise<void> => {
    setCopying(true);
    try {
      const records = [...rows.ticked.values()];
      const wanted = Math.min(total, MOST_COPIED);
      for (let offset = 0; rows.ticked.size === 0 && offset < wanted; offset += COPIED_PAGE)
        records.push(
          ...(
            await askRecords(
              { id: crossing, source: source.id, layer, offset, limit: Math.min(COPIED_PAGE, wanted - offset), ...order },
              true,
            ).unwrap()
          ).records,
        );
      await navigator.clipboard.writeText(
        asTable(
          names,
          records.map((r) => names.map((n) => r.attributes[n])),
        ),
      );
      dispatch(
        noticeGiven({
          tone: rows.ticked.size === 0 && total > wanted ? 'caution' : 'good',
          message:
            `${plural(records.length, 'record')} copied as a table of ${plural(names.length, 'column')}.` +
            (rows.ticked.size === 0 && total > wanted
              ? ` The other ${grouped(total - wanted)} were not: hand over a deliverable for all of them.`
              : ''),
        }),
      );
    } catch (error) {
      dispatch(noticeGiven({ tone: 'wrong', message: `Nothing was copied. ${messageOfError(error)}` }));
    } finally {
      setCopying(false);
    }
  };
  const inSight = virtual.getVirtualItems();
  const [from, to] = [inSight[0]?.index ?? 0, (inSight.at(-1)?.index ?? -1) + 1];
  const pages = Array.from({ length: Math.max(0, Math.ceil(to / PAGE) - Math.floor(from / PAGE)) }, (_, k) => Math.floor(from / PAGE) + k);
  const offset = virtual.scrollOffset ?? 0;
  const width = FIRST + standing.reduce((n, s) => n + s.column.getSize(), 0) + 12;
  const heads = table.getFlatHeaders();
  const hidden = table.getAllLeafColumns().filter((c) => !c.getIsVisible()).length;
  return (
    <Box position="relative" flex="1" minH="0" display="flex" flexDirection="column">
      <Flex gap="6px" px="12px" py="5px" align="center" borderBottomWidth="1px" borderColor="hairline" flex="none">
        <Menu.Root closeOnSelect={false} lazyMount unmountOnExit>
          <Menu.Trigger asChild>
            <Button size="sm" variant="ghost">
              <Columns3 {...ICON} size={14} />
              {hidden > 0 ? `${columns.length - hidden} of ${plural(columns.length, 'column')}` : plural(columns.length, 'column')}
            </Button>
          </Menu.Trigger>
          <Portal>
            <Menu.Positioner>
              <Menu.Content minW="220px" maxH="60vh" overflowY="auto">
                {table.getAllLeafColumns().map((c) => (
                  <Menu.CheckboxItem key={c.id} value={c.id} checked={c.getIsVisible()} onCheckedChange={(on) => c.toggleVisibility(on)}>
                    <Mono flex="1" truncate>
                      {c.id}
                    </Mono>
                    <Menu.ItemIndicator />
                  </Menu.CheckboxItem>
                ))}
              </Menu.Content>
            </Menu.Positioner>
          </Portal>
        </Menu.Root>
        <Button size="sm" variant="ghost" disabled={copying || total === 0 || names.length === 0} onClick={() => void copy()}>
          <Copy {...ICON} size={14} />
          {copying ? 'Copying' : rows.ticked.size > 0 ? `Copy ${grouped(rows.ticked.size)}` : 'Copy'}
        </Button>
      </Flex>
      {statistics !== null && (
        <ColumnStatistics
          key={statistics}
          crossing={crossing}
          source={source.id}
          layer={layer}
          field={statistics}
          where={order.where}
          onClose={() => setStatistics(null)}
        />
      )}
      <DndContext
        sensors={sensors}
        collisionDetection={closestCenter}
        onDragEnd={({ active, over }) => {
          if (over && over.id !== active.id) move(String(active.id), names.indexOf(String(over.id)));
        }}
      >
        <Box ref={holder} flex="1" minH="0" overflow="auto" tabIndex={0} role="region" aria-label={`Records of ${layer}`}>
          <Box
            position="relative"
            minW={`${width}px`}
            h={`${inner}px`}
            role="table"
            aria-rowcount={total + 1}
            aria-label={`Records of ${layer}`}
          >
            <SortableContext items={names} strategy={horizontalListSortingStrategy}>
              <Flex
                role="row"
                position="sticky"
                top="0"
                zIndex="3"
                h={`${ROW}px`}
                bg="surface"
                borderBottomWidth="1px"
                borderColor="line"
                minW="100%"
              >
                <Flex
                  role="columnheader"
                  w={`${FIRST}px`}
                  pl="42px"
                  flex="none"
                  align="center"
                  position="sticky"
                  left="0"
                  bg="surface"
                  zIndex="2"
                >
                  <Muted textStyle="small">location</Muted>
                </Flex>
                {standing.map(({ column, left }) => (
                  <ColumnHead
                    key={column.id}
                    header={heads.find((h) => h.id === column.id)!}
                    sorted={order.sort === column.id ? (order.descending ? 'descending' : 'ascending') : 'none'}
                    left={left}
                    acts={acts}
                  />
                ))}
              </Flex>
            </SortableContext>
            {pages.map((page) => (
              <PageRows
                key={page}
                {...rows}
                standing={standing}
                query={{ id: crossing, source: source.id, layer, offset: page * PAGE, limit: PAGE, ...order }}
                from={from}
                to={to}
                shift={offset / scale - offset}
              />
            ))}
          </Box>
        </Box>
      </DndContext>
    </Box>
  );
}

function PageRows({
  query,
  from,
  to,
  shift,
  standing,
  picked,
  ticked,
  onPick,
  onTick,
}: Rows & {
  standing: readonly Standing[];
  query: Parameters<typeof useRecordsQuery>[0] & { offset: number };
  from: number;
  to: number;
  shift: number;
}) {
  const { data } = useRecordsQuery(query);
  // whether Shift is held says nothing to a checkbox itself
  const span = useRef(false);
  return (data?.records ?? []).map((r, k) => {
    const row = query.offset + k;
    if (row < from || row >= to) return null;
    const on = picked?.id === r.id && picked.source === r.source,
      has = ticked.has(r.id);
    const bg = on ? 'oxideTint' : has ? 'verdigrisTint' : 'surface';
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
        align="stretch"
        cursor="pointer"
        borderBottomWidth="1px"
        borderColor="hairline"
        bg={bg}
        _hover={{ bg: on || has ? bg : 'sunk' }}
        // what is frozen covers what goes along below it
        css={{ '& > *': { background: 'inherit' } }}
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
          w={`${FIRST}px`}
          pl="16px"
          flex="none"
          gap="10px"
          align="center"
          position="sticky"
          left="0"
          zIndex="1"
          onClickCapture={(e) => void (span.current = e.shiftKey)}
        >
          <Tick label={`Choose ${grouped(r.place)}`} checked={has} onChange={(ticks) => onTick(r, row, ticks, span.current)} />
          <Mono color="muted" fontSize="11.5px">
            {grouped(r.place)}
          </Mono>
        </Flex>
        {standing.map(({ column, left }) => {
          const value = r.attributes[column.id] ?? null;
          return (
            <Box
              key={column.id}
              role="cell"
              flex="none"
              px="6px"
              pr={(column.columnDef.meta as FieldColumn).number ? '20px' : '6px'}
              alignContent="center"
              {...(left === null
                ? {}
                : { position: 'sticky', left: `${left}px`, zIndex: 1, borderRightWidth: '1px', borderColor: 'hairline' })}
              style={{ width: column.getSize() }}
            >
              <Mono
                display="block"
                fontSize="11.5px"
                truncate
                textAlign={(column.columnDef.meta as FieldColumn).number ? 'right' : 'left'}
                title={value === null ? '' : String(value)}
              >
                {value === null ? '' : shown(value)}
              </Mono>
            </Box>
          );
        })}
      </Flex>
    );
  });
}
