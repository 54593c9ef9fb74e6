import type { Format } from './format';
import type { FormatOption, OptionValues } from './format-option';

/** What an option is where nothing is chosen. */
export function initialOf(option: FormatOption): string | number {
  switch (option.kind) {
    case 'choice':
      return option.choices[0]!.value;
    case 'length':
      return option.initial_m;
    case 'number':
      return option.initial;
    case 'text':
      return '';
  }
}

/** What may be chosen when a file of the format is written. */
export const writeOptions = (format: Format): readonly FormatOption[] => (format.features ?? format.images)?.write?.options ?? [];

/** Every option of a format with the value that is chosen, or its first one; what is no value of an option is passed over. */
export function formatOptions(format: Format, chosen: Readonly<Record<string, unknown>> = {}): OptionValues {
  const out: Record<string, string | number> = {};
  for (const option of writeOptions(format)) {
    const value = chosen[option.id];
    out[option.id] = isValueOf(option, value) ? (value as string | number) : initialOf(option);
  }
  return out;
}

function isValueOf(option: FormatOption, value: unknown): boolean {
  switch (option.kind) {
    case 'choice':
      return option.choices.some((c) => c.value === value);
    case 'length':
      return typeof value === 'number' && (value > 0 || (option.orNone === true && value === 0));
    case 'number':
      return typeof value === 'number' && value >= option.least && value <= option.most;
    case 'text':
      return typeof value === 'string';
  }
}

/** The one system that a format, with these options, may be written in; null where any will do. */
export function prescribedCrs(format: Format, chosen: Readonly<Record<string, unknown>> = {}): string | null {
  if (format.images && !format.features) return format.images.write?.prescribedCrs ?? null;
  return format.features?.write?.prescribedCrs?.(formatOptions(format, chosen)) ?? null;
}
