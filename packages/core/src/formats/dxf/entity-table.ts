import { isNumberCode } from './tags';

/** What an entity keeps of one group code. */
export type Slot =
  | { kind: 'value'; code: number; initial: number | string }
  /** Every value of the code, in order. */
  | { kind: 'values'; code: number }
  /** A list of items; `codes[0]` begins a new one, the others fill it. Kept flat, `codes.length` numbers an item. */
  | { kind: 'items'; codes: readonly number[] }
  /** Every group from 10 to 99, as code and number by turns: for entities whose groups mean something by their order only. */
  | { kind: 'raw' }
  /** Every group of whatever code, as code and value by turns: for entities that nest lists in lists. */
  | { kind: 'all' };

/** Keeps the last value of a group code. @param initial what counts where the code does not occur */
export const value = <T extends number | string>(code: number, initial: T): { kind: 'value'; code: number; initial: T } => ({
  kind: 'value',
  code,
  initial,
});
/** Keeps every value of a group code. */
export const values = (code: number): { kind: 'values'; code: number } => ({ kind: 'values', code });
/** Keeps every number from 10 to 99 with its code. */
export const raw = (): { kind: 'raw' } => ({ kind: 'raw' });
/** Keeps every group with its code. */
export const all = (): { kind: 'all' } => ({ kind: 'all' });
/** Keeps a list of items. @param codes the first begins an item, the others fill it */
export const items = (...codes: number[]): { kind: 'items'; codes: readonly number[] } => ({ kind: 'items', codes });

/** What is kept of an entity, by the names that it has here. */
export type Slots = Record<string, Slot>;

type ValueOf<S extends Slot> = S extends { kind: 'value'; initial: infer I }
  ? I extends number
    ? number
    : string
  : S extends { kind: 'values' }
    ? string[]
    : S extends { kind: 'all' }
      ? (number | string)[]
      : number[];

/** An entity as read: one property a slot. */
export type Read<S extends Slots> = { [K in keyof S]: ValueOf<S[K]> };

/** An entity as it is read, before its kind is known. */
export type Loose = Record<string, number | string | number[] | string[] | (number | string)[]>;

/** A compiled table: makes empty entities and takes groups into them. */
export interface EntityTable {
  fresh(): Loose;
  take(entity: Loose, code: number, text: string, number: number): void;
}

const NONE = 0,
  VALUE_TEXT = 1,
  VALUE_NUMBER = 2,
  LIST = 3,
  ITEM = 4;

/** Compiles a declaration, so that taking a group is one look-up by its code. */
export function compileTable(slots: Slots): EntityTable {
  const act = new Uint8Array(1072);
  const names: string[] = [];
  const offset = new Int16Array(1072);
  const width: number[] = [];
  let rawName: string | null = null,
    allName: string | null = null;
  const entries = Object.entries(slots);
  for (const [name, slot] of entries) {
    if (slot.kind === 'value') {
      act[slot.code] = typeof slot.initial === 'number' ? VALUE_NUMBER : VALUE_TEXT;
      names[slot.code] = name;
    } else if (slot.kind === 'raw') rawName = name;
    else if (slot.kind === 'all') allName = name;
    else if (slot.kind === 'values') {
      act[slot.code] = LIST;
      names[slot.code] = name;
    } else {
      slot.codes.forEach((code, i) => {
        act[code] = ITEM;
        names[code] = name;
        offset[code] = i;
        width[code] = slot.codes.length;
      });
    }
  }
  const empty: Loose = Object.fromEntries(entries.map(([name, slot]) => [name, slot.kind === 'value' ? slot.initial : []]));
  const lists = entries.filter(([, slot]) => slot.kind !== 'value').map(([name]) => name);
  return {
    fresh() {
      // a copy keeps the shape of the object, which filling it name by name would not
      const entity = { ...empty };
      for (const name of lists) entity[name] = [];
      return entity;
    },
    take(entity, code, text, number) {
      if (allName !== null) (entity[allName] as (number | string)[]).push(code, isNumberCode(code) ? number : text);
      if (rawName !== null && code >= 10 && code <= 99) (entity[rawName] as number[]).push(code, number);
      const what = code < 0 || code > 1071 ? NONE : act[code];
      if (what === NONE) return;
      const name = names[code]!;
      if (what === VALUE_NUMBER) entity[name] = number;
      else if (what === VALUE_TEXT) entity[name] = text;
      else if (what === LIST) (entity[name] as string[]).push(text);
      else {
        const list = entity[name] as number[];
        const n = width[code]!;
        const k = offset[code]!;
        if (k === 0) {
          list.push(number);
          for (let i = 1; i < n; i++) list.push(0);
        } else if (list.length > 0) list[list.length - n + k] = number;
      }
    },
  };
}
