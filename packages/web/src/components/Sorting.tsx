import type { ReactNode } from 'react';
import { chakra } from '@chakra-ui/react';
import { closestCenter, DndContext, type DragEndEvent, KeyboardSensor, PointerSensor, useSensor, useSensors } from '@dnd-kit/core';
import { arrayMove, SortableContext, sortableKeyboardCoordinates, useSortable, verticalListSortingStrategy } from '@dnd-kit/sortable';
import { GripVertical } from 'lucide-react';
import { ICON } from './parts';

/** Rows that are put into another order by dragging or by keyboard. @param names of the rows, from the top */
export function Sorting({ names, onOrder, children }: { names: readonly string[]; onOrder(names: string[]): void; children: ReactNode }) {
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
        {children}
      </SortableContext>
    </DndContext>
  );
}

/** What a row is moved by: dragged, or taken with the space bar and moved with the arrow keys. */
export function MoveHandle({
  name,
  sorted: { attributes, listeners },
}: {
  name: string;
  sorted: Pick<ReturnType<typeof useSortable>, 'attributes' | 'listeners'>;
}) {
  return (
    <chakra.button
      type="button"
      cursor="grab"
      color="ghost"
      minW="24px"
      h="24px"
      touchAction="none"
      {...attributes}
      {...listeners}
      aria-label={`Move ${name}`}
    >
      <GripVertical {...ICON} size={13} />
    </chakra.button>
  );
}
