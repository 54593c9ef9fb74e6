import { Box, chakra, Text } from '@chakra-ui/react';
import { plural } from '../components/numbers';
import { Mono } from '../components/parts';
import { useCrossing } from '../crossing/use-crossing';
import { useCrsQuery } from '../state/api';
import { unitSymbol } from '@pontrel/core/crs/crs';
import { groundPixel, type ImageAt, kindOf, pixelsOf, sizeText, thumbnailOf, worstOf } from './image-at';
import type { ChooseHow } from '../components/choosing';
import { SheetCard, type SheetView } from './SheetCard';

/** What an image, or a mosaic, is, in a line. */
function lineOf({ images: { members }, source, placed: ruled }: ImageAt): string {
  const kind = kindOf(members[0]!);
  if (members.length > 1) return `mosaic of ${plural(members.length, 'tile')}, ${kind}`;
  if (ruled) return kind;
  const located = members[0]!.map !== null || members[0]!.pairs !== null;
  return located ? `${kind}${source.crs ? ', not placed yet' : ', no CRS stated'}` : `${kind}, without a position`;
}

/** Heights of the pictures; among the rows of a list they stay as they are. */
const HEIGHTS: Record<SheetView, string> = { cards: '93px', small: '58px', list: '58px' };

/** An image, or a mosaic of them, on the contact sheet. */
export function ImageCard({
  at,
  view,
  current,
  onSelect,
  onTake,
}: {
  at: ImageAt;
  view: SheetView;
  current: boolean;
  onSelect(how: ChooseHow): void;
  onTake(taken: boolean): void;
}) {
  const { id, recipe } = useCrossing();
  const { source } = at;
  const system = recipe.sources[source.name]?.placement?.crs ?? source.crs?.text;
  const { data: crs } = useCrsQuery(system ?? '', { skip: system === undefined });
  const pixel = groundPixel(at, crs ? unitSymbol(crs) : null);
  return (
    <SheetCard
      name={source.name}
      says={lineOf(at)}
      picture={<Thumbnail src={thumbnailOf(id, source)} dim={!at.taken} height={HEIGHTS[view]} />}
      grave={worstOf(at)}
      taken={at.taken}
      current={current}
      onSelect={onSelect}
      onTake={onTake}
    >
      <Text textStyle="small" mt="3px" truncate color={at.taken ? 'ink' : 'muted'}>
        {lineOf(at)}
      </Text>
      <Mono display="block" fontSize="11px" lineHeight="15px" color="muted" truncate>
        {sizeText(pixelsOf(at))}
        {pixel ? ` · ${pixel}` : ''}
      </Mono>
    </SheetCard>
  );
}

/** A small picture in its neatline. */
export function Thumbnail({ src, dim, height = '132px' }: { src: string; dim?: boolean; height?: string }) {
  return (
    <Box bg="map" borderWidth="1px" borderColor="ghost" opacity={dim ? 0.45 : 1} p="3px" h={height}>
      <chakra.img src={src} alt="" loading="lazy" w="100%" h="100%" objectFit="contain" display="block" />
    </Box>
  );
}
