import { parseInteger, type Value } from './value';

/**
 * A text as the value that it looks like, where nothing says its type: a number, true or false, or itself. What begins with a
 * nought or a plus is a mark, such as the number of a telephone or of a parcel; so are more digits than 64 bits hold.
 */
export function plainValue(text: string): Value {
  const trimmed = text.trim();
  if (trimmed === '') return null;
  if (/^(true|false)$/i.test(trimmed)) return trimmed.toLowerCase() === 'true';
  if (/^-?[1-9]\d{15,18}$/.test(trimmed)) return parseInteger(trimmed) ?? text;
  const number = /^-?(\d+\.?\d*|\.\d+)(e[+-]?\d+)?$/i.test(trimmed) && !/^-?0\d/.test(trimmed) && trimmed.replace(/\D/g, '').length <= 15;
  return number ? Number(trimmed) : text;
}
