import { Button } from '@chakra-ui/react';
import { Eye, EyeOff, type LucideIcon } from 'lucide-react';
import { ICON } from '../components/parts';

/** A small button of a list on the map that is pressed or not. */
export function MapToggle({
  icon: Icon,
  label,
  title,
  pressed,
  color,
  disabled,
  onClick,
}: {
  icon: LucideIcon;
  label: string;
  title: string;
  pressed: boolean;
  color: string;
  disabled?: boolean;
  onClick(): void;
}) {
  return (
    <Button
      size="sm"
      variant="ghost"
      px="0"
      minW="24px"
      h="24px"
      aria-pressed={pressed}
      aria-label={label}
      title={title}
      color={color}
      disabled={disabled}
      onClick={onClick}
    >
      <Icon {...ICON} size={14} />
    </Button>
  );
}

/** Shows something on the map, or takes it away. */
export const EyeButton = ({ label, on, onChange }: { label: string; on: boolean; onChange(on: boolean): void }) => (
  <MapToggle
    icon={on ? Eye : EyeOff}
    label={`Show ${label}`}
    title={on ? 'Switch off on the map' : 'Show on the map'}
    pressed={on}
    color={on ? 'ink' : 'muted'}
    onClick={() => onChange(!on)}
  />
);
