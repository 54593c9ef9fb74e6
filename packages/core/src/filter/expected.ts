import { cut, FilterFault, LIES, RECORD, type Token } from './parse';

/** What may come at a place of a filter: a field, what is done with it, a value, AND or OR, or something that nobody can guess. */
export type Expect = 'field' | 'sign' | 'value' | 'join' | 'nothing';

/** What may come next in a filter that is being written. */
export interface Expected {
  expect: Expect;
  /** Where what has been typed of it begins, characters from the start, and what that is, without its quote. */
  from: number;
  typed: string;
  /** The field whose value is wanted. */
  field: string | null;
  /** Whether a list of values has to be opened first. */
  opens: boolean;
}

/** What may come where somebody is writing a filter. The rest of the text does not matter. */
export function expectedAt(text: string, caret: number): Expected {
  const head = text.slice(0, caret);
  const open = openQuote(head);
  if (open !== null) {
    const before = walk(tokensOf(head.slice(0, open)));
    // a name in double quotes, a value in single ones
    const expect = head[open] === '"' ? 'field' : before.expect === 'value' ? 'value' : 'nothing';
    return { ...before, expect, from: open, typed: head.slice(open + 1) };
  }
  const tokens = tokensOf(head);
  const last = tokens.at(-1);
  if (last?.end === caret && (last.kind === 'name' || last.kind === 'word' || last.kind === 'number')) {
    return { ...walk(tokens.slice(0, -1)), from: last.at, typed: head.slice(last.at).replace(/^"|"$/g, '') };
  }
  return { ...walk(tokens), from: caret, typed: '' };
}

/** Where a quote begins that is not closed. */
function openQuote(text: string): number | null {
  let open: number | null = null;
  for (let k = 0; k < text.length; k++) {
    const c = text[k]!;
    if (open === null) {
      if (c === "'" || c === '"') open = k;
    } else if (c === text[open]) {
      if (text[k + 1] === c) k++;
      else open = null;
    }
  }
  return open;
}

function tokensOf(text: string): Token[] {
  try {
    return cut(text).slice(0, -1);
  } catch (error) {
    if (error instanceof FilterFault) return [];
    throw error;
  }
}

const COMPARISONS = new Set(['=', '<>', '<', '>', '<=', '>=']);

/** Goes through what stands before, without caring whether all of it is right. */
function walk(tokens: readonly Token[]): Pick<Expected, 'expect' | 'field' | 'opens'> {
  let expect: Expect = 'field',
    field: string | null = null,
    right = false,
    between = false,
    opens = false;
  const brackets: ('plain' | 'list' | 'call')[] = [];
  const operandEnds = (): void => {
    if (brackets.at(-1) === 'list' || brackets.at(-1) === 'call') expect = 'nothing';
    else expect = right && !between ? 'join' : right ? 'nothing' : 'sign';
  };
  tokens.forEach((t, k) => {
    if (brackets.at(-1) === 'call' && t.text !== '(' && t.text !== ')') return;
    if (t.kind === 'name') {
      if (tokens[k + 1]?.text === '(') {
        // what a function takes is its own affair; what a spatial one tells is whole
        if (t.text.toUpperCase() in LIES) right = true;
        return;
      }
      if (!right) field = t.text;
      operandEnds();
    } else if (t.kind === 'text' || t.kind === 'number') operandEnds();
    else if (t.text === 'AND' && between) {
      between = false;
      expect = 'value';
    } else if (t.text === 'AND' || t.text === 'OR') {
      expect = 'field';
      field = null;
      right = false;
    } else if (t.text === 'NOT') expect = expect === 'sign' ? 'sign' : 'field';
    else if (COMPARISONS.has(t.text) || t.text === 'LIKE' || t.text === 'BETWEEN' || t.text === 'IN') {
      expect = 'value';
      right = true;
      between = t.text === 'BETWEEN';
      opens = t.text === 'IN';
    } else if (t.text === 'IS') {
      expect = 'nothing';
      right = true;
    } else if (t.text === 'NULL') expect = 'join';
    else if (t.text === 'TRUE' || t.text === 'FALSE') operandEnds();
    else if (t.text === '(') {
      const before = tokens[k - 1];
      brackets.push(before?.text === 'IN' ? 'list' : before?.kind === 'name' ? 'call' : 'plain');
      opens = false;
    } else if (t.text === ')') {
      const closed = brackets.pop();
      if (closed === 'call' && tokens[k - 1]?.text === '(' && !right) expect = 'sign';
      else if (closed === 'list' || right) expect = 'join';
    } else if (t.text === ',') expect = brackets.at(-1) === 'list' ? 'value' : 'nothing';
    else if (['+', '-', '*', '/', '%', '^', 'DIV'].includes(t.text)) expect = right ? 'value' : 'field';
  });
  return { expect, field, opens };
}

/** Something that may be written at a place of a filter. */
export interface Offer {
  /** As it is to be written, blanks about it aside. */
  text: string;
  /** What it is, for people. */
  note: string;
}

const SIGNS: readonly [string, string][] = [
  ['=', 'is'],
  ['<>', 'is not'],
  ['<', 'less than'],
  ['<=', 'at most'],
  ['>', 'more than'],
  ['>=', 'at least'],
  ['LIKE', 'a text with % for anything'],
  ['IN (', 'one of several'],
  ['BETWEEN', 'from one to another'],
  ['IS NULL', 'has no value'],
  ['IS NOT NULL', 'has a value'],
];

/** The name of a field as it stands in a filter. */
export const fieldText = (name: string): string =>
  /^[\p{L}_][\p{L}\p{N}_.:$]*$/u.test(name) && tokensOf(name)[0]?.kind === 'name' && !(name.toUpperCase() in LIES)
    ? name
    : `"${name.replaceAll('"', '""')}"`;

/** A value as it stands in a filter. */
export const valueText = (value: string | number | boolean): string =>
  typeof value === 'string' ? `'${value.replaceAll("'", "''")}'` : typeof value === 'boolean' ? (value ? 'TRUE' : 'FALSE') : String(value);

/** How many values of a field are told at once, those that are there most often. */
export const VALUES_TOLD = 40;

/** What may be written at a place. @param values those of the field whose value is wanted, with how often each is there */
export function offersFor(
  expected: Expected,
  fields: readonly { name: string; type: string }[],
  values: readonly { value: string | number | boolean; count: number }[],
): Offer[] {
  const begin = expected.typed.toLowerCase();
  const begins = (text: string): boolean => text.toLowerCase().startsWith(begin);
  switch (expected.expect) {
    case 'field':
      return [
        ...fields.filter((f) => begins(f.name)).map((f) => ({ text: fieldText(f.name), note: f.type })),
        ...(begins(RECORD) ? [{ text: `${RECORD}()`, note: 'its number in the source' }] : []),
      ];
    case 'sign':
      return SIGNS.filter(([text]) => begins(text)).map(([text, note]) => ({ text, note }));
    case 'value':
      return values
        .filter(({ value }) => begins(String(value)))
        .map(({ value, count }) => ({ text: `${expected.opens ? '(' : ''}${valueText(value)}`, note: String(count) }));
    case 'join':
      return [
        { text: 'AND', note: 'both' },
        { text: 'OR', note: 'either' },
      ].filter((o) => begins(o.text));
    case 'nothing':
      return [];
  }
}
