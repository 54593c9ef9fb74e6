const POWERS = Array.from({ length: 23 }, (_, i) => 10 ** i);
const decoder = new TextDecoder('latin1');

/**
 * The decimal number in bytes [start, end), correctly rounded; NaN when it is none.
 *
 * Up to 15 digits and a power of ten up to 22 both fit a double exactly, so that one multiplication or division rounds
 * correctly (W. D. Clinger, "How to read floating point numbers accurately", 1990); all else goes to the platform.
 */
export function parseReal(bytes: Uint8Array, start: number, end: number): number {
  let i = start;
  while (i < end && bytes[i] === 32) i++;
  while (end > i && bytes[end - 1]! <= 32) end--;
  const first = i;
  let negative = false;
  if (bytes[i] === 45) {
    negative = true;
    i++;
  } else if (bytes[i] === 43) i++;
  let mantissa = 0;
  let digits = 0;
  let scale = 0;
  let point = false;
  for (; i < end; i++) {
    const c = bytes[i]!;
    if (c >= 48 && c <= 57) {
      mantissa = mantissa * 10 + (c - 48);
      if (mantissa !== 0) digits++;
      if (point) scale++;
    } else if (c === 46 && !point) point = true;
    else return slow(bytes, first, end);
  }
  if (digits > 15 || scale > 22 || end - first === 0) return slow(bytes, first, end);
  const value = scale === 0 ? mantissa : mantissa / POWERS[scale]!;
  return negative ? -value : value;
}

function slow(bytes: Uint8Array, start: number, end: number): number {
  const text = decoder.decode(bytes.subarray(start, end)).trim();
  return text === '' ? NaN : Number(text);
}
