import type { FieldType } from './field';
import { parseInteger, type Value, valueText, wholeValue } from './value';

/** Types that a value can be made into; bytes are what they are. */
export const RETYPED = ['text', 'integer', 'decimal', 'boolean', 'date', 'time', 'datetime'] as const satisfies readonly FieldType[];
export type Retyped = (typeof RETYPED)[number];

/** A value as one of another type; undefined where it is none of that type. */
export const asType = (value: Exclude<Value, null>, type: Retyped): Exclude<Value, null> | undefined =>
  type === 'text' ? valueText(value) : value instanceof Uint8Array ? undefined : CONVERSIONS[type](value);

type Plain = Exclude<Value, null | Uint8Array>;

const CONVERSIONS: Record<Exclude<Retyped, 'text'>, (value: Plain) => Exclude<Value, null> | undefined> = {
  integer: (value) => {
    const n = CONVERSIONS.decimal(value);
    if (typeof n !== 'number') return n;
    const whole = Math.round(n);
    // what is written with a fraction is a number all the same, and is rounded
    return Number.isSafeInteger(whole) ? whole : (parseInteger(String(value).trim()) ?? undefined);
  },
  decimal: (value) => {
    if (typeof value === 'bigint') return wholeValue(value);
    if (typeof value === 'number') return value;
    if (typeof value === 'boolean') return value ? 1 : 0;
    return numberOf(value.trim());
  },
  boolean: (value) => (typeof value === 'boolean' ? value : TRUTHS.get(String(value).trim().toLowerCase())),
  date: (value) => dateOf(String(value).trim()),
  time: (value) => timeOf(String(value).trim()),
  datetime: (value) => {
    const [day, time, zone] = /^(.*?)(?:[T ]+(.*?)(Z|[+-]\d\d:?\d\d)?)?$/.exec(String(value).trim())!.slice(1);
    const date = dateOf(day!);
    const at = time === undefined ? '00:00:00' : timeOf(time);
    return date === undefined || at === undefined ? undefined : `${date}T${at}${zone ?? ''}`;
  },
};

const TRUTHS = new Map([
  ...['true', 'yes', 'y', 't', '1'].map((t) => [t, true] as const),
  ...['false', 'no', 'n', 'f', '0'].map((t) => [t, false] as const),
]);

/**
 * A number as people write it. A comma is the sign of the decimals where it can be nothing else: in `1,234` it may part thousands,
 * and that is no number here.
 */
function numberOf(text: string): number | bigint | undefined {
  const plain = /^[+-]?\d*,\d+$/.test(text) && !/^[+-]?[1-9]\d{0,2},\d{3}$/.test(text) ? text.replace(',', '.') : text;
  if (!/^[+-]?(\d+\.?\d*|\.\d+)(e[+-]?\d+)?$/i.test(plain)) return undefined;
  const n = Number(plain);
  return Number.isSafeInteger(n) || !Number.isInteger(n) ? n : (parseInteger(plain) ?? (Number.isFinite(n) ? n : undefined));
}

/** A day of the calendar as ISO 8601 writes it, from that, from eight digits, from slashes after the year, or from points with the day first. */
function dateOf(text: string): string | undefined {
  const iso = /^(\d{4})-(\d\d)-(\d\d)$|^(\d{4})(\d\d)(\d\d)$|^(\d{4})\/(\d{1,2})\/(\d{1,2})$/.exec(text);
  const points = /^(\d{1,2})\.(\d{1,2})\.(\d{4})$/.exec(text);
  const parts = iso?.slice(1).filter((p) => p !== undefined) ?? points?.slice(1).reverse();
  if (!parts) return undefined;
  const [year, month, day] = parts.map(Number) as [number, number, number];
  const at = new Date(0);
  at.setUTCFullYear(year, month - 1, day);
  if (at.getUTCMonth() !== month - 1 || at.getUTCDate() !== day) return undefined;
  return `${String(year).padStart(4, '0')}-${String(month).padStart(2, '0')}-${String(day).padStart(2, '0')}`;
}

/** A time of day as ISO 8601 writes it, seconds added where they are missing. */
function timeOf(text: string): string | undefined {
  const [, hour, minute, rest] = /^(\d{1,2}):(\d\d)(?::([0-5]\d(?:\.\d+)?))?$/.exec(text) ?? [];
  return hour !== undefined && Number(hour) < 24 && Number(minute) < 60 ? `${hour.padStart(2, '0')}:${minute}:${rest ?? '00'}` : undefined;
}
