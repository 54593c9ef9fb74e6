import { parseInteger, type Value } from '../../model/value';
import type { BatchBuilder } from '../../model/batch-builder';
import { decodeUnicodeEscapes } from './text';

/** The application under which this program keeps a record's own fields. */
export const OWN_APPLICATION = 'PONTREL';
/** The application under which links are kept: the address first. Common practice, no source. */
const LINKS = 'PE_URL';

/** Group codes of extended data. Source: DXF Reference, "Extended data". */
export const XDATA = {
  text: 1000,
  application: 1001,
  brace: 1002,
  layer: 1003,
  bytes: 1004,
  handle: 1005,
  x: 1010,
  real: 1040,
  distance: 1041,
  factor: 1042,
  short: 1070,
  long: 1071,
} as const;

/** A value as JSON: texts, fractions and long integers as themselves, everything else with its group code. */
export type XdataValue = string | number | Record<string, string | number | number[]>;

/** Values in order; the three numbers of a point together. */
function valuesOf(xdata: readonly [number, string | number][]): XdataValue[] {
  const out: XdataValue[] = [];
  for (let i = 0; i < xdata.length; i++) {
    const [code, value] = xdata[i]!;
    if (code >= XDATA.x && code <= XDATA.x + 3) {
      const [y, z] = [xdata[i + 1], xdata[i + 2]];
      const point = [Number(value), y?.[0] === code + 10 ? Number(y[1]) : 0, z?.[0] === code + 20 ? Number(z[1]) : 0];
      if (y?.[0] === code + 10) i++;
      if (z?.[0] === code + 20) i++;
      out.push({ [code]: point });
    } else if (code === XDATA.text) out.push(decodeUnicodeEscapes(String(value)));
    else if (code === XDATA.long || (code === XDATA.real && !Number.isInteger(value))) out.push(value);
    else out.push({ [code]: value });
  }
  return out;
}

/**
 * Puts extended data on the record: that of others as JSON, application name to its values in order; links under `hyperlink`;
 * and what this program wrote as the fields that they are.
 */
export function takeXdata(xdata: readonly [number, string | number][], builder: BatchBuilder): void {
  const out: Record<string, XdataValue[]> = {};
  let others = false;
  for (let i = 0; i < xdata.length;) {
    let end = i + 1;
    while (end < xdata.length && xdata[end]![0] !== XDATA.application) end++;
    const application = xdata[i]![0] === XDATA.application ? String(xdata[i]![1]) : '';
    const own = xdata.slice(application === '' ? i : i + 1, end);
    if (application === OWN_APPLICATION) for (const [name, value] of readFields(own)) builder.put(name, value);
    else {
      others = true;
      out[application] = (out[application] ?? []).concat(valuesOf(own));
      if (application === LINKS && own[0]?.[0] === XDATA.text) builder.set('hyperlink', decodeUnicodeEscapes(String(own[0][1])));
    }
    i = end;
  }
  if (others) builder.set('xdata', JSON.stringify(out));
}

/** What stands before the fields of an object that is not the whole of its record: how many parts that has, a further part, or only drawn for it. */
export const OWN_MARKS = { parts: 'parts', part: 'part', drawn: 'drawn' } as const;

/** The mark of an object that this program wrote, and how many parts its record has. */
export function ownMark(xdata: readonly [number, string | number][]): { mark: 'record' | 'part' | 'drawn'; parts: number } | null {
  const at = xdata.findIndex(([code, value]) => code === XDATA.application && value === OWN_APPLICATION);
  if (at < 0) return null;
  const [code, value] = xdata[at + 1] ?? [0, ''];
  if (code === XDATA.text && (value === OWN_MARKS.part || value === OWN_MARKS.drawn)) return { mark: value, parts: 0 };
  return { mark: 'record', parts: code === XDATA.text && value === OWN_MARKS.parts ? Number(xdata[at + 2]?.[1] ?? 1) : 1 };
}

/** The groups of other programs' data out of the JSON that {@link takeXdata} makes; null where it is none. */
export function parseXdata(json: string): [string, [number, string | number][]][] | null {
  let parsed: unknown;
  try {
    parsed = JSON.parse(json);
  } catch {
    return null;
  }
  if (typeof parsed !== 'object' || parsed === null) return null;
  const out: [string, [number, string | number][]][] = [];
  for (const [application, values] of Object.entries(parsed)) {
    if (application === '' || !Array.isArray(values)) return null;
    const groups: [number, string | number][] = [];
    for (const value of values as XdataValue[]) {
      if (typeof value === 'string') groups.push([XDATA.text, value]);
      else if (typeof value === 'number') groups.push([Number.isInteger(value) ? XDATA.long : XDATA.real, value]);
      else {
        for (const [code, v] of Object.entries(value)) {
          if (Array.isArray(v)) v.forEach((c, k) => groups.push([Number(code) + 10 * k, c]));
          else groups.push([Number(code), v]);
        }
      }
    }
    out.push([application, groups]);
  }
  return out;
}

/** The address that the data of links holds. */
export function linkOf(xdata: readonly [string, readonly [number, string | number][]][]): string | null {
  const first = xdata.find(([application]) => application === LINKS)?.[1][0];
  return first?.[0] === XDATA.text ? String(first[1]) : null;
}

/** Bytes of one text group at most. Source: DXF Reference, "Extended data": 255 bytes; the same in R12. */
const PIECE_BYTES = 255;
/** The word in front of a truth value, which has no type of its own. */
const TRUTH = 'boolean';
/** The same in front of a whole number of more than 32 bits, which follows as text, and of bytes. */
const WHOLE = 'integer',
  BINARY = 'bytes';
/** Bytes of one group at most. Source: DXF Reference, "Extended data", group 1004. */
const CHUNK_BYTES = 127;

/**
 * Fields as groups: for each, in braces, its name and its value by the type it has. Long texts are cut into pieces.
 * @param bytes gives the bytes that a text takes in the file
 */
export function writeFields(fields: Iterable<[string, Value]>, bytes: (text: string) => number): [number, string | number][] {
  const out: [number, string | number][] = [];
  for (const [name, value] of fields) {
    out.push([XDATA.brace, '{'], [XDATA.text, name]);
    // a field without a value says that what the object shows is not the record's
    if (value !== null) out.push(...valueGroups(value, bytes));
    out.push([XDATA.brace, '}']);
  }
  return out;
}

const hexOf = (bytes: Uint8Array): string => Array.from(bytes, (b) => b.toString(16).padStart(2, '0').toUpperCase()).join('');

const bytesOfHex = (hex: string): number[] => (hex.match(/../g) ?? []).map((pair) => Number.parseInt(pair, 16));

function valueGroups(value: Exclude<Value, null>, bytes: (text: string) => number): [number, string | number][] {
  if (typeof value === 'string') return pieces(value, bytes).map((piece) => [XDATA.text, piece]);
  if (typeof value === 'boolean')
    return [
      [XDATA.text, TRUTH],
      [XDATA.short, value ? 1 : 0],
    ];
  if (typeof value === 'bigint')
    return [
      [XDATA.text, WHOLE],
      [XDATA.text, String(value)],
    ];
  if (value instanceof Uint8Array) {
    const out: [number, string | number][] = [[XDATA.text, BINARY]];
    for (let k = 0; k < value.length; k += CHUNK_BYTES) out.push([XDATA.bytes, hexOf(value.subarray(k, k + CHUNK_BYTES))]);
    return out;
  }
  return [[Number.isInteger(value) && Math.abs(value) < 2 ** 31 ? XDATA.long : XDATA.real, value]];
}

/** A text in pieces that fit; line breaks, which a group cannot hold, as "^J" and carets as "^ ". */
function pieces(value: string, bytes: (text: string) => number): string[] {
  const coded = value.replaceAll('^', '^ ').replaceAll('\n', '^J').replaceAll('\t', '^I');
  const out: string[] = [];
  let piece = '',
    size = 0;
  for (const c of coded) {
    const n = bytes(c);
    if (size + n > PIECE_BYTES) {
      out.push(piece);
      [piece, size] = ['', 0];
    }
    piece += c;
    size += n;
  }
  out.push(piece);
  return out;
}

function* readFields(xdata: readonly [number, string | number][]): Generator<[string, Value]> {
  for (let i = 0; i < xdata.length; i++) {
    if (xdata[i]![0] !== XDATA.brace || xdata[i]![1] !== '{') continue;
    const name = xdata[i + 1];
    if (name?.[0] !== XDATA.text) continue;
    let end = i + 2;
    while (end < xdata.length && xdata[end]![0] !== XDATA.brace) end++;
    const [first, second] = [xdata[i + 2], xdata[i + 3]];
    const key = decodeUnicodeEscapes(String(name[1]));
    if (end === i + 2) yield [key, null];
    else if (first) {
      if (first[0] === XDATA.text && first[1] === TRUTH && second?.[0] === XDATA.short) yield [key, second[1] === 1];
      else if (first[0] === XDATA.text && first[1] === WHOLE && end === i + 4 && /^-?\d{16,}$/.test(String(second![1])))
        yield [key, parseInteger(String(second![1]))];
      else if (first[0] === XDATA.text && first[1] === BINARY && xdata.slice(i + 3, end).every(([code]) => code === XDATA.bytes))
        yield [key, Uint8Array.from(xdata.slice(i + 3, end).flatMap(([, hex]) => bytesOfHex(String(hex))))];
      else if (first[0] === XDATA.text) {
        const text = decodeUnicodeEscapes(
          xdata
            .slice(i + 2, end)
            .map(([, v]) => String(v))
            .join(''),
        );
        yield [key, text.replace(/\^([JI ])/g, (_, c: string) => (c === 'J' ? '\n' : c === 'I' ? '\t' : '^'))];
      } else yield [key, Number(first[1])];
    }
    i = end;
  }
}
