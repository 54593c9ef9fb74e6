import { Flex, Slider } from '@chakra-ui/react';
import { Mono, Muted } from './parts';

/** How far the images of a map are faded, so that what lies over them can be read. @param dim 0 to 1 */
export function Dim({ dim, onChange }: { dim: number; onChange(dim: number): void }) {
  return (
    <Flex align="center" gap="8px" whiteSpace="nowrap">
      <Muted>Dim the images</Muted>
      <Slider.Root
        size="sm"
        w="92px"
        min={0}
        max={90}
        step={10}
        value={[Math.round(dim * 100)]}
        aria-label={['Dim the images']}
        onValueChange={({ value }) => onChange((value[0] ?? 0) / 100)}
      >
        <Slider.Control>
          <Slider.Track bg="hairline" h="2px">
            <Slider.Range bg="verdigris" />
          </Slider.Track>
          <Slider.Thumb index={0} bg="surface" borderColor="verdigris" borderWidth="1.5px" boxSize="14px" boxShadow="none" />
        </Slider.Control>
      </Slider.Root>
      <Mono w="36px">{Math.round(dim * 100)} %</Mono>
    </Flex>
  );
}
