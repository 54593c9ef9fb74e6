import type { Picture } from '../tiles/sample-picture';

export const PICTURE = { width: 680, height: 400 };

/** A value of a table: words, a number, or letters that only a program reads. */
export type Cell = string | { n: string } | { code: string };

/** What a report is made of, whatever it is shown as. */
export type Block =
  | { kind: 'text'; text: string; small?: true }
  | { kind: 'heading'; text: string }
  | { kind: 'table'; head: readonly string[]; rows: readonly (readonly Cell[])[] }
  /** Counts with a bar each, 0 to 1; `far` where it is beyond what is allowed. */
  | { kind: 'bars'; head: readonly [string, string]; rows: readonly { name: string; count: string; share: number; far: boolean }[] }
  | { kind: 'picture'; picture: Picture; bar: { px: number; name: string }; caption: string };

export interface Report {
  title: string;
  of: string;
  verdict: { good: boolean; title: string; text: string };
  sections: { title: string; blocks: Block[] }[];
  /** Names and versions of what made it. */
  made: readonly (readonly [string, string])[];
}

/** What is said of a run, by what it wrote. */
export interface ReportPart {
  verdict: Omit<Report['verdict'], 'good'>;
  sections: Report['sections'];
}

export const number = (n: number): string => n.toLocaleString('en-GB', { maximumFractionDigits: 6 }).replaceAll(',', '\u202f');
export const bytes = (n: number): string => (n < 1000 ? `${n} B` : n < 1e6 ? `${(n / 1000).toFixed(1)} kB` : `${(n / 1e6).toFixed(1)} MB`);
export const metres = (m: number): string =>
  m === 0
    ? '0 mm'
    : m < 1e-6
      ? `${Number((m * 1e9).toPrecision(2))} nm`
      : m < 1e-3
        ? `${Number((m * 1e6).toPrecision(3))} µm`
        : m < 1
          ? `${Number((m * 1e3).toPrecision(3))} mm`
          : `${Number(m.toPrecision(4))} m`;
export const plural = (n: number, one: string): string => `${number(n)} ${n === 1 ? one : `${one}s`}`;
export const coordinate = (v: number): string => (Math.abs(v) <= 360 ? v.toFixed(9) : v.toFixed(4));
export const table = (head: readonly string[], rows: readonly (readonly Cell[])[]): Block => ({ kind: 'table', head, rows });
/** What a proof came to, in a line. @param unforeseen differences that were not forecast */
export const verdictOf = (status: string, unforeseen: number): string =>
  status === 'match'
    ? 'Match: nothing was lost that was not forecast'
    : `${plural(unforeseen, 'difference')} that the forecast did not announce`;
