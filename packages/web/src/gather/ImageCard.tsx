import { Box, chakra, Flex, Text } from '@chakra-ui/react';
import { plural } from '../components/numbers';
import { Mono, Tick, ToneIcon } from '../components/parts';
import { useCrossing } from '../crossing/use-crossing';
import { useCrsQuery } from '../state/api';
import { unitSymbol } from '@pontrel/core/crs/crs';
import { groundPixel, type ImageAt, kindOf, pixelsOf, sizeText, thumbnailOf, worstOf } from './image-at';

/** What an image, or a mosaic, is, in a line. */
function lineOf({ images: { members }, source, placed: ruled }: ImageAt): string {
  const kind = kindOf(members[0]!);
  if (members.length > 1) return `mosaic of ${plural(members.length, 'tile')}, ${kind}`;
  if (ruled) return kind;
  const located = members[0]!.map !== null || members[0]!.pairs !== null;
  return located ? `${kind}${source.crs ? ', not placed yet' : ', no CRS stated'}` : `${kind}, without a position`;
}

/** An image, or a mosaic of them, on the contact sheet. */
export function ImageCard({
  at,
  current,
  onSelect,
  onTake,
}: {
  at: ImageAt;
  current: boolean;
  onSelect(): void;
  onTake(taken: boolean): void;
}) {
  const { id, recipe } = useCrossing();
  const { source } = at;
  const grave = worstOf(at);
  const system = recipe.sources[source.name]?.placement?.crs ?? source.crs?.text;
  const { data: crs } = useCrsQuery(system ?? '', { skip: system === undefined });
  const pixel = groundPixel(at, crs ? unitSymbol(crs) : null);
  return (
    <Box
      role="listitem"
      position="relative"
      borderWidth="1px"
      borderColor={current ? 'verdigris' : 'hairline'}
      boxShadow={current ? '0 0 0 1px {colors.verdigris}' : undefined}
      borderRadius="sheet"
      bg={current ? 'verdigrisTint/40' : 'surface'}
      overflow="hidden"
      _hover={{ borderColor: 'verdigrisLine' }}
    >
      <Box p="6px" pb="0">
        <Thumbnail src={thumbnailOf(id, source)} dim={!at.taken} />
      </Box>
      {grave && (
        <Box position="absolute" right="10px" top="10px" bg="map" borderRadius="chip" p="1px">
          <ToneIcon tone={grave} size={14} />
        </Box>
      )}
      <Box px="9px" pt="6px" pb="8px">
        <Flex align="center" gap="7px">
          <Box position="relative" zIndex="1" lineHeight="0">
            <Tick label={`Take ${source.name}`} checked={at.taken} onChange={onTake} />
          </Box>
          <chakra.button
            type="button"
            aria-pressed={current}
            aria-label={`${source.name}, ${lineOf(at)}`}
            onClick={onSelect}
            minW="0"
            textAlign="left"
            cursor="pointer"
            _before={{ content: '""', position: 'absolute', inset: 0 }}
            onKeyDown={(e) => {
              if (e.key === ' ') {
                e.preventDefault();
                onTake(!at.taken);
              }
            }}
          >
            <Mono display="block" fontSize="11.5px" fontWeight={500} truncate color={at.taken ? 'ink' : 'muted'} title={source.name}>
              {source.name}
            </Mono>
          </chakra.button>
        </Flex>
        <Text textStyle="small" mt="3px" truncate color={at.taken ? 'ink' : 'muted'}>
          {lineOf(at)}
        </Text>
        <Mono display="block" fontSize="11px" lineHeight="15px" color="muted" truncate>
          {sizeText(pixelsOf(at))}
          {pixel ? ` · ${pixel}` : ''}
        </Mono>
      </Box>
    </Box>
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
