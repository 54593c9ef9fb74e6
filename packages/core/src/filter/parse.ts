/**
 * Filters as text. Source: OGC 21-065r2, "Common Query Language (CQL2)": basic CQL2, advanced comparison operators,
 * case-insensitive and accent-insensitive comparison, arithmetic expressions, property-property comparisons, functions, and of
 * the spatial functions S_INTERSECTS, S_WITHIN and S_DISJOINT with points and areas, which are in the reference frame.
 */
import { type Bounds, emptyBounds, growAlong } from '../geometry/bounds';
import type { Region } from '../geometry/within';

/** A value in a filter. Source: OGC 21-065r2 (CQL2), annex B. */
export type Expression =
  | { op: 'literal'; value: string | number | boolean }
  | { op: 'property'; name: string; at: number }
  | { op: 'arithmetic'; sign: '+' | '-' | '*' | '/' | '%' | '^' | 'div'; left: Expression; right: Expression }
  | { op: 'casei' | 'accenti'; of: Expression }
  /** The number of the record in its source: what its place counts. */
  | { op: 'record' };

/** How a record may lie to a piece of the plane. */
export type Lie = 'intersects' | 'within' | 'disjoint';

/** What a filter asks of a record. Source: OGC 21-065r2 (CQL2), annex B. */
export type Condition =
  | { op: 'and' | 'or'; of: Condition[] }
  | { op: 'not'; of: Condition }
  | { op: 'compare'; sign: '=' | '<>' | '<' | '>' | '<=' | '>='; left: Expression; right: Expression }
  | { op: 'like'; of: Expression; pattern: Expression }
  | { op: 'between'; of: Expression; low: Expression; high: Expression }
  | { op: 'in'; of: Expression; list: Expression[] }
  | { op: 'spatial'; lie: Lie; region: Region }
  | { op: 'null'; of: Expression }
  | { op: 'truth'; of: Expression };

/** What is wrong with a filter, and at which character, from 1. */
export class FilterFault extends Error {
  constructor(
    message: string,
    readonly at: number,
  ) {
    super(message);
  }
}

type Kind = 'word' | 'name' | 'text' | 'number' | 'sign' | 'end';
/** A word or a sign of a filter, and where it stands. */
export interface Token {
  kind: Kind;
  text: string;
  /** Characters before it, and up to its end. */
  at: number;
  end: number;
}

const SIGNS = ['<>', '<=', '>=', '=', '<', '>', '(', ')', ',', '+', '-', '*', '/', '%', '^'];
const WORDS = new Set([
  'AND',
  'OR',
  'NOT',
  'LIKE',
  'BETWEEN',
  'IN',
  'IS',
  'NULL',
  'TRUE',
  'FALSE',
  'CASEI',
  'ACCENTI',
  'DATE',
  'TIMESTAMP',
  'DIV',
]);
/** How a record may lie to a shape, by the name of the function that asks. Source: OGC 21-065r2 (CQL2), "Basic Spatial Functions". */
export const LIES: Readonly<Record<string, Lie>> = { S_INTERSECTS: 'intersects', S_WITHIN: 'within', S_DISJOINT: 'disjoint' };
/** What the place of a record is called in the spatial functions, and what asks for its number. */
export const GEOMETRY = 'geometry',
  RECORD = 'record';

/** What tokens look like; each is tried where the one before ended. */
const BLANK = /\s+/y,
  TEXT = /'((?:[^']|'')*)'/y,
  NAMED = /"((?:[^"]|"")+)"/y,
  NUMBER = /(?:\d+\.?\d*|\.\d+)(?:e[+-]?\d+)?/iy,
  WORD = /[\p{L}_][\p{L}\p{N}_.:$]*/uy;

/** The tokens of a filter, an end token last. @throws FilterFault */
export function cut(text: string): Token[] {
  const tokens: Token[] = [];
  let at = 0;
  const here = (pattern: RegExp): RegExpExecArray | null => {
    pattern.lastIndex = at;
    return pattern.exec(text);
  };
  while (at < text.length) {
    const blank = here(BLANK);
    if (blank) {
      at += blank[0].length;
      continue;
    }
    const push = (kind: Kind, value: string, length: number): void => {
      tokens.push({ kind, text: value, at, end: at + length });
      at += length;
    };
    const quoted = here(TEXT),
      named = here(NAMED),
      number = here(NUMBER),
      word = here(WORD);
    const sign = SIGNS.find((s) => text.startsWith(s, at));
    if (quoted) push('text', quoted[1]!.replaceAll("''", "'"), quoted[0].length);
    else if (named) push('name', named[1]!.replaceAll('""', '"'), named[0].length);
    else if (number) push('number', number[0], number[0].length);
    else if (word)
      push(
        WORDS.has(word[0].toUpperCase()) ? 'word' : 'name',
        WORDS.has(word[0].toUpperCase()) ? word[0].toUpperCase() : word[0],
        word[0].length,
      );
    else if (sign) push('sign', sign, sign.length);
    else if (text[at] === "'" || text[at] === '"') throw new FilterFault(`The quote at character ${at + 1} is not closed.`, at + 1);
    else throw new FilterFault(`"${text[at]!}" at character ${at + 1} has no meaning here.`, at + 1);
  }
  tokens.push({ kind: 'end', text: '', at: text.length, end: text.length });
  return tokens;
}

/** Conditions within conditions, and expressions within expressions. */
const MOST_DEEP = 100;
/** Terms of one sum or product. */
const MOST_TERMS = 1000;

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
    return new FilterFault(
      kind === 'end' ? `The filter breaks off: ${what}.` : `At character ${at + 1}, before "${text}", ${what}.`,
      at + 1,
    );
  }

  whole(): Condition {
    const condition = this.or();
    if (this.next.kind !== 'end') throw this.fault('AND or OR is expected');
    return condition;
  }

  private deeper(): void {
    if (++this.depth > MOST_DEEP) throw new FilterFault(`The filter is nested more than ${MOST_DEEP} deep.`, this.next.at + 1);
  }

  private or(): Condition {
    this.deeper();
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
    this.deeper();
    const of = this.not();
    this.depth--;
    return { op: 'not', of };
  }

  private predicate(): Condition {
    // a bracket may hold a condition or the beginning of an expression
    if (this.is('(')) {
      const [back, depth] = [this.k, this.depth];
      this.k++;
      try {
        const inner = this.or();
        this.need(')');
        const after = this.next;
        if (
          !(after.kind === 'sign' && ['=', '<>', '<', '>', '<=', '>=', '+', '-', '*', '/', '%', '^'].includes(after.text)) &&
          !['LIKE', 'BETWEEN', 'IN', 'IS'].some((w) => this.is(w))
        )
          return inner;
      } catch (error) {
        if (!(error instanceof FilterFault) || !this.arithmeticFrom(back, depth)) throw error;
      }
      [this.k, this.depth] = [back, depth];
    }
    const lie = this.next.kind === 'name' ? LIES[this.next.text.toUpperCase()] : undefined;
    if (lie) return this.spatial(lie);
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
    for (const sign of ['<>', '<=', '>=', '=', '<', '>'] as const)
      if (this.take(sign)) return { op: 'compare', sign, left: of, right: this.sum() };
    if (of.op === 'property' || (of.op === 'literal' && typeof of.value === 'boolean')) return { op: 'truth', of };
    throw this.fault('a comparison such as = or LIKE is expected');
  }

  private spatial(lie: Lie): Condition {
    const called = this.next.text.toUpperCase();
    this.k++;
    this.need('(');
    if (this.next.kind !== 'name' || this.next.text.toLowerCase() !== GEOMETRY)
      throw this.fault(`${called}(${GEOMETRY}, ...) asks where a record lies, so "${GEOMETRY}" is expected`);
    this.k++;
    this.need(',');
    const region = this.region();
    this.need(')');
    return { op: 'spatial', lie, region };
  }

  /** A piece of the plane. Source: OGC 21-065r2, annex B (BNF): point, polygon, multipolygon and bounding box as text. */
  private region(): Region {
    const { kind, text } = this.next;
    const named = kind === 'name' ? text.toUpperCase() : '';
    if (!['POINT', 'POLYGON', 'MULTIPOLYGON', 'BBOX'].includes(named)) throw this.fault('POINT, POLYGON, MULTIPOLYGON or BBOX is expected');
    this.k++;
    this.need('(');
    if (named === 'BBOX') {
      const sides = [this.ordinate()];
      while (this.take(',')) sides.push(this.ordinate());
      if (sides.length !== 4 || sides[0]! > sides[2]! || sides[1]! > sides[3]!)
        throw this.fault('a BBOX has four numbers, the least ones of both axes first');
      this.need(')');
      return { box: sides as unknown as Bounds, rings: [] };
    }
    if (named === 'POINT') {
      const x = this.ordinate(),
        y = this.ordinate();
      this.need(')');
      return { box: [x, y, x, y], rings: [] };
    }
    const rings = named === 'POLYGON' ? [this.ring()] : this.rings();
    while (this.take(',')) rings.push(...(named === 'POLYGON' ? [this.ring()] : this.rings()));
    this.need(')');
    const box = emptyBounds();
    for (const ring of rings) growAlong(box, ring);
    return { box, rings };
  }

  private rings(): number[][] {
    this.need('(');
    const rings = [this.ring()];
    while (this.take(',')) rings.push(this.ring());
    this.need(')');
    return rings;
  }

  private ring(): number[] {
    this.need('(');
    const flat = [this.ordinate(), this.ordinate()];
    while (this.take(',')) flat.push(this.ordinate(), this.ordinate());
    if (flat[0] !== flat.at(-2) || flat[1] !== flat.at(-1)) flat.push(flat[0]!, flat[1]!);
    if (flat.length < 8) throw this.fault('a ring has three corners at least');
    this.need(')');
    return flat;
  }

  private ordinate(): number {
    const less = this.take('-');
    if (!less) this.take('+');
    if (this.next.kind !== 'number') throw this.fault('a coordinate is expected');
    const value = Number(this.next.text);
    this.k++;
    return less ? -value : value;
  }

  /** Whether what begins at a token is an expression in brackets. */
  private arithmeticFrom(k: number, depth: number): boolean {
    const back = this.k;
    [this.k, this.depth] = [k, depth];
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
    for (let terms = 1; ; terms++) {
      const sign = this.take('+') ? '+' : this.take('-') ? '-' : null;
      if (!sign) return left;
      this.check(terms);
      left = { op: 'arithmetic', sign, left, right: this.product() };
    }
  }

  private product(): Expression {
    let left = this.power();
    for (let terms = 1; ; terms++) {
      const sign = this.take('*') ? '*' : this.take('/') ? '/' : this.take('%') ? '%' : this.take('DIV') ? 'div' : null;
      if (!sign) return left;
      this.check(terms);
      left = { op: 'arithmetic', sign, left, right: this.power() };
    }
  }

  private check(terms: number): void {
    if (terms > MOST_TERMS) throw new FilterFault(`A sum or a product has more than ${MOST_TERMS} terms.`, this.next.at + 1);
  }

  private power(): Expression {
    this.deeper();
    const power = this.powerAt();
    this.depth--;
    return power;
  }

  private powerAt(): Expression {
    const left = this.primary();
    return this.take('^') ? { op: 'arithmetic', sign: '^', left, right: this.power() } : left;
  }

  private signed(): Expression {
    this.deeper();
    const of = this.primary();
    this.depth--;
    return of;
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
    if (this.take('-')) return { op: 'arithmetic', sign: '-', left: { op: 'literal', value: 0 }, right: this.signed() };
    if (this.take('+')) return this.signed();
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
      if (this.take('(')) {
        if (text.toLowerCase() !== RECORD)
          throw new FilterFault(
            `${text} at character ${at + 1} is no function that is known here; there is ${RECORD}(), ${Object.keys(LIES).join(', ')}.`,
            at + 1,
          );
        this.need(')');
        return { op: 'record' };
      }
      return { op: 'property', name: text, at: at + 1 };
    }
    throw this.fault('a field, a number or a text in quotes is expected');
  }
}
