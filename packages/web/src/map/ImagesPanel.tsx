import { Box, Button, Flex, Text } from '@chakra-ui/react';
import { X } from 'lucide-react';
import type { PixelValues } from '@pontrel/contract/pictures';
import { imageRule } from '@pontrel/core/crossing/recipe';
import { ICON, Mono, Muted } from '../components/parts';
import { ShareSlider } from '../components/ShareSlider';
import { SortableList, SortableRow } from '../components/SortableList';
import { shownRules, useChange, useCrossing } from '../crossing/use-crossing';
import { usePixelsQuery } from '../state/api';
import { EyeButton } from './MapToggle';

/** The images of the map from the top: shown or hidden, how opaque, their order, and their values under the pointer. */
export function ImagesPanel({ under, onClose }: { under: readonly [number, number] | null; onClose(): void }) {
  const { id, pictures, recipe } = useCrossing();
  const stamp = pictures.map((p) => p.stamp).join();
  const { currentData: values } = usePixelsQuery({ id, x: under?.[0] ?? 0, y: under?.[1] ?? 0, stamp }, { skip: !under });
  const change = useChange();
  const names = pictures.map((p) => p.source);
  const hidden = (name: string): boolean => imageRule(recipe, name).shown?.hidden === true;
  const allHidden = names.every(hidden);
  const hide = (which: readonly string[], on: boolean): void =>
    change(`${on ? 'hide' : 'show'} ${which.length === 1 ? which[0] : 'all images'}`, (draft) => {
      for (const name of which) {
        const shown = shownRules(draft, name);
        if (on) shown.hidden = true;
        else delete shown.hidden;
      }
    });
  return (
    <Box
      position="absolute"
      right="40px"
      top="8px"
      w="300px"
      bg="surface"
      borderWidth="1px"
      borderColor="ink"
      borderRadius="sheet"
      role="region"
      aria-label="Images on the map"
    >
      <Flex align="center" gap="8px" px="10px" h="36px">
        <Text fontWeight={650}>Images</Text>
        <Muted textStyle="small">the first lies on top</Muted>
        <Box flex="1" />
        <EyeButton label="All images" on={!allHidden} onChange={(on) => hide(names, !on)} />
        <Button size="sm" variant="ghost" px="0" minW="24px" h="24px" aria-label="Close the list of images" onClick={onClose}>
          <X {...ICON} size={14} />
        </Button>
      </Flex>
      <SortableList
        names={names}
        onOrder={(order) => change('order of the images', (draft) => void (draft.images = order))}
        maxH="280px"
        overflowY="auto"
        pb="4px"
      >
        {names.map((name) => (
          <Row
            key={name}
            name={name}
            value={valueAt(values?.find((v) => v.source === name))}
            hidden={hidden(name)}
            opacity={imageRule(recipe, name).shown?.opacity ?? 1}
            onHide={(on) => hide([name], on)}
            onOpacity={(opacity) =>
              change(`opacity of ${name}`, (draft) => {
                const shown = shownRules(draft, name);
                if (opacity < 1) shown.opacity = opacity;
                else delete shown.opacity;
              })
            }
          />
        ))}
      </SortableList>
    </Box>
  );
}

/** Values at a pixel as one reads them. */
function valueAt(found: PixelValues[number] | undefined): string | null {
  if (!found) return null;
  const said = found.values === null ? 'no value' : found.values.map((v) => Number(v.toPrecision(7))).join(' ');
  return `${said}  at ${found.pixel.join(', ')}`;
}

function Row({
  name,
  value,
  hidden,
  opacity,
  onHide,
  onOpacity,
}: {
  name: string;
  /** What it has under the pointer; null where it has no pixel there. */
  value: string | null;
  hidden: boolean;
  opacity: number;
  onHide(hidden: boolean): void;
  onOpacity(opacity: number): void;
}) {
  return (
    <SortableRow name={name} gap="6px" h="42px" px="8px">
      <Box flex="1" minW="0">
        <Mono display="block" fontSize="11.5px" truncate color={hidden ? 'muted' : 'ink'} title={name}>
          {name}
        </Mono>
        <Mono display="block" fontSize="10.5px" lineHeight="14px" color="muted" truncate title={value ?? undefined} whiteSpace="pre">
          {value ?? '–'}
        </Mono>
      </Box>
      <ShareSlider
        label={`Opacity of ${name}`}
        thumb="12px"
        w="66px"
        min={10}
        max={100}
        defaultValue={[Math.round(opacity * 100)]}
        disabled={hidden}
        onValueChangeEnd={({ value }) => onOpacity((value[0] ?? 100) / 100)}
      />
      <EyeButton label={name} on={!hidden} onChange={(on) => onHide(!on)} />
    </SortableRow>
  );
}
