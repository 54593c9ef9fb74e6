import type { ReactNode } from 'react';
import { Box, chakra, Flex, type FlexProps } from '@chakra-ui/react';
import { ChevronLeft, ChevronRight } from 'lucide-react';
import { useKept } from '../state/kept';
import { ICON } from './parts';

/**
 * A panel on the left or right of a stage. It folds to a rail, and stays so from one visit to the next.
 *
 * It is a cell of a grid whose column takes the width that it has: `auto`.
 */
export function Side({
  side,
  label,
  width,
  children,
  ...rest
}: { side: 'left' | 'right'; label: string; width: string; children: ReactNode } & Omit<FlexProps, 'width'>) {
  const [folded, setFolded] = useKept(`side.${label}.folded`, false);
  const edge = side === 'left' ? { borderRightWidth: '1px' } : { borderLeftWidth: '1px' };
  const Chevron = (side === 'left') === folded ? ChevronRight : ChevronLeft;
  if (folded)
    return (
      <chakra.button
        type="button"
        aria-expanded="false"
        aria-label={`Unfold ${label}`}
        title={`Unfold ${label}`}
        onClick={() => setFolded(false)}
        display="flex"
        flexDirection="column"
        alignItems="center"
        gap="10px"
        w="32px"
        minH="0"
        pt="14px"
        bg="surface"
        borderColor="hairline"
        cursor="pointer"
        _hover={{ bg: 'sunk' }}
        {...edge}
      >
        <Chevron {...ICON} />
        <Box as="span" fontWeight={600} whiteSpace="nowrap" css={{ writingMode: 'vertical-rl' }}>
          {label}
        </Box>
      </chakra.button>
    );
  return (
    <Box position="relative" w={width} minH="0">
      <Flex
        as="aside"
        aria-label={label}
        direction="column"
        h="100%"
        bg="surface"
        minH="0"
        overflow="hidden"
        borderColor="hairline"
        {...edge}
        {...rest}
      >
        {children}
      </Flex>
      <chakra.button
        type="button"
        aria-expanded="true"
        aria-label={`Fold ${label} away`}
        title={`Fold ${label} away`}
        onClick={() => setFolded(true)}
        position="absolute"
        zIndex="1"
        top="50%"
        mt="-24px"
        w="11px"
        h="48px"
        display="grid"
        placeItems="center"
        bg="surface"
        color="muted"
        borderWidth="1px"
        borderColor="hairline"
        cursor="pointer"
        opacity={0.75}
        _hover={{ opacity: 1, bg: 'sunk', color: 'ink' }}
        _focusVisible={{ opacity: 1 }}
        // a finger needs more than is drawn
        css={{ '@media (pointer: coarse)': { '&::before': { content: '""', position: 'absolute', inset: '-6px -9px' } } }}
        {...(side === 'left'
          ? { left: 'calc(100% - 1px)', borderRightRadius: 'sheet' }
          : { right: 'calc(100% - 1px)', borderLeftRadius: 'sheet' })}
      >
        <Chevron size={10} strokeWidth={2} aria-hidden />
      </chakra.button>
    </Box>
  );
}
