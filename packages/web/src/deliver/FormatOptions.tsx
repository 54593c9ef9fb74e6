import { useState } from 'react';
import { Box, chakra, Flex, Grid } from '@chakra-ui/react';
import { DAY } from '@pontrel/contract/palette';
import type { Deliverable } from '@pontrel/core/crossing/recipe';
import { anyFormatById } from '@pontrel/core/formats/every-format';
import { formatOptions, writeOptions } from '@pontrel/core/formats/options';
import type { FormatOption } from '@pontrel/core/formats/format-option';
import { optionFault } from '@pontrel/core/formats/option-fault';
import { useCrossing } from '../crossing/use-crossing';
import { Choice, Muted, Select } from '../components/parts';
import { TypedLength, TypedText } from '../components/Typed';
import { useForecastsQuery } from '../state/api';

/** What a palette begins with where no colour is chosen. */
const NO_COLOR = DAY.ink;
const COLOR: FormatOption = { id: 'color', label: 'Colour', kind: 'text', asks: 'color', hint: '' };

/** Choices that stand side by side; more of them are a list. */
const SIDE_BY_SIDE = 4;

/** What the format of a deliverable lets one choose. */
export function FormatOptions({
  deliverable: d,
  besides = [],
  onChange,
}: {
  deliverable: Deliverable;
  /** Ids of options that are chosen elsewhere. */
  besides?: readonly string[];
  onChange(id: string, label: string, value: string | number): void;
}) {
  const { id } = useCrossing();
  const { data: forecasts } = useForecastsQuery(id);
  const fields = forecasts?.find((f) => f.deliverable === d.id)?.forecast?.fieldNames ?? null;
  const format = anyFormatById(d.format);
  const options = format ? writeOptions(format).filter((o) => !besides.includes(o.id)) : [];
  if (!format || options.length === 0) return null;
  const values = formatOptions(format, d.options);
  const shown = options.filter((o) => !o.when || o.when(values));
  return (
    // side by side where two have room
    <Grid templateColumns="repeat(auto-fit, minmax(min(310px, 100%), 1fr))" rowGap="6px" mt="8px">
      {shown.map((o) => (
        <OptionRow
          key={o.id}
          option={o}
          fields={fields}
          value={values[o.id]!}
          onChange={(value) => onChange(o.id, `${o.label.toLowerCase()} of ${d.name}`, value)}
        />
      ))}
    </Grid>
  );
}

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

function OptionRow({
  option: o,
  fields,
  value,
  onChange,
}: {
  option: FormatOption;
  /** Names of the fields that the records have; null until they are known. */
  fields: readonly string[] | null;
  value: string | number;
  onChange(value: string | number): void;
}) {
  return (
    <Grid templateColumns="110px minmax(0, 1fr)" alignItems="center">
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
            metres={Number(value)}
            bare="m"
            onChange={(m) => {
              if (m !== null) onChange(m);
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
