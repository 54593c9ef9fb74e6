import type { ReactNode } from 'react';
import { chakra } from '@chakra-ui/react';

/** Another way to begin, below the sources: an icon and what it does. */
export function SideAction({ onClick, children }: { onClick(): void; children: ReactNode }) {
  return (
    <chakra.button
      type="button"
      display="flex"
      alignItems="center"
      gap="10px"
      px="11px"
      minH="30px"
      cursor="pointer"
      color="muted"
      textAlign="left"
      _hover={{ color: 'ink' }}
      onClick={onClick}
    >
      {children}
    </chakra.button>
  );
}
