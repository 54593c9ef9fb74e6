import { useState } from 'react';
import { Flex, Input } from '@chakra-ui/react';
import type { ImageSettings } from '@pontrel/core/crossing/recipe';
import { type Crs, isPlane, unitSymbol } from '@pontrel/core/crs/crs';
import { parseLength } from '@pontrel/core/io/length-text';
import { Choice, Mono, Muted } from '../components/parts';
import { TypedText } from '../components/Typed';

/** Sets how large a pixel is; as in the source where nothing is said. */
export function setPixelSize(settings: ImageSettings, size: [number, number] | null): void {
  if (size) settings.pixelSize = size;
  else delete settings.pixelSize;
}

type Way = 'native' | 'ground' | 'scale';

/** How large a pixel is: as in the source, in units of the target, or by a scale and the dots of a printer. */
export function PixelSize({
  size,
  crs,
  native,
  onChange,
}: {
  size: [number, number] | undefined;
  crs: Crs | undefined;
  native: [number, number] | undefined;
  onChange(size: [number, number] | null): void;
}) {
  const [way, setWay] = useState<Way>(size ? 'ground' : 'native');
  const [scale, setScale] = useState('1000');
  const [dpi, setDpi] = useState('200');
  const metres = crs && isPlane(crs) ? crs.unit.metres : null;
  const unit = crs ? unitSymbol(crs) : '';
  const shown = size ?? native;
  const byScale = (s: string, d: string): void => {
    const [denominator, dots] = [Number(s.replace(/^1\s*:\s*/, '').replace(/\s/g, '')), Number(d)];
    if (metres !== null && denominator > 0 && dots > 0) {
      const pixel = Number(((denominator * 0.0254) / dots / metres).toPrecision(6));
      onChange([pixel, pixel]);
    }
  };
  const read = (text: string): number | null => {
    if (metres === null) return Number(text) > 0 ? Number(text) : null;
    const length = parseLength(text, 'm');
    return length === null ? null : /[a-z]/i.test(text) ? length / metres : Number(text.replace(',', '.'));
  };
  return (
    <Flex align="center" gap="10px" wrap="wrap">
      <Choice<Way>
        small
        label="How large a pixel is"
        value={way}
        onChange={(w) => {
          setWay(w);
          if (w === 'native') onChange(null);
          if (w === 'ground' && shown) onChange([rounded(shown[0]), rounded(shown[1])]);
          if (w === 'scale') byScale(scale, dpi);
        }}
        options={[
          { value: 'native', label: 'As in the source' },
          { value: 'ground', label: 'On the ground' },
          { value: 'scale', label: 'Scale and dpi', disabled: metres === null },
        ]}
      />
      {way === 'ground' && (
        <TypedText
          label="Pixel on the ground"
          width="104px"
          value={shown ? `${shown[0]} ${unit}` : ''}
          fault={(text) => (read(text.replace(/[°]/g, '')) === null ? `A size in ${unit} is wanted.` : null)}
          onChange={(text) => {
            const value = read(text.replace(/[°]/g, ''))!;
            onChange([value, value]);
          }}
        />
      )}
      {way === 'scale' && (
        <>
          <Flex align="center" gap="4px">
            1:
            <ShortInput label="Scale" width="72px" value={scale} onChange={setScale} onDone={() => byScale(scale, dpi)} />
          </Flex>
          <Flex align="center" gap="4px">
            <ShortInput label="Dots per inch" width="56px" value={dpi} onChange={setDpi} onDone={() => byScale(scale, dpi)} />
            dpi
          </Flex>
        </>
      )}
      {way !== 'ground' && shown && (
        <Muted>
          {way === 'scale' ? '= ' : ''}
          <Mono>
            {rounded(shown[0])} {unit}
          </Mono>
        </Muted>
      )}
      {way === 'ground' && shown && metres !== null && <Muted truncate>= 1:1 000 at {Math.round(25.4 / (shown[0] * metres))} dpi</Muted>}
    </Flex>
  );
}

const rounded = (v: number): number => Number(v.toPrecision(6));

/** A number that counts once it was left. */
function ShortInput({
  label,
  width,
  value,
  onChange,
  onDone,
}: {
  label: string;
  width: string;
  value: string;
  onChange(value: string): void;
  onDone(): void;
}) {
  return (
    <Input
      h="26px"
      w={width}
      fontFamily="mono"
      fontSize="12px"
      aria-label={label}
      value={value}
      onChange={(e) => onChange(e.target.value)}
      onBlur={onDone}
    />
  );
}
