import { chakra } from '@chakra-ui/react';
import type { ImageMember } from '@pontrel/core/content/raster/profile';
import { Mono, Muted, Tick, ToneIcon } from '../components/parts';
import { SortableList, SortableRow } from '../components/SortableList';

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
  return (
    <SortableList names={tiles.map((t) => t.name)} onOrder={onOrder} aria-label="Tiles, the first on top">
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
    </SortableList>
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
  const mean = tile.bands.reduce((n, b) => n + b.mean, 0) / Math.max(1, tile.bands.length);
  return (
    <SortableRow name={tile.name} chosen={chosen} gap="5px" h="25px">
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
    </SortableRow>
  );
}
