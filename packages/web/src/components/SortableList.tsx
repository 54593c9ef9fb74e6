import type { ReactNode } from 'react';
import { Box, type BoxProps, Flex, type FlexProps } from '@chakra-ui/react';
import { useSortable } from '@dnd-kit/sortable';
import { CSS } from '@dnd-kit/utilities';
import { MoveHandle, Sorting } from './Sorting';

/** A list of {@link SortableRow}s that are put into another order by dragging or by keyboard. @param names of the rows, from the top */
export function SortableList({
  names,
  onOrder,
  children,
  ...rest
}: { names: readonly string[]; onOrder(names: string[]): void; children: ReactNode } & BoxProps) {
  return (
    <Sorting names={names} onOrder={onOrder}>
      <Box role="list" {...rest}>
        {children}
      </Box>
    </Sorting>
  );
}

/** A row of it, with the handle that it is moved by. */
export function SortableRow({ name, chosen, children, ...rest }: { name: string; chosen?: boolean; children: ReactNode } & FlexProps) {
  const sorted = useSortable({ id: name });
  const { setNodeRef, transform, transition, isDragging } = sorted;
  return (
    <Flex
      ref={setNodeRef}
      role="listitem"
      align="center"
      borderTopWidth="1px"
      borderColor="hairline"
      bg={isDragging || chosen ? 'verdigrisTint' : 'surface'}
      position="relative"
      zIndex={isDragging ? 1 : 0}
      style={{ transform: CSS.Transform.toString(transform), transition }}
      {...rest}
    >
      <MoveHandle name={name} sorted={sorted} />
      {children}
    </Flex>
  );
}
