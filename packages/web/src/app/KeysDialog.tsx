import { Box, Button, Dialog, Flex, Kbd, Portal, Text } from '@chakra-ui/react';
import { X } from 'lucide-react';
import { ICON } from '../components/parts';
import { useAppDispatch, useAppSelector } from '../state/store';
import { keysToggled } from '../state/ui';
import { KEYS } from './keys';

export function KeysDialog() {
  const open = useAppSelector((s) => s.ui.keysShown);
  const dispatch = useAppDispatch();
  const places = [...new Set(KEYS.map((k) => k.where))];
  return (
    <Dialog.Root open={open} onOpenChange={(e) => dispatch(keysToggled(e.open))} placement="center" size="md">
      <Portal>
        <Dialog.Backdrop bg={{ base: 'ink/30', _dark: 'paper/70' }} />
        <Dialog.Positioner>
          <Dialog.Content bg="surface" borderRadius="sheet" borderWidth="1px" borderColor="line" boxShadow="none" maxW="560px">
            <Flex justify="space-between" align="center" px="18px" pt="14px">
              <Dialog.Title textStyle="title">Keys</Dialog.Title>
              <Dialog.CloseTrigger asChild position="static">
                <Button variant="ghost" size="sm" aria-label="Close">
                  <X {...ICON} />
                </Button>
              </Dialog.CloseTrigger>
            </Flex>
            <Dialog.Body px="18px" pb="18px" pt="4px">
              {places.map((where) => (
                <Box key={where} mt="10px">
                  <Text textStyle="small" color="muted" mb="2px">
                    {where}
                  </Text>
                  {KEYS.filter((k) => k.where === where).map((k) => (
                    <Flex key={k.does} justify="space-between" gap="16px" py="5px" borderTopWidth="1px" borderColor="hairline">
                      <Text>{k.does}</Text>
                      <Flex gap="4px" flex="none">
                        {k.keys.map((key) => (
                          <Kbd
                            key={key}
                            bg="paper"
                            borderWidth="1px"
                            borderColor="line"
                            borderRadius="chip"
                            fontFamily="mono"
                            fontSize="11px"
                            boxShadow="none"
                            color="ink"
                            px="6px"
                          >
                            {key}
                          </Kbd>
                        ))}
                      </Flex>
                    </Flex>
                  ))}
                </Box>
              ))}
            </Dialog.Body>
          </Dialog.Content>
        </Dialog.Positioner>
      </Portal>
    </Dialog.Root>
  );
}
