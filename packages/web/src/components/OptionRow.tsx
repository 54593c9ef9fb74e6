import { useState } from 'react';
import { Box, chakra, Flex, Grid } from '@chakra-ui/react';
import { DAY } from '@pontrel/contract/palette';
import type { FormatOption } from '@pontrel/core/formats/format-option';
import { optionFault } from '@pontrel/core/formats/option-fault';
import { Choice, Muted, Select } from './parts';
import { TypedLength, TypedText } from './Typed';

/** What a palette begins with where no colour is chosen. */
const NO_COLOR = DAY.ink;
const COLOR: FormatOption = { id: 'color', label: 'Colour', kind: 'text', asks: 'color', hint: '' };

/** Choices that stand side by side; more of them are a list. */
const SIDE_BY_SIDE = 4;

/** The fields that there are, and one that is said and is not there. */
function fieldChoices(fields: readonly string[] | null, value: string, none: string): { value: string; label: string }[] {
  const known = fields ?? [];
  return [
    { value: '', label: none },
    ...(value !== '' && !known.includes(value) ? [{ value, label: fields ? `${value}, which is not there` : value }] : []),
    ...known.map((f) => ({ value: f, label: f })),
  ];
}

/** A colour, typed or taken from a palette; none is the objects' own. */
function ColorInput({ label, value, onChange }: { label: string; value: string; onChange(value: string): void }) {
  // a palette is gone through before something is taken from it
  const [tried, setTried] = useState<string | null>(null);
  const now = tried ?? value;
  return (
    <Flex gap="6px" align="center">
      <chakra.input
        type="color"
        aria-label={`${label}, from a palette`}
        value={/^#[0-9a-f]{6}$/i.test(now) ? now : NO_COLOR}
        opacity={now === '' ? 0.35 : 1}
        onChange={(e) => setTried(e.target.value)}
        onBlur={() => {
          if (tried !== null && tried !== value) onChange(tried);
          setTried(null);
        }}
        w="34px"
        h="26px"
        p="2px"
        borderWidth="1px"
        borderColor="line"
        borderRadius="sheet"
        bg="surface"
        cursor="pointer"
      />
      <TypedText
        label={label}
        value={value}
        width="104px"
        hint="the object’s"
        maxLength={7}
        fault={(text) => optionFault(COLOR, text, [])}
        onChange={onChange}
      />
    </Flex>
  );
}

/** A choice that something offers, with its name before it. */
export function OptionRow({
  option: o,
  fields,
  value,
  onChange,
  nameWidth = '110px',
}: {
  option: FormatOption;
  /** Names of the fields that the records have; null until they are known. */
  fields: readonly string[] | null;
  value: string | number;
  onChange(value: string | number): void;
  /** How much room its name has. */
  nameWidth?: string;
}) {
  return (
    <Grid templateColumns={`${nameWidth} minmax(0, 1fr)`} alignItems="center">
      <Muted>{o.label}</Muted>
      <Box minW="0" pr="14px">
        {o.kind === 'choice' &&
          (o.choices.length <= SIDE_BY_SIDE && o.choices.every((c) => c.label.length < 8) ? (
            <Choice small label={o.label} value={String(value)} options={o.choices} onChange={onChange} />
          ) : (
            <Select label={o.label} value={String(value)} width="100%" options={o.choices} onChange={onChange} />
          ))}
        {o.kind === 'number' && (
          <TypedText
            label={o.label}
            value={String(value)}
            width="92px"
            fault={(text) =>
              Number(text) >= o.least && Number(text) <= o.most ? null : `A number from ${o.least} to ${o.most} is wanted.`
            }
            onChange={(text) => onChange(Number(text))}
          />
        )}
        {o.kind === 'length' && (
          <TypedLength
            label={o.label}
            metres={o.orNone && value === 0 ? null : Number(value)}
            bare="m"
            {...(o.orNone ? { hint: 'not at all' } : {})}
            onChange={(m) => {
              if (m !== null || o.orNone) onChange(m ?? 0);
            }}
          />
        )}
        {o.kind === 'text' && o.asks === 'field' && (
          <Select
            label={o.label}
            value={String(value)}
            width="100%"
            options={fieldChoices(fields, String(value), o.hint)}
            onChange={onChange}
          />
        )}
        {o.kind === 'text' && o.asks === 'color' && <ColorInput label={o.label} value={String(value)} onChange={onChange} />}
        {o.kind === 'text' && o.asks !== 'field' && o.asks !== 'color' && (
          <TypedText
            label={o.label}
            value={String(value)}
            hint={o.hint}
            maxLength={500}
            fault={(text) => fields && optionFault(o, text, fields)}
            onChange={onChange}
          />
        )}
      </Box>
    </Grid>
  );
}
