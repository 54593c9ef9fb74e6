import { Slider } from '@chakra-ui/react';

type Root = Omit<Slider.RootProps, 'aria-label' | 'size'>;

/** A small slider of hundredths. */
export function ShareSlider({ label, thumb, ...rest }: { label: string; thumb: string } & Root) {
  return (
    <Slider.Root size="sm" step={10} aria-label={[label]} {...rest}>
      <Slider.Control>
        <Slider.Track bg="hairline" h="2px">
          <Slider.Range bg="verdigris" />
        </Slider.Track>
        <Slider.Thumb index={0} bg="surface" borderColor="verdigris" borderWidth="1.5px" boxSize={thumb} boxShadow="none" />
      </Slider.Control>
    </Slider.Root>
  );
}
