import type { Format, FormatOption, OptionValues } from './format';

export type { OptionValues } from './format';

export function initialOf(option: FormatOption): string | number {
  return option.kind === 'choice' ? option.choices[0]!.value : option.kind === 'length' ? option.initial_m : '';
}

/** Every option of a format with the value that is chosen, or its first one; what is no value of an option is passed over. */
export function formatOptions(format: Format, chosen: Readonly<Record<string, unknown>> = {}): OptionValues {
  const out: Record<string, string | number> = {};
  for (const option of format.features.write?.options ?? []) {
    const value = chosen[option.id];
    const good =
      option.kind === 'choice'
        ? option.choices.some((c) => c.value === value)
        : option.kind === 'length'
          ? typeof value === 'number' && value > 0
          : typeof value === 'string';
    out[option.id] = good ? (value as string | number) : initialOf(option);
  }
  return out;
}

/** The one system that a format, with these options, may be written in; null where any will do. */
export function prescribedCrs(format: Format, chosen: Readonly<Record<string, unknown>> = {}): string | null {
  return format.features.write?.prescribedCrs?.(formatOptions(format, chosen)) ?? null;
}
