import { Flex } from '@chakra-ui/react';
import { Mono, Muted } from './parts';
import { ShareSlider } from './ShareSlider';

/** How far the images of a map are faded, so that what lies over them can be read. @param dim 0 to 1 */
export function Dim({ dim, onChange }: { dim: number; onChange(dim: number): void }) {
  return (
    <Flex align="center" gap="8px" whiteSpace="nowrap">
      <Muted>Dim the images</Muted>
      <ShareSlider
        label="Dim the images"
        thumb="14px"
        w="92px"
        min={0}
        max={90}
        value={[Math.round(dim * 100)]}
        onValueChange={({ value }) => onChange((value[0] ?? 0) / 100)}
      />
      <Mono w="36px">{Math.round(dim * 100)} %</Mono>
    </Flex>
  );
}
