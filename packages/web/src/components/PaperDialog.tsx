import type { ReactNode } from 'react';
import { Button, Dialog, Flex, Portal } from '@chakra-ui/react';
import { X } from 'lucide-react';
import { ICON } from './parts';

/** A dialog in the look of the page, with its title and a cross that closes it. */
export function PaperDialog({
  open,
  onClose,
  title,
  width = '620px',
  scroll,
  children,
}: {
  open: boolean;
  onClose(): void;
  title: ReactNode;
  width?: string;
  /** Whether all of it scrolls where there is much. */
  scroll?: boolean;
  children: ReactNode;
}) {
  return (
    <Dialog.Root
      open={open}
      onOpenChange={(e) => {
        if (!e.open) onClose();
      }}
      placement="center"
      size="lg"
    >
      <Portal>
        <Dialog.Backdrop bg={{ base: 'ink/30', _dark: 'paper/70' }} />
        <Dialog.Positioner>
          <Dialog.Content bg="surface" borderRadius="sheet" borderWidth="1px" borderColor="line" boxShadow="none" maxW={width}>
            <Flex justify="space-between" align="center" px="18px" pt="14px">
              <Dialog.Title textStyle="title">{title}</Dialog.Title>
              <Dialog.CloseTrigger asChild position="static">
                <Button variant="ghost" size="sm" aria-label="Close">
                  <X {...ICON} />
                </Button>
              </Dialog.CloseTrigger>
            </Flex>
            <Dialog.Body px="18px" pb="18px" pt="6px" {...(scroll ? { maxH: '60vh', overflowY: 'auto', tabIndex: 0 } : {})}>
              {children}
            </Dialog.Body>
          </Dialog.Content>
        </Dialog.Positioner>
      </Portal>
    </Dialog.Root>
  );
}
