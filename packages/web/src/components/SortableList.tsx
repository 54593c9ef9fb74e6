import type { ReactNode } from 'react';
import { Box, type BoxProps, chakra, Flex, type FlexProps } from '@chakra-ui/react';
import { closestCenter, DndContext, type DragEndEvent, KeyboardSensor, PointerSensor, useSensor, useSensors } from '@dnd-kit/core';
import { arrayMove, SortableContext, sortableKeyboardCoordinates, useSortable, verticalListSortingStrategy } from '@dnd-kit/sortable';
import { CSS } from '@dnd-kit/utilities';
import { GripVertical } from 'lucide-react';
import { ICON } from './parts';

/** A list of {@link SortableRow}s that are put into another order by dragging or by keyboard. @param names of the rows, from the top */
export function SortableList({
  names,
  onOrder,
  children,
  ...rest
}: { names: readonly string[]; onOrder(names: string[]): void; children: ReactNode } & BoxProps) {
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const drop = ({ active, over }: DragEndEvent): void => {
    if (over && active.id !== over.id) onOrder(arrayMove([...names], names.indexOf(String(active.id)), names.indexOf(String(over.id))));
  };
  return (
    <DndContext sensors={sensors} collisionDetection={closestCenter} onDragEnd={drop}>
      <SortableContext items={[...names]} strategy={verticalListSortingStrategy}>
        <Box role="list" {...rest}>
          {children}
        </Box>
      </SortableContext>
    </DndContext>
  );
}

/** A row of it, with the handle that it is moved by. */
export function SortableRow({ name, chosen, children, ...rest }: { name: string; chosen?: boolean; children: ReactNode } & FlexProps) {
  const { attributes, listeners, setNodeRef, transform, transition, isDragging } = useSortable({ id: name });
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
      <chakra.button
        type="button"
        cursor="grab"
        color="ghost"
        minW="18px"
        h="24px"
        touchAction="none"
        {...attributes}
        {...listeners}
        aria-label={`Move ${name}`}
      >
        <GripVertical {...ICON} size={13} />
      </chakra.button>
      {children}
    </Flex>
  );
}
