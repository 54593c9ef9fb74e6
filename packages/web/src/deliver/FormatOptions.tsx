import { Grid } from '@chakra-ui/react';
import type { Deliverable } from '@pontrel/core/crossing/recipe';
import { anyFormatById } from '@pontrel/core/formats/every-format';
import { formatOptions, writeOptions } from '@pontrel/core/formats/options';
import { useCrossing } from '../crossing/use-crossing';
import { OptionRow } from '../components/OptionRow';
import { useForecastsQuery } from '../state/api';

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
