import { Flex } from '@chakra-ui/react';
import type { ImageSettings } from '@pontrel/core/crossing/recipe';
import { grouped, readScale } from '../components/numbers';
import { Choice, Muted } from '../components/parts';
import { TypedText } from '../components/Typed';

type Drawn = NonNullable<ImageSettings['drawn']>;

/**
 * Whether records are drawn over an image, and at which scale.
 * @param optional whether there is an image without them
 * @param usual the scale to begin with
 * @param size pixels of the map, once they are known
 */
export function MapOptions({
  drawn,
  optional,
  usual,
  size,
  onChange,
}: {
  drawn: Drawn | undefined;
  optional: boolean;
  usual(): Drawn;
  size: { width: number; height: number } | undefined;
  onChange(drawn: Drawn | null): void;
}) {
  return (
    <Flex align="center" gap="10px" wrap="wrap">
      {optional && (
        <Choice<'without' | 'drawn'>
          small
          label="Records on the image"
          value={drawn ? 'drawn' : 'without'}
          onChange={(how) => onChange(how === 'drawn' ? usual() : null)}
          options={[
            { value: 'without', label: 'Without' },
            { value: 'drawn', label: 'Drawn over it' },
          ]}
        />
      )}
      {drawn && (
        <>
          <Muted>{optional ? 'at' : 'drawn at'}</Muted>
          <TypedText
            label="Scale of the map"
            value={`1:${drawn.scale}`}
            width="92px"
            fault={(text) => (readScale(text) === null ? 'A scale is wanted, such as 1:500.' : null)}
            onChange={(text) => onChange({ ...drawn, scale: readScale(text)! })}
          />
          <TypedText
            label="Dots an inch"
            value={String(drawn.dpi)}
            width="58px"
            fault={(text) => (Number(text) >= 10 && Number(text) <= 2400 ? null : '10 to 2400')}
            onChange={(text) => onChange({ ...drawn, dpi: Number(text) })}
          />
          <Muted>dpi</Muted>
          {size && (
            <Muted truncate>
              = {onPaper(size.width, drawn.dpi)} × {onPaper(size.height, drawn.dpi)} mm on paper
            </Muted>
          )}
        </>
      )}
    </Flex>
  );
}

/** Millimetres that so many pixels take when they are printed. */
const onPaper = (pixels: number, dpi: number): string => grouped(Math.round((pixels * 25.4) / dpi));
