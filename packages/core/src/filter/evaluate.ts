import type { Value } from '../model/value';
import { plainComputed } from './computed-fields';
import { type Region, intersects, within } from '../geometry/within';
import { type FeatureBatch, NO_GEOMETRY } from '../model/batch';
import { type Condition, type Expression, FilterFault, type Lie, parseFilter } from './parse';

/** True, false, or null where a value that is not there leaves it open. */
type Truth = boolean | null;

/** Tells which records of a batch a filter takes. */
export type Filter = (batch: FeatureBatch) => (i: number) => boolean;

/** What a filter may ask of besides the records themselves. */
export interface FilterContext {
  /** Names that are known; a name that is none of them is a fault. All names are taken when absent. */
  fields?: readonly string[];
  /** Carries records into the frame, in its own signs, curves as chords; null where their source has no place yet, so that nobody can say where they lie. */
  inFrame?: ((batch: FeatureBatch) => FeatureBatch) | null;
}

/** What is wrong with a filter, and at which character of it, counted from 0; null there where it is about all of it. Null where nothing is. */
export function filterFault(text: string, context: FilterContext = {}): { message: string; at: number | null } | null {
  const read = readFilter(text, context);
  return 'message' in read ? read : null;
}

function readFilter(text: string, { fields, inFrame }: FilterContext): { condition: Condition } | { message: string; at: number | null } {
  try {
    const condition = parseFilter(text);
    if (fields) for (const name of namesIn(condition)) knownName(name.name, fields, name.at);
    if (inFrame === null && asks(condition, 'spatial'))
      return { message: 'Where a record lies is known only once its source is placed. Place it first.', at: null };
    return { condition };
  } catch (error) {
    if (error instanceof FilterFault) return { message: error.message, at: error.at - 1 };
    throw error;
  }
}

/** A filter from its text; a sentence that says what is wrong with it where it cannot be read. */
export function compileFilter(text: string, context: FilterContext = {}): Filter | string {
  const parsed = readFilter(text, context);
  if ('message' in parsed) return parsed.message;
  const { condition } = parsed;
  const { inFrame } = context;
  return (batch) => {
    const columns = new Map<string, (i: number) => Value>();
    let moved: FeatureBatch | undefined;
    const read = (i: number): Read => ({
      field(name) {
        let column = columns.get(name);
        if (!column) columns.set(name, (column = columnOf(batch, name)));
        return column(i);
      },
      record: () => batch.locations[i]!,
      lies(lie, region) {
        if (!inFrame || batch.kinds[i] === NO_GEOMETRY) return null;
        moved ??= inFrame(batch);
        return lie === 'within' ? within(moved, i, region) : intersects(moved, i, region) === (lie === 'intersects');
      },
    });
    return (i) => truth(condition, read(i)) === true;
  };
}

/** Whether a name is that of a field, without regard to case, or of what is worked out from the geometry. */
export function isKnownField(name: string, fields: readonly string[]): boolean {
  return fields.some((f) => f.toLowerCase() === name.toLowerCase()) || plainComputed(name.toLowerCase()) !== undefined;
}

function knownName(name: string, fields: readonly string[], at: number): void {
  if (isKnownField(name, fields)) return;
  const near = fields.filter((f) => f.toLowerCase().startsWith(name.slice(0, 3).toLowerCase()));
  throw new FilterFault(
    `There is no field ${name} in this layer${near.length > 0 ? `; there is ${near.slice(0, 4).join(', ')}` : ''}. A text stands in single quotes.`,
    at,
  );
}

/** A field by its name, without regard to case where only that differs, or worked out from the geometry. */
function columnOf(batch: FeatureBatch, name: string): (i: number) => Value {
  const found = batch.columns.get(name) ?? [...batch.columns].find(([n]) => n.toLowerCase() === name.toLowerCase())?.[1];
  if (found) return (i) => found[i] ?? null;
  const computed = plainComputed(name.toLowerCase());
  return computed ? (i) => computed.value(batch, i) : () => null;
}

function* nodesOf(node: Condition | Expression): Generator<Condition | Expression> {
  yield node;
  for (const part of Object.values(node) as unknown[]) {
    for (const child of Array.isArray(part) ? part : [part])
      if (typeof child === 'object' && child !== null && 'op' in child) yield* nodesOf(child as Condition);
  }
}

/** The fields that a condition asks for. */
export function* namesIn(condition: Condition): Generator<{ name: string; at: number }> {
  for (const node of nodesOf(condition)) if (node.op === 'property') yield { name: node.name, at: node.at };
}

const asks = (condition: Condition, op: 'spatial' | 'record'): boolean => [...nodesOf(condition)].some((node) => node.op === op);

/** Whether a condition knows records by their number. */
export const asksRecord = (condition: Condition): boolean => asks(condition, 'record');

/** One record, as a condition asks it. */
interface Read {
  field(name: string): Value;
  record(): number;
  lies(lie: Lie, region: Region): Truth;
}

function truth(c: Condition, read: Read): Truth {
  switch (c.op) {
    case 'and': {
      let open = false;
      for (const part of c.of) {
        const t = truth(part, read);
        if (t === false) return false;
        if (t === null) open = true;
      }
      return open ? null : true;
    }
    case 'or': {
      let open = false;
      for (const part of c.of) {
        const t = truth(part, read);
        if (t === true) return true;
        if (t === null) open = true;
      }
      return open ? null : false;
    }
    case 'not': {
      const t = truth(c.of, read);
      return t === null ? null : !t;
    }
    case 'compare':
      return compared(c.sign, valueOf(c.left, read), valueOf(c.right, read));
    case 'like': {
      const value = valueOf(c.of, read),
        pattern = valueOf(c.pattern, read);
      return value === null || pattern === null ? null : like(String(value), String(pattern));
    }
    case 'between': {
      const value = valueOf(c.of, read);
      const low = compared('>=', value, valueOf(c.low, read)),
        high = compared('<=', value, valueOf(c.high, read));
      return low === false || high === false ? false : low === null || high === null ? null : true;
    }
    case 'in': {
      const value = valueOf(c.of, read);
      const known = literalsOf(c);
      if (known) return value === null ? null : known.has(typeof value === 'string' && !known.texts ? (numberOf(value) ?? NaN) : value);
      let open = false;
      for (const one of c.list) {
        const t = compared('=', value, valueOf(one, read));
        if (t === true) return true;
        if (t === null) open = true;
      }
      return open ? null : false;
    }
    case 'spatial':
      return read.lies(c.lie, c.region);
    case 'null':
      return valueOf(c.of, read) === null;
    case 'truth': {
      const value = valueOf(c.of, read);
      return value === null ? null : value === true;
    }
  }
}

type List = Extract<Condition, { op: 'in' }>;
const lists = new WeakMap<List, { texts: boolean; has(value: Value): boolean } | null>();

/** A list of plain numbers, or of plain texts, to be looked up in: picked records may be thousands. Null for any other list. */
function literalsOf(c: List): { texts: boolean; has(value: Value): boolean } | null {
  let known = lists.get(c);
  if (known === undefined) {
    const values = c.list.map((e) => (e.op === 'literal' ? e.value : null));
    const texts = values.every((v) => typeof v === 'string');
    if (texts) {
      const words = new Set(values),
        numbers = new Set(values.map(numberOf));
      known = { texts, has: (value) => (typeof value === 'number' ? numbers.has(value) : words.has(value as string)) };
    } else known = values.every((v) => typeof v === 'number') ? { texts, has: Set.prototype.has.bind(new Set(values)) } : null;
    lists.set(c, known);
  }
  return known;
}

function valueOf(e: Expression, read: Read): Value {
  switch (e.op) {
    case 'literal':
      return e.value;
    case 'property':
      return read.field(e.name);
    case 'record':
      return read.record();
    case 'casei': {
      const value = valueOf(e.of, read);
      return typeof value === 'string' ? value.normalize('NFC').toLowerCase() : value;
    }
    case 'accenti': {
      const value = valueOf(e.of, read);
      return typeof value === 'string' ? value.normalize('NFD').replace(/\p{M}/gu, '') : value;
    }
    case 'arithmetic': {
      const a = numberOf(valueOf(e.left, read)),
        b = numberOf(valueOf(e.right, read));
      if (a === null || b === null) return null;
      const v =
        e.sign === '+'
          ? a + b
          : e.sign === '-'
            ? a - b
            : e.sign === '*'
              ? a * b
              : e.sign === '/'
                ? a / b
                : e.sign === '%'
                  ? a % b
                  : e.sign === '^'
                    ? a ** b
                    : Math.trunc(a / b);
      return Number.isFinite(v) ? v : null;
    }
  }
}

/** Data of drawings are texts even where they are numbers: a text of digits is compared with a number as one. */
function numberOf(value: Value): number | null {
  if (typeof value === 'number') return value;
  if (typeof value !== 'string' || value.trim() === '') return null;
  const n = Number(value);
  return Number.isFinite(n) ? n : null;
}

function compared(sign: '=' | '<>' | '<' | '>' | '<=' | '>=', left: Value, right: Value): Truth {
  if (left === null || right === null) return null;
  let order: number;
  if (typeof left === 'number' || typeof right === 'number') {
    const a = numberOf(left),
      b = numberOf(right);
    // a text that is no number is not any number
    if (a === null || b === null) return sign === '<>' ? true : sign === '=' ? false : null;
    order = a - b;
  } else if (typeof left === 'boolean' || typeof right === 'boolean') {
    if (typeof left !== typeof right) return sign === '<>' ? true : sign === '=' ? false : null;
    order = Number(left) - Number(right);
  } else order = left < right ? -1 : left > right ? 1 : 0;
  switch (sign) {
    case '=':
      return order === 0;
    case '<>':
      return order !== 0;
    case '<':
      return order < 0;
    case '>':
      return order > 0;
    case '<=':
      return order <= 0;
    case '>=':
      return order >= 0;
  }
}

/** "%" is any text, "_" any one character, a backslash takes their meaning away. */
function like(text: string, pattern: string): boolean {
  const value = [...text],
    wanted: { any?: 'many' | 'one'; c?: string }[] = [];
  const letters = [...pattern];
  for (let k = 0; k < letters.length; k++) {
    const c = letters[k]!;
    if (c === '\\' && k + 1 < letters.length) wanted.push({ c: letters[++k]! });
    else if (c === '%') wanted.push({ any: 'many' });
    else if (c === '_') wanted.push({ any: 'one' });
    else wanted.push({ c });
  }
  // two marks and the last "%": never more than the product of both lengths
  let v = 0,
    w = 0,
    star = -1,
    mark = 0;
  while (v < value.length) {
    const p = wanted[w];
    if (p && (p.any === 'one' || p.c === value[v])) {
      v++;
      w++;
    } else if (p?.any === 'many') {
      star = w++;
      mark = v;
    } else if (star >= 0) {
      w = star + 1;
      v = ++mark;
    } else return false;
  }
  while (wanted[w]?.any === 'many') w++;
  return w === wanted.length;
}
