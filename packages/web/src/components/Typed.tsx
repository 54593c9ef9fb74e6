import { useState } from 'react';
import { Box, Input, type InputProps } from '@chakra-ui/react';
import { typedLength, useLengthUnit } from './length-unit';
import { parseLength } from '@pontrel/core/io/length-text';

/** A field that holds its text until it is left or Enter is pressed; Escape takes it back. `fault` says what is wrong with a text. */
export function TypedText({
  label,
  value,
  onChange,
  fault,
  hint,
  width,
  maxLength,
  list,
  ...look
}: {
  label: string;
  value: string;
  onChange(text: string): void;
  fault?: (text: string) => string | null;
  hint?: string;
  width?: string;
  maxLength?: number;
  list?: string;
} & Pick<InputProps, 'h' | 'bg' | 'textAlign' | 'borderColor' | 'fontWeight' | '_hover'>) {
  const [text, setText] = useState<string | null>(null);
  const wrong = text === null ? (fault?.(value) ?? null) : (fault?.(text) ?? null);
  const save = (): void => {
    // what cannot be taken stays to be mended
    if (text !== null && wrong !== null) return;
    if (text !== null && text !== value) onChange(text);
    setText(null);
  };
  return (
    <Box w={width ?? '100%'}>
      <Input
        size="sm"
        h="26px"
        fontFamily="mono"
        fontSize="12px"
        aria-label={label}
        aria-invalid={wrong !== null}
        placeholder={hint}
        maxLength={maxLength}
        list={list}
        {...look}
        value={text ?? value}
        onChange={(e) => setText(e.target.value)}
        onBlur={save}
        onKeyDown={(e) => {
          if (e.key === 'Enter') e.currentTarget.blur();
          if (e.key === 'Escape') setText(null);
        }}
      />
      {wrong !== null && (
        <Box mt="3px" color="madderInk" textStyle="small">
          {wrong}
        </Box>
      )}
    </Box>
  );
}

/** A length with its unit; null where none is wanted, if that may be. */
export function TypedLength({
  label,
  metres,
  bare,
  onChange,
  width,
  hint,
}: {
  label: string;
  metres: number | null;
  bare: 'mm' | 'm';
  onChange(metres: number | null): void;
  width?: string;
  hint?: string;
}) {
  const unit = useLengthUnit();
  // in a frame of feet a bare number means feet
  const own = unit.metres === 1 ? bare : unit.symbol;
  return (
    <TypedText
      label={label}
      value={metres === null ? '' : typedLength(metres, unit)}
      width={width ?? '92px'}
      {...(hint === undefined ? {} : { hint })}
      fault={(text) =>
        hint !== undefined && text.trim() === ''
          ? null
          : parseLength(text, own, hint !== undefined) === null
            ? 'A length is wanted, such as 5 mm, 0.02 m or 0.1 ft.'
            : null
      }
      onChange={(text) => onChange(text.trim() === '' ? null : parseLength(text, own, hint !== undefined))}
    />
  );
}
