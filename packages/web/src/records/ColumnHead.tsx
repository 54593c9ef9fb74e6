import { useState } from 'react';
import { Box, Button, chakra, Flex, Menu, Portal } from '@chakra-ui/react';
import { useSortable } from '@dnd-kit/sortable';
import type { Column, Header } from '@tanstack/react-table';
import { ArrowDown, ArrowLeftToLine, ArrowUp, ChartColumn, EllipsisVertical, EyeOff, MoveHorizontal, Pin, PinOff } from 'lucide-react';
import { ICON } from '../components/parts';
import type { FieldColumn } from './columns';

/** What a person does with a column. */
export interface ColumnActs {
  onSort(field: string, to?: 'ascending' | 'descending'): void;
  onMove(field: string, by: -1 | 1): void;
  onStatistics(field: string): void;
}

/** The head of a column: a click orders by it, its edge is dragged to another width, and it is dragged to another place. */
export function ColumnHead({
  header,
  sorted,
  left,
  acts,
}: {
  header: Header<FieldColumn, unknown>;
  sorted: 'ascending' | 'descending' | 'none';
  /** Where it is held when the table is moved aside, pixels; null where it goes along. */
  left: number | null;
  acts: ColumnActs;
}) {
  const { column } = header;
  const name = column.id;
  const number = (column.columnDef.meta as FieldColumn).number;
  const { setNodeRef, listeners, transform, isDragging } = useSortable({ id: name });
  const [inMenu, setInMenu] = useState(false);
  return (
    <Flex
      ref={setNodeRef}
      role="columnheader"
      aria-sort={sorted}
      align="center"
      flex="none"
      position={left === null ? 'relative' : 'sticky'}
      {...(left === null ? {} : { left: `${left}px`, zIndex: 2 })}
      bg="surface"
      h="100%"
      borderRightWidth={left === null ? 0 : '1px'}
      borderColor="hairline"
      style={{ width: header.getSize(), transform: transform ? `translateX(${transform.x}px)` : undefined, opacity: isDragging ? 0.6 : 1 }}
      css={{ '&:hover .more, &:focus-within .more': { opacity: 1 }, '@media (hover: none)': { '& .more': { opacity: 1 } } }}
    >
      <chakra.button
        type="button"
        display="flex"
        alignItems="center"
        justifyContent={number ? 'flex-end' : 'flex-start'}
        gap="4px"
        flex="1"
        minW="0"
        h="100%"
        pl="6px"
        pr="2px"
        cursor="pointer"
        textStyle="small"
        fontWeight={600}
        title={`Order by ${name}`}
        onClick={() => acts.onSort(name)}
        {...listeners}
      >
        <Box as="span" truncate>
          {name}
        </Box>
        {sorted !== 'none' && (sorted === 'descending' ? <ArrowDown {...ICON} size={12} /> : <ArrowUp {...ICON} size={12} />)}
      </chakra.button>
      <Box className="more" opacity={inMenu ? 1 : 0} flex="none">
        <ColumnMenu column={column} acts={acts} onOpen={setInMenu} />
      </Box>
      <Box
        position="absolute"
        right="-4px"
        top="0"
        bottom="0"
        w="8px"
        cursor="col-resize"
        zIndex="3"
        touchAction="none"
        title={`Width of ${name}; two clicks make it as wide as it needs`}
        onMouseDown={header.getResizeHandler()}
        onTouchStart={header.getResizeHandler()}
        onDoubleClick={() => column.resetSize()}
        _after={{ content: '""', position: 'absolute', left: '3px', top: '6px', bottom: '6px', w: '1px', bg: 'line' }}
        _hover={{ _after: { bg: 'verdigris', w: '2px' } }}
      />
    </Flex>
  );
}

function ColumnMenu({ column, acts, onOpen }: { column: Column<FieldColumn>; acts: ColumnActs; onOpen(open: boolean): void }) {
  const name = column.id;
  const frozen = column.getIsPinned() === 'left';
  const items = [
    { id: 'statistics', icon: ChartColumn, says: 'Statistics', does: () => acts.onStatistics(name) },
    { id: 'up', icon: ArrowUp, says: 'Order from the lowest', does: () => acts.onSort(name, 'ascending') },
    { id: 'down', icon: ArrowDown, says: 'Order from the highest', does: () => acts.onSort(name, 'descending') },
    {
      id: 'freeze',
      icon: frozen ? PinOff : Pin,
      says: frozen ? 'Let it go along' : 'Keep it in sight',
      does: () => column.pin(frozen ? false : 'left'),
    },
    { id: 'left', icon: ArrowLeftToLine, says: 'Move left', does: () => acts.onMove(name, -1) },
    { id: 'right', icon: MoveHorizontal, says: 'Move right', does: () => acts.onMove(name, 1) },
    { id: 'hide', icon: EyeOff, says: 'Hide', does: () => column.toggleVisibility(false) },
  ];
  return (
    <Menu.Root positioning={{ placement: 'bottom-end' }} onOpenChange={(e) => onOpen(e.open)} lazyMount unmountOnExit>
      <Menu.Trigger asChild>
        <Button size="sm" variant="ghost" px="0" minW="24px" h="24px" color="muted" aria-label={`More about the column ${name}`}>
          <EllipsisVertical {...ICON} size={13} />
        </Button>
      </Menu.Trigger>
      <Portal>
        <Menu.Positioner>
          <Menu.Content minW="180px">
            {items.map(({ id, icon: Icon, says, does }) => (
              <Menu.Item key={id} value={id} onClick={does}>
                <Icon {...ICON} size={14} />
                {says}
              </Menu.Item>
            ))}
          </Menu.Content>
        </Menu.Positioner>
      </Portal>
    </Menu.Root>
  );
}
