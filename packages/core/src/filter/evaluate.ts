import { plainComputed } from '../shape/computed-fields';
import type { FeatureBatch, Value } from '../model/batch';
import { type Condition, type Expression, FilterFault, parseFilter } from './parse';

/** True, false, or null where a value that is not there leaves it open. */
type Truth = boolean | null;

/** Tells which records of a batch a filter takes. */
export type Filter = (batch: FeatureBatch) => (i: number) => boolean;

/**
 * A filter from its text; a sentence that says what is wrong with it where it cannot be read.
 * @param fields names that are known; a name that is none of them is a fault. All names are taken when absent
 */
export function compileFilter(text: string, fields?: readonly string[]): Filter | string {
  const taken = compileCondition(text, fields);
  if (typeof taken === 'string') return taken;
  return (batch) => {
    const columns = new Map<string, (i: number) => Value>();
    const at = (name: string): ((i: number) => Value) => {
      let column = columns.get(name);
      if (!column) columns.set(name, (column = columnOf(batch, name)));
      return column;
    };
    return (i) => taken((name) => at(name)(i));
  };
}

/** The same for whoever has the fields of one record at hand. */
export function compileCondition(text: string, fields?: readonly string[]): ((read: (name: string) => Value) => boolean) | string {
  let condition: Condition;
  try {
    condition = parseFilter(text);
    if (fields) for (const name of namesIn(condition)) knownName(name.name, fields, name.at);
  } catch (error) {
    if (error instanceof FilterFault) return error.message;
    throw error;
  }
  return (read) => truth(condition, read) === true;
}

/** Whether a name is that of a field, without regard to case, or of what is worked out from the geometry. */
export function isKnownField(name: string, fields: readonly string[]): boolean {
  return fields.some((f) => f.toLowerCase() === name.toLowerCase()) || plainComputed(name.toLowerCase()) !== undefined;
}

function knownName(name: string, fields: readonly string[], at: number): void {
  if (isKnownField(name, fields)) return;
  const near = fields.filter((f) => f.toLowerCase().startsWith(name.slice(0, 3).toLowerCase()));
  throw new FilterFault(`There is no field ${name} in this layer${near.length > 0 ? `; there is ${near.slice(0, 4).join(', ')}` : ''}. A text stands in single quotes.`, at);
}

/** A field by its name, without regard to case where only that differs, or worked out from the geometry. */
function columnOf(batch: FeatureBatch, name: string): (i: number) => Value {
  const found = batch.columns.get(name) ?? [...batch.columns].find(([n]) => n.toLowerCase() === name.toLowerCase())?.[1];
  if (found) return (i) => found[i] ?? null;
  const computed = plainComputed(name.toLowerCase());
  return computed ? (i) => computed.value(batch, i) : () => null;
}

/** The fields that a condition asks for. */
export function* namesIn(node: Condition | Expression): Generator<{ name: string; at: number }> {
  if (node.op === 'property') yield { name: node.name, at: node.at };
  for (const part of Object.values(node) as unknown[]) {
    for (const child of Array.isArray(part) ? part : [part]) if (typeof child === 'object' && child !== null && 'op' in child) yield* namesIn(child as Condition);
  }
}

type Read = (name: string) => Value;

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
    case 'compare': return compared(c.sign, valueOf(c.left, read), valueOf(c.right, read));
    case 'like': {
      const value = valueOf(c.of, read), pattern = valueOf(c.pattern, read);
      return value === null || pattern === null ? null : like(String(value), String(pattern));
    }
    case 'between': {
      const value = valueOf(c.of, read);
      const low = compared('>=', value, valueOf(c.low, read)), high = compared('<=', value, valueOf(c.high, read));
      return low === false || high === false ? false : low === null || high === null ? null : true;
    }
    case 'in': {
      const value = valueOf(c.of, read);
      let open = false;
      for (const one of c.list) {
        const t = compared('=', value, valueOf(one, read));
        if (t === true) return true;
        if (t === null) open = true;
      }
      return open ? null : false;
    }
    case 'null': return valueOf(c.of, read) === null;
    case 'truth': {
      const value = valueOf(c.of, read);
      return value === null ? null : value === true;
    }
  }
}

function valueOf(e: Expression, read: Read): Value {
  switch (e.op) {
    case 'literal': return e.value;
    case 'property': return read(e.name);
    case 'casei': {
      const value = valueOf(e.of, read);
      return typeof value === 'string' ? value.normalize('NFC').toLowerCase() : value;
    }
    case 'accenti': {
      const value = valueOf(e.of, read);
      return typeof value === 'string' ? value.normalize('NFD').replace(/\p{M}/gu, '') : value;
    }
    case 'arithmetic': {
      const a = numberOf(valueOf(e.left, read)), b = numberOf(valueOf(e.right, read));
      if (a === null || b === null) return null;
      const v = e.sign === '+' ? a + b : e.sign === '-' ? a - b : e.sign === '*' ? a * b : e.sign === '/' ? a / b : e.sign === '%' ? a % b : e.sign === '^' ? a ** b : Math.trunc(a / b);
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
    const a = numberOf(left), b = numberOf(right);
    // a text that is no number is not any number
    if (a === null || b === null) return sign === '<>' ? true : sign === '=' ? false : null;
    order = a - b;
  } else if (typeof left === 'boolean' || typeof right === 'boolean') {
    if (typeof left !== typeof right) return sign === '<>' ? true : sign === '=' ? false : null;
    order = Number(left) - Number(right);
  } else order = left < right ? -1 : left > right ? 1 : 0;
  switch (sign) {
    case '=': return order === 0;
    case '<>': return order !== 0;
    case '<': return order < 0;
    case '>': return order > 0;
    case '<=': return order <= 0;
    case '>=': return order >= 0;
  }
}

/** "%" is any text, "_" any one character, a backslash takes their meaning away. */
function like(text: string, pattern: string): boolean {
  const value = [...text], wanted: { any?: 'many' | 'one'; c?: string }[] = [];
  const letters = [...pattern];
  for (let k = 0; k < letters.length; k++) {
    const c = letters[k]!;
    if (c === '\\' && k + 1 < letters.length) wanted.push({ c: letters[++k]! });
    else if (c === '%') wanted.push({ any: 'many' });
    else if (c === '_') wanted.push({ any: 'one' });
    else wanted.push({ c });
  }
  // two marks and the last "%": never more than the product of both lengths
  let v = 0, w = 0, star = -1, mark = 0;
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
