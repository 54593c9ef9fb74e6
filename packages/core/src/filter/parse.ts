/**
 * Filters as text. Source: OGC 21-065r2, "Common Query Language (CQL2)": basic CQL2, advanced comparison operators,
 * case-insensitive and accent-insensitive comparison, arithmetic expressions, property-property comparisons.
 */

export type Expression =
  | { op: 'literal'; value: string | number | boolean }
  | { op: 'property'; name: string; at: number }
  | { op: 'arithmetic'; sign: '+' | '-' | '*' | '/' | '%' | '^' | 'div'; left: Expression; right: Expression }
  | { op: 'casei' | 'accenti'; of: Expression };

export type Condition =
  | { op: 'and' | 'or'; of: Condition[] }
  | { op: 'not'; of: Condition }
  | { op: 'compare'; sign: '=' | '<>' | '<' | '>' | '<=' | '>='; left: Expression; right: Expression }
  | { op: 'like'; of: Expression; pattern: Expression }
  | { op: 'between'; of: Expression; low: Expression; high: Expression }
  | { op: 'in'; of: Expression; list: Expression[] }
  | { op: 'null'; of: Expression }
  | { op: 'truth'; of: Expression };

/** What is wrong with a filter, and at which character, from 1. */
export class FilterFault extends Error {
  constructor(message: string, readonly at: number) {
    super(message);
  }
}

type Kind = 'word' | 'name' | 'text' | 'number' | 'sign' | 'end';
interface Token {
  kind: Kind;
  text: string;
  at: number;
}

const SIGNS = ['<>', '<=', '>=', '=', '<', '>', '(', ')', ',', '+', '-', '*', '/', '%', '^'];
const WORDS = new Set(['AND', 'OR', 'NOT', 'LIKE', 'BETWEEN', 'IN', 'IS', 'NULL', 'TRUE', 'FALSE', 'CASEI', 'ACCENTI', 'DATE', 'TIMESTAMP', 'DIV']);

function cut(text: string): Token[] {
  const tokens: Token[] = [];
  let at = 0;
  while (at < text.length) {
    const rest = text.slice(at);
    const blank = /^\s+/.exec(rest);
    if (blank) {
      at += blank[0].length;
      continue;
    }
    const push = (kind: Kind, value: string, length: number): void => {
      tokens.push({ kind, text: value, at });
      at += length;
    };
    const quoted = /^'((?:[^']|'')*)'/.exec(rest) ?? null;
    const named = /^"((?:[^"]|"")+)"/.exec(rest);
    const number = /^(\d+\.?\d*|\.\d+)(e[+-]?\d+)?/i.exec(rest);
    const word = /^[\p{L}_][\p{L}\p{N}_.:$]*/u.exec(rest);
    const sign = SIGNS.find((s) => rest.startsWith(s));
    if (quoted) push('text', quoted[1]!.replaceAll("''", "'"), quoted[0].length);
    else if (named) push('name', named[1]!.replaceAll('""', '"'), named[0].length);
    else if (number) push('number', number[0], number[0].length);
    else if (word) push(WORDS.has(word[0].toUpperCase()) ? 'word' : 'name', WORDS.has(word[0].toUpperCase()) ? word[0].toUpperCase() : word[0], word[0].length);
    else if (sign) push('sign', sign, sign.length);
    else if (rest.startsWith("'") || rest.startsWith('"')) throw new FilterFault(`The quote at character ${at + 1} is not closed.`, at + 1);
    else throw new FilterFault(`"${rest[0]}" at character ${at + 1} has no meaning here.`, at + 1);
  }
  tokens.push({ kind: 'end', text: '', at: text.length });
  return tokens;
}

/** Conditions within conditions. */
const MOST_DEEP = 100;

/** @throws FilterFault */
export function parseFilter(text: string): Condition {
  const parser = new Parser(cut(text));
  return parser.whole();
}

class Parser {
  private k = 0;
  private depth = 0;

  constructor(private readonly tokens: readonly Token[]) {}

  private get next(): Token {
    return this.tokens[this.k]!;
  }

  private is(text: string): boolean {
    const { kind } = this.next;
    return (kind === 'word' || kind === 'sign') && this.next.text === text;
  }

  private take(text: string): boolean {
    if (!this.is(text)) return false;
    this.k++;
    return true;
  }

  private need(text: string): void {
    if (!this.take(text)) throw this.fault(`"${text}" is expected`);
  }

  private fault(what: string): FilterFault {
    const { kind, text, at } = this.next;
    return new FilterFault(kind === 'end' ? `The filter breaks off: ${what}.` : `At character ${at + 1}, before "${text}", ${what}.`, at + 1);
  }

  whole(): Condition {
    const condition = this.or();
    if (this.next.kind !== 'end') throw this.fault('AND or OR is expected');
    return condition;
  }

  private or(): Condition {
    if (++this.depth > MOST_DEEP) throw new FilterFault(`Conditions lie in conditions more than ${MOST_DEEP} deep.`, this.next.at + 1);
    const list = [this.and()];
    while (this.take('OR')) list.push(this.and());
    this.depth--;
    return list.length === 1 ? list[0]! : { op: 'or', of: list };
  }

  private and(): Condition {
    const list = [this.not()];
    while (this.take('AND')) list.push(this.not());
    return list.length === 1 ? list[0]! : { op: 'and', of: list };
  }

  private not(): Condition {
    if (!this.take('NOT')) return this.predicate();
    if (++this.depth > MOST_DEEP) throw new FilterFault(`Conditions lie in conditions more than ${MOST_DEEP} deep.`, this.next.at + 1);
    const of = this.not();
    this.depth--;
    return { op: 'not', of };
  }

  private predicate(): Condition {
    // a bracket may hold a condition or the beginning of an expression
    if (this.is('(')) {
      const back = this.k;
      this.k++;
      try {
        const inner = this.or();
        this.need(')');
        const after = this.next;
        if (!(after.kind === 'sign' && ['=', '<>', '<', '>', '<=', '>=', '+', '-', '*', '/', '%', '^'].includes(after.text)) && !['LIKE', 'BETWEEN', 'IN', 'IS'].some((w) => this.is(w))) return inner;
      } catch (error) {
        if (!(error instanceof FilterFault) || !this.arithmeticFrom(back)) throw error;
      }
      this.k = back;
    }
    const of = this.sum();
    const negated = this.take('NOT');
    const wrap = (c: Condition): Condition => (negated ? { op: 'not', of: c } : c);
    if (this.take('LIKE')) return wrap({ op: 'like', of, pattern: this.primary() });
    if (this.take('BETWEEN')) {
      const low = this.sum();
      this.need('AND');
      return wrap({ op: 'between', of, low, high: this.sum() });
    }
    if (this.take('IN')) {
      this.need('(');
      const list = [this.sum()];
      while (this.take(',')) list.push(this.sum());
      this.need(')');
      return wrap({ op: 'in', of, list });
    }
    if (negated) throw this.fault('LIKE, BETWEEN or IN is expected after NOT');
    if (this.take('IS')) {
      const not = this.take('NOT');
      this.need('NULL');
      return not ? { op: 'not', of: { op: 'null', of } } : { op: 'null', of };
    }
    for (const sign of ['<>', '<=', '>=', '=', '<', '>'] as const) if (this.take(sign)) return { op: 'compare', sign, left: of, right: this.sum() };
    if (of.op === 'property' || (of.op === 'literal' && typeof of.value === 'boolean')) return { op: 'truth', of };
    throw this.fault('a comparison such as = or LIKE is expected');
  }

  /** Whether what begins at a token is an expression in brackets. */
  private arithmeticFrom(k: number): boolean {
    const back = this.k;
    this.k = k;
    try {
      this.sum();
      return true;
    } catch {
      return false;
    } finally {
      this.k = back;
    }
  }

  private sum(): Expression {
    let left = this.product();
    for (;;) {
      const sign = this.take('+') ? '+' : this.take('-') ? '-' : null;
      if (!sign) return left;
      left = { op: 'arithmetic', sign, left, right: this.product() };
    }
  }

  private product(): Expression {
    let left = this.power();
    for (;;) {
      const sign = this.take('*') ? '*' : this.take('/') ? '/' : this.take('%') ? '%' : this.take('DIV') ? 'div' : null;
      if (!sign) return left;
      left = { op: 'arithmetic', sign, left, right: this.power() };
    }
  }

  private power(): Expression {
    const left = this.primary();
    return this.take('^') ? { op: 'arithmetic', sign: '^', left, right: this.power() } : left;
  }

  private primary(): Expression {
    const token = this.next;
    const { kind, text, at } = token;
    if (kind === 'text') {
      this.k++;
      return { op: 'literal', value: text };
    }
    if (kind === 'number') {
      this.k++;
      return { op: 'literal', value: Number(text) };
    }
    if (this.take('TRUE')) return { op: 'literal', value: true };
    if (this.take('FALSE')) return { op: 'literal', value: false };
    if (this.take('-')) return { op: 'arithmetic', sign: '-', left: { op: 'literal', value: 0 }, right: this.primary() };
    if (this.take('+')) return this.primary();
    if (this.is('CASEI') || this.is('ACCENTI')) {
      const op = text === 'CASEI' ? 'casei' : 'accenti';
      this.k++;
      this.need('(');
      const of = this.sum();
      this.need(')');
      return { op, of };
    }
    if (this.is('DATE') || this.is('TIMESTAMP')) {
      this.k++;
      this.need('(');
      if (this.next.kind !== 'text') throw this.fault('a date in quotes is expected');
      const value = this.next.text;
      this.k++;
      this.need(')');
      return { op: 'literal', value };
    }
    if (this.take('(')) {
      const inner = this.sum();
      this.need(')');
      return inner;
    }
    if (kind === 'name') {
      this.k++;
      if (this.is('(')) throw new FilterFault(`${text} at character ${at + 1} is no function that is known here. Areas are chosen in Deliver.`, at + 1);
      return { op: 'property', name: text, at: at + 1 };
    }
    throw this.fault('a field, a number or a text in quotes is expected');
  }
}
