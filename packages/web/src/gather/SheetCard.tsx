import type { ReactNode } from 'react';
import { Box, chakra, Flex } from '@chakra-ui/react';
import { type ChooseHow, howOf } from '../components/choosing';
import { Mono, Tick, type Tone, ToneIcon } from '../components/parts';

/** How the layers are shown: as cards, as small ones, or as rows. */
export type SheetView = 'cards' | 'small' | 'list';

/** A card on the contact sheet: a small picture, a name that is taken or left, and what is said below it. */
export function SheetCard({
  name,
  says,
  picture,
  grave,
  taken,
  current,
  onSelect,
  onTake,
  children,
}: {
  name: string;
  /** What it is, for those who do not see the card. */
  says: string;
  picture: ReactNode;
  /** The gravest of what was found. */
  grave: Tone | null;
  taken: boolean;
  current: boolean;
  onSelect(how: ChooseHow): void;
  onTake(taken: boolean): void;
  children: ReactNode;
}) {
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
      // a drawing of a thousand layers draws the cards that are in sight
      css={{ contentVisibility: 'auto', containIntrinsicSize: 'auto 150px' }}
    >
      <Box p="5px" pb="0">
        {picture}
      </Box>
      {grave && (
        <Box position="absolute" right="9px" top="9px" bg="map" borderRadius="chip" p="1px">
          <ToneIcon tone={grave} size={14} />
        </Box>
      )}
      <Box px="8px" pt="5px" pb="7px">
        <Flex align="center" gap="7px">
          <Box position="relative" zIndex="1" lineHeight="0">
            <Tick label={`Take ${name}`} checked={taken} onChange={onTake} />
          </Box>
          <CardButton name={name} says={says} taken={taken} current={current} onSelect={onSelect} onTake={onTake} />
        </Flex>
        {children}
      </Box>
    </Box>
  );
}

/** The name of a layer, by which its card or its row is chosen; it lies over the whole of it. */
export function CardButton({
  name,
  says,
  taken,
  current,
  onSelect,
  onTake,
}: {
  name: string;
  says: string;
  taken: boolean;
  current: boolean;
  onSelect(how: ChooseHow): void;
  onTake(taken: boolean): void;
}) {
  return (
    <chakra.button
      type="button"
      data-card
      aria-pressed={current}
      aria-label={`${name}, ${says}`}
      onClick={(e) => onSelect(howOf(e))}
      minW="0"
      textAlign="left"
      cursor="pointer"
      _before={{ content: '""', position: 'absolute', inset: 0 }}
      onKeyDown={(e) => {
        if (e.key === ' ') {
          e.preventDefault();
          onTake(!taken);
        }
      }}
    >
      <Mono display="block" fontSize="11.5px" fontWeight={500} truncate color={taken ? 'ink' : 'muted'} title={name}>
        {name}
      </Mono>
    </chakra.button>
  );
}
