import { Box, Grid } from '@chakra-ui/react';
import type { Deliverable } from '@pontrel/core/crossing/recipe';
import { anyFormatById } from '@pontrel/core/formats/every-format';
import { formatOptions, writeOptions } from '@pontrel/core/formats/options';
import type { FormatOption } from '@pontrel/core/formats/format-option';
import { optionFault } from '@pontrel/core/formats/option-fault';
import { useCrossing } from '../crossing/use-crossing';
import { Choice, Muted, Select } from '../components/parts';
import { TypedLength, TypedText } from '../components/Typed';
import { useForecastsQuery } from '../state/api';

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
        {o.kind === 'text' && (
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
