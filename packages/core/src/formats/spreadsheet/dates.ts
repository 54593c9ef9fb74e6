const DAY_MS = 86_400_000;
/** Day 0 of a workbook: the year 1900 is counted as if it had a 29th of February, so that days from March on are one more. Source: ECMA-376 part 1, section 18.17.4.1. */
const DAY_ZERO = Date.UTC(1899, 11, 30),
  DAY_ZERO_1904 = Date.UTC(1904, 0, 1);
/** The first serial number that both ways of counting agree on: 1 March 1900. */
const FIRST_SURE = 61;

/** A serial number as ISO 8601 text: a day, or a day with a time. */
export function dateOfSerial(serial: number, from1904: boolean): string {
  const at = new Date((from1904 ? DAY_ZERO_1904 : DAY_ZERO) + Math.round(serial * 86_400) * 1000);
  if (Number.isNaN(at.getTime())) return String(serial);
  const text = at.toISOString();
  if (Number.isInteger(serial)) return text.slice(0, 10);
  return serial < 1 ? text.slice(11, 19) : text.slice(0, 19);
}

/** The serial number of a day told as yyyy-mm-dd; null where a workbook cannot hold it. */
export function serialOfDate(text: string): number | null {
  if (!/^\d{4}-\d{2}-\d{2}$/.test(text)) return null;
  const serial = (Date.parse(`${text}T00:00:00Z`) - DAY_ZERO) / DAY_MS;
  return Number.isInteger(serial) && serial >= FIRST_SURE ? serial : null;
}

/** Whether a number format shows a date or a time. Source: the same, section 18.8.30 (numbers of formats that are not written out). */
export function isDateFormat(id: number, code: string | undefined): boolean {
  if (code === undefined) return (id >= 14 && id <= 22) || (id >= 27 && id <= 36) || (id >= 45 && id <= 47) || (id >= 50 && id <= 58);
  // what stands in quotes, in brackets or behind a backslash is no part of the pattern
  return /[dmyhs]/i.test(code.replace(/"[^"]*"|\[[^\]]*\]|\\./g, '').replace(/general/i, ''));
}
