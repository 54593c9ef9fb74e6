import { Button } from '@chakra-ui/react';
import { Eye, EyeOff } from 'lucide-react';
import { ICON } from '../components/parts';

/** Shows something on the map, or takes it away. */
export function EyeButton({ label, on, onChange }: { label: string; on: boolean; onChange(on: boolean): void }) {
  const Icon = on ? Eye : EyeOff;
  return (
    <Button
      size="sm"
      variant="ghost"
      px="0"
      minW="24px"
      h="24px"
      aria-pressed={on}
      aria-label={`Show ${label}`}
      title={on ? 'Switch off on the map' : 'Show on the map'}
      color={on ? 'ink' : 'muted'}
      onClick={() => onChange(!on)}
    >
      <Icon {...ICON} size={14} />
    </Button>
  );
}
