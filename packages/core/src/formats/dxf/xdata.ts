import type { BatchBuilder } from '../../model/batch-builder';
import type { Value } from '../../model/batch';
import { decodeUnicodeEscapes } from './text';

/** The application under which this program keeps a record's own fields. */
export const OWN_APPLICATION = 'PONTREL';
/** The application under which links are kept: the address first. Common practice, no source. */
const LINKS = 'PE_URL';

/** Group codes of extended data. Source: DXF Reference, "Extended data". */
export const XDATA = { text: 1000, application: 1001, brace: 1002, layer: 1003, bytes: 1004, handle: 1005, x: 1010, real: 1040, distance: 1041, factor: 1042, short: 1070, long: 1071 } as const;

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
  for (let i = 0; i < xdata.length; ) {
    let end = i + 1;
    while (end < xdata.length && xdata[end]![0] !== XDATA.application) end++;
    const application = xdata[i]![0] === XDATA.application ? String(xdata[i]![1]) : '';
    const own = xdata.slice(application === '' ? i : i + 1, end);
    if (application === OWN_APPLICATION) for (const [name, value] of readFields(own)) builder.set(name, value);
    else {
      others = true;
      (out[application] ??= []).push(...valuesOf(own));
      if (application === LINKS && own[0]?.[0] === XDATA.text) builder.set('hyperlink', decodeUnicodeEscapes(String(own[0][1])));
    }
    i = end;
  }
  if (others) builder.set('xdata', JSON.stringify(out));
}

/** Bytes of one text group at most. Source: DXF Reference, "Extended data": 255 bytes; the same in R12. */
const PIECE_BYTES = 255;
/** The word in front of a truth value, which has no type of its own. */
const TRUTH = 'boolean';

/**
 * Fields as groups: for each, in braces, its name and its value by the type it has. Long texts are cut into pieces.
 * @param encode gives the bytes that a text takes in the file
 */
export function writeFields(fields: Iterable<[string, Value]>, bytes: (text: string) => number): [number, string | number][] {
  const out: [number, string | number][] = [];
  for (const [name, value] of fields) {
    if (value === null) continue;
    out.push([XDATA.brace, '{'], [XDATA.text, name]);
    if (typeof value === 'string') for (const piece of pieces(value, bytes)) out.push([XDATA.text, piece]);
    else if (typeof value === 'boolean') out.push([XDATA.text, TRUTH], [XDATA.short, value ? 1 : 0]);
    else if (Number.isInteger(value) && Math.abs(value) < 2 ** 31) out.push([XDATA.long, value]);
    else out.push([XDATA.real, value]);
    out.push([XDATA.brace, '}']);
  }
  return out;
}

/** A text in pieces that fit; line breaks, which a group cannot hold, as "^J" and carets as "^ ". */
function pieces(value: string, bytes: (text: string) => number): string[] {
  const coded = value.replaceAll('^', '^ ').replace(/\r?\n/g, '^J').replaceAll('\t', '^I');
  const out: string[] = [];
  let piece = '', size = 0;
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
    if (first && end > i + 2) {
      const key = decodeUnicodeEscapes(String(name[1]));
      if (first[0] === XDATA.text && first[1] === TRUTH && second?.[0] === XDATA.short) yield [key, second[1] === 1];
      else if (first[0] === XDATA.text) {
        const text = decodeUnicodeEscapes(xdata.slice(i + 2, end).map(([, v]) => String(v)).join(''));
        yield [key, text.replace(/\^([JI ])/g, (_, c: string) => (c === 'J' ? '\n' : c === 'I' ? '\t' : '^'))];
      } else yield [key, Number(first[1])];
    }
    i = end;
  }
}
