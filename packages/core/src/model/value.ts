/**
 * A value of an attribute. Days, times and moments are ISO 8601 text in a field of that type. A whole number is a bigint only where a
 * number could not hold it exactly, so that one value is written in one way.
 */
export type Value = string | number | bigint | boolean | Uint8Array | null;

/** A value that JSON has room for, as it is shown and sent. */
export type PlainValue = string | number | boolean | null;

const LEAST = -(2n ** 63n),
  MOST = 2n ** 63n - 1n;

/** A whole number as a {@link Value}: a number where that holds it exactly. */
export const wholeValue = (n: bigint): number | bigint =>
  n >= BigInt(Number.MIN_SAFE_INTEGER) && n <= BigInt(Number.MAX_SAFE_INTEGER) ? Number(n) : n;

/** A whole number from its decimal digits, exactly; null where 64 bits do not hold it, or where the text is none. */
export function parseInteger(text: string): number | bigint | null {
  // 64 bits have 19 digits; noughts before them are as many as somebody would write
  if (text.length > 100 || !/^[+-]?\d+$/.test(text)) return null;
  if (text.length <= 15) return Number(text);
  const n = BigInt(text.startsWith('+') ? text.slice(1) : text);
  return n >= LEAST && n <= MOST ? wholeValue(n) : null;
}

/** Bytes as base64. Source: RFC 4648, section 4. */
export function base64Of(bytes: Uint8Array): string {
  let binary = '';
  for (const byte of bytes) binary += String.fromCharCode(byte);
  return btoa(binary);
}

/** The bytes of a base64 text; null where it is none. */
export function bytesOfBase64(text: string): Uint8Array | null {
  try {
    return Uint8Array.from(atob(text), (c) => c.charCodeAt(0));
  } catch {
    return null;
  }
}

/** A value as text: bytes as base64, anything else as it is written. */
export const valueText = (value: Exclude<Value, null>): string => (value instanceof Uint8Array ? base64Of(value) : String(value));

/** Whether two values are one and the same. */
export function equalValues(a: Value, b: Value): boolean {
  if (a === b) return true;
  if (!(a instanceof Uint8Array) || !(b instanceof Uint8Array) || a.length !== b.length) return false;
  return a.every((byte, k) => byte === b[k]);
}

/** A value as it is shown and sent: whole numbers beyond the exact ones as text, bytes by how many they are. */
export const shownValue = (value: Value): PlainValue =>
  typeof value === 'bigint' ? String(value) : value instanceof Uint8Array ? `${value.length} bytes` : value;

/** Attributes as JSON, and back, with the values that JSON has no room for. */
export function attributesToJson(attributes: Readonly<Record<string, Value>>): string {
  let plain = true;
  for (const name in attributes) if (typeof attributes[name] === 'bigint' || typeof attributes[name] === 'object') plain = false;
  // a function that looks at each value takes several times as long
  if (plain) return JSON.stringify(attributes);
  return JSON.stringify(attributes, (_name, value: unknown) =>
    typeof value === 'bigint' ? { $integer: String(value) } : value instanceof Uint8Array ? { $bytes: base64Of(value) } : value,
  );
}

/** The values of a record from the text that they are stored as; the inverse of `attributesToJson`. */
export function attributesFromJson(json: string): Record<string, Value> {
  if (!json.includes('{"$')) return JSON.parse(json) as Record<string, Value>;
  return JSON.parse(json, (_name, value: unknown) => {
    if (typeof value !== 'object' || value === null) return value;
    const { $integer, $bytes } = value as { $integer?: string; $bytes?: string };
    return $integer !== undefined ? BigInt($integer) : $bytes !== undefined ? bytesOfBase64($bytes) : value;
  }) as Record<string, Value>;
}
