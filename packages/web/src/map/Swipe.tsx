import { useRef, useState } from 'react';
import { Box, Flex } from '@chakra-ui/react';

/** The divider between two pictures; dragged, or moved with the arrow keys. */
export function Swipe({ names, onMove }: { names: [string, string]; onMove(at: number): void }) {
  const [at, setAt] = useState(0.5);
  const box = useRef<HTMLDivElement>(null);
  const move = (t: number): void => {
    const clamped = Math.min(1, Math.max(0, t));
    setAt(clamped);
    onMove(clamped);
  };
  return (
    <Box ref={box} position="absolute" inset="0" pointerEvents="none" overflow="hidden">
      <Box
        position="absolute"
        top="0"
        bottom="0"
        left={`${at * 100}%`}
        w="3px"
        ml="-1.5px"
        bg="surface"
        borderXWidth="1px"
        borderColor="ink"
      />
      <Flex position="absolute" bottom="12px" left={`${at * 100}%`} transform="translateX(-50%)" gap="16px" whiteSpace="nowrap">
        <Flex
          align="center"
          justify="flex-end"
          gap="7px"
          bg="surface"
          borderWidth="1px"
          borderColor="line"
          borderRadius="chip"
          px="8px"
          h="24px"
          w="104px"
          fontSize="12px"
          fontWeight={550}
        >
          <Box w="14px" h="2.5px" bg="oxide" />
          {names[0]}
        </Flex>
        <Flex
          align="center"
          gap="7px"
          bg="surface"
          borderWidth="1px"
          borderColor="line"
          borderRadius="chip"
          px="8px"
          h="24px"
          w="104px"
          fontSize="12px"
          fontWeight={550}
        >
          <Box w="14px" h="2.5px" bg="verdigris" />
          {names[1]}
        </Flex>
      </Flex>
      <Box
        role="slider"
        tabIndex={0}
        aria-label={`Divider between ${names[0]} and ${names[1]}`}
        aria-valuemin={0}
        aria-valuemax={100}
        aria-valuenow={Math.round(at * 100)}
        aria-valuetext={`${Math.round(at * 100)} % ${names[0]}`}
        pointerEvents="auto"
        cursor="ew-resize"
        position="absolute"
        top="calc(50% - 15px)"
        left={`calc(${at * 100}% - 15px)`}
        w="30px"
        h="30px"
        bg="surface"
        borderWidth="1px"
        borderColor="ink"
        borderRadius="sheet"
        color="ink"
        touchAction="none"
        onPointerDown={(e) => e.currentTarget.setPointerCapture(e.pointerId)}
        onPointerMove={(e) => {
          const bounds = box.current!.getBoundingClientRect();
          if (e.currentTarget.hasPointerCapture(e.pointerId)) move((e.clientX - bounds.left) / bounds.width);
        }}
        onKeyDown={(e) => {
          const by = { ArrowLeft: -0.02, ArrowRight: 0.02, Home: -1, End: 1 }[e.key];
          if (by === undefined) return;
          e.preventDefault();
          move(at + by);
        }}
      >
        <svg width="28" height="28" viewBox="0 0 28 28" aria-hidden="true">
          <path
            d="M11 9l-5 5l5 5M17 9l5 5l-5 5"
            fill="none"
            stroke="currentColor"
            strokeWidth="1.6"
            strokeLinecap="round"
            strokeLinejoin="round"
          />
        </svg>
      </Box>
    </Box>
  );
}
