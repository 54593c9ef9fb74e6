import { Box, chakra, Flex } from '@chakra-ui/react';
import { closestCenter, DndContext, type DragEndEvent, KeyboardSensor, PointerSensor, useSensor, useSensors } from '@dnd-kit/core';
import { arrayMove, SortableContext, sortableKeyboardCoordinates, useSortable, verticalListSortingStrategy } from '@dnd-kit/sortable';
import { CSS } from '@dnd-kit/utilities';
import { GripVertical } from 'lucide-react';
import type { ImageMember } from '@pontrel/core/content/raster/profile';
import { ICON, Mono, Muted, Tick, ToneIcon } from '../components/parts';

/** The tiles of a mosaic in the order in which they cover each other: to be dragged, to be taken or left. */
export function TileList({
  tiles,
  numbers,
  left,
  chosen,
  onOrder,
  onTake,
  onChoose,
}: {
  /** From the top. */
  tiles: readonly ImageMember[];
  numbers: ReadonlyMap<string, number>;
  left: readonly string[];
  chosen: string | null;
  onOrder(names: string[]): void;
  onTake(name: string, taken: boolean): void;
  onChoose(name: string): void;
}) {
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const names = tiles.map((t) => t.name);
  const drop = ({ active, over }: DragEndEvent): void => {
    if (over && active.id !== over.id) onOrder(arrayMove(names, names.indexOf(String(active.id)), names.indexOf(String(over.id))));
  };
  return (
    <DndContext sensors={sensors} collisionDetection={closestCenter} onDragEnd={drop}>
      <SortableContext items={names} strategy={verticalListSortingStrategy}>
        <Box role="list" aria-label="Tiles, the first on top">
          {tiles.map((tile) => (
            <TileRow
              key={tile.name}
              tile={tile}
              number={numbers.get(tile.name)!}
              taken={!left.includes(tile.name) && tile.unfit === null}
              chosen={tile.name === chosen}
              onTake={(on) => onTake(tile.name, on)}
              onChoose={() => onChoose(tile.name)}
            />
          ))}
        </Box>
      </SortableContext>
    </DndContext>
  );
}

function TileRow({
  tile,
  number,
  taken,
  chosen,
  onTake,
  onChoose,
}: {
  tile: ImageMember;
  number: number;
  taken: boolean;
  chosen: boolean;
  onTake(taken: boolean): void;
  onChoose(): void;
}) {
  const { attributes, listeners, setNodeRef, transform, transition, isDragging } = useSortable({ id: tile.name });
  const mean = tile.bands.reduce((n, b) => n + b.mean, 0) / Math.max(1, tile.bands.length);
  return (
    <Flex
      ref={setNodeRef}
      role="listitem"
      align="center"
      gap="5px"
      h="25px"
      borderTopWidth="1px"
      borderColor="hairline"
      bg={isDragging ? 'verdigrisTint' : chosen ? 'verdigrisTint' : 'surface'}
      position="relative"
      zIndex={isDragging ? 1 : 0}
      style={{ transform: CSS.Transform.toString(transform), transition }}
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
        aria-label={`Move ${tile.name}`}
      >
        <GripVertical {...ICON} size={13} />
      </chakra.button>
      <Tick label={`Take ${tile.name}`} checked={taken} disabled={tile.unfit !== null} onChange={onTake} />
      <Mono fontWeight={650} w="18px" fontSize="11.5px">
        {number}
      </Mono>
      <chakra.button type="button" flex="1" minW="0" h="24px" textAlign="left" cursor="pointer" aria-pressed={chosen} onClick={onChoose}>
        <Mono fontSize="11.5px" display="block" truncate color={taken ? 'ink' : 'muted'} title={tile.unfit ?? tile.name}>
          {tile.name}
        </Mono>
      </chakra.button>
      {tile.unfit !== null ? (
        <ToneIcon tone="wrong" size={13} />
      ) : (
        <Muted textStyle="small">{mean < 1000 ? mean.toFixed(1) : Math.round(mean)}</Muted>
      )}
    </Flex>
  );
}
