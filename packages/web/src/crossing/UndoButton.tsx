import { Button, Flex, Menu, Portal, Text } from '@chakra-ui/react';
import { ChevronDown, Redo2, Undo2 } from 'lucide-react';
import { ICON, Muted } from '../components/parts';
import { redo, undo } from '../state/recipe';
import { useAppDispatch, useAppSelector } from '../state/store';

/** Changes that are listed; the keys go further back. */
const LISTED = 12;

/** Takes the last change of a rule back, or all up to one in a list. */
export function UndoButton({ crossing }: { crossing: string }) {
  const dispatch = useAppDispatch();
  const trail = useAppSelector((s) => s.ui.trails[crossing]);
  const past = [...(trail?.past ?? [])].reverse(),
    next = trail?.future.at(-1);
  if (past.length === 0 && !next) return null;
  return (
    <Flex flex="none">
      <Button
        size="sm"
        px="0"
        borderEndRadius="0"
        aria-label={past[0] ? `Undo: ${past[0].label}` : 'Undo'}
        aria-keyshortcuts="Control+Z"
        title={past[0] ? `Undo: ${past[0].label} (Ctrl+Z)` : 'Nothing to undo'}
        disabled={past.length === 0}
        onClick={() => dispatch(undo(crossing))}
      >
        <Undo2 {...ICON} size={14} />
      </Button>
      <Menu.Root positioning={{ placement: 'bottom-start' }} lazyMount unmountOnExit>
        <Menu.Trigger asChild>
          <Button size="sm" px="0" minW="24px" ml="-1px" borderStartRadius="0" aria-label="Changes of rules">
            <ChevronDown {...ICON} size={12} />
          </Button>
        </Menu.Trigger>
        <Portal>
          <Menu.Positioner>
            <Menu.Content minW="240px" maxW="360px">
              {next && (
                <Menu.Item value="redo" onClick={() => dispatch(redo(crossing))}>
                  <Redo2 {...ICON} size={14} />
                  <Text truncate>Do again: {next.label}</Text>
                </Menu.Item>
              )}
              {past.slice(0, LISTED).map((change, k) => (
                <Menu.Item key={past.length - k} value={`undo ${k}`} onClick={() => dispatch(undo(crossing, k + 1))}>
                  <Undo2 {...ICON} size={14} />
                  <Text flex="1" truncate>
                    {change.label}
                  </Text>
                  {k > 0 && <Muted textStyle="small">with {k} since</Muted>}
                </Menu.Item>
              ))}
              {past.length > LISTED && (
                <Muted display="block" textStyle="small" px="10px" py="4px">
                  and {past.length - LISTED} before
                </Muted>
              )}
            </Menu.Content>
          </Menu.Positioner>
        </Portal>
      </Menu.Root>
    </Flex>
  );
}
