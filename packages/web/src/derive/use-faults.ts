import { useMemo, useState } from 'react';
import type { FaultView, SourceState } from '@pontrel/contract/crossing';
import { type FaultCode, faultKind } from '@pontrel/core/content/derived/fault';
import { chosenText, isMendable } from '@pontrel/core/content/parcels/chosen-faults';
import { sourceRules, useChange, useCrossing } from '../crossing/use-crossing';
import type { Mark } from '../map/Marks';
import { useFaultsQuery } from '../state/api';
import { chosenOf, useMending } from './use-mending';

/** A fault in the list, with its number and whether somebody lets it be. */
export interface ListedFault extends FaultView {
  number: number;
  isLeft: boolean;
  /** Whether it was chosen to be mended by itself. */
  isMended: boolean;
}

/** The faults of a source that was worked out, and the one that is looked at. */
export interface Faults {
  list: readonly ListedFault[];
  /** How many there are, listed or not. */
  total: number;
  open: number;
  current: ListedFault | null;
  choose(fault: ListedFault): void;
  /** Goes on to the next that is open, or back to the one before. */
  step(by: 1 | -1): void;
  /** Lets the current one be, or takes that back. */
  leave(): void;
  /** Mends the current one by itself, or takes that back; absent where nothing is mended so. */
  mend?: (() => void) | undefined;
  marks: Mark[];
}

/** Rings on the map: more could not be told apart. */
const MOST_MARKED = 400;

/** @param source null where nothing that was worked out is chosen */
export function useFaults(source: SourceState | null, onFind: (at: { x: number; y: number }) => void): Faults {
  const mending = useMending(source);
  const crossing = useCrossing();
  const change = useChange();
  const { data } = useFaultsQuery({ id: crossing.id, source: source?.id ?? '', stamp: crossing.tileStamp }, { skip: source === null });
  const [key, setKey] = useState<string | null>(null);
  const left = source ? crossing.recipe.sources[source.name]?.faultsLeft : undefined;
  const list = useMemo(() => {
    const leftOnes = new Set(left ?? []);
    const mended = new Set(mending?.mended.map((f) => chosenText([f])) ?? []);
    return (source ? (data?.faults ?? []) : []).map((f, k): ListedFault => ({
      ...f,
      number: k + 1,
      isLeft: leftOnes.has(f.key),
      isMended: mended.has(chosenText([chosenOf(f)])),
    }));
  }, [source, data, left, mending?.mended]);
  const current = list.find((f) => f.key === key) ?? null;
  const choose = (fault: ListedFault): void => {
    setKey(fault.key);
    onFind({ x: fault.at[0], y: fault.at[1] });
  };
  const step = (by: 1 | -1): void => {
    const open = list.filter((f) => !f.isLeft && !f.isMended);
    if (open.length === 0) return;
    const at = current ? list.indexOf(current) : by > 0 ? -1 : list.length;
    const next = by > 0 ? open.find((f) => list.indexOf(f) > at) : [...open].reverse().find((f) => list.indexOf(f) < at);
    choose(next ?? (by > 0 ? open[0]! : open.at(-1)!));
  };
  const leave = (): void => {
    if (!current || !source) return;
    const { title } = faultKind(current.kind as FaultCode);
    change(`${current.isLeft ? 'open again' : 'leave'} ${title.toLowerCase()}`, (draft) => {
      const rules = sourceRules(draft, source.name);
      const others = (rules.faultsLeft ?? []).filter((k) => k !== current.key);
      const next = current.isLeft ? others : [...others, current.key];
      if (next.length > 0) rules.faultsLeft = next;
      else delete rules.faultsLeft;
    });
    if (!current.isLeft) step(1);
  };
  const mend =
    current && mending?.toggle && isMendable(current.kind as FaultCode)
      ? (): void => {
          mending.toggle!(chosenOf(current));
          if (!current.isMended) step(1);
        }
      : undefined;
  const marks = useMemo(() => {
    const shown = list.filter((f) => !f.isLeft && !f.isMended && f.key !== key).slice(0, MOST_MARKED);
    const of = (f: ListedFault, label?: string): Mark => ({
      x: f.at[0],
      y: f.at[1],
      tone: faultKind(f.kind as FaultCode).severity === 'wrong' ? 'madder' : 'amber',
      ...(label === undefined ? { small: true } : { label }),
    });
    return [...shown.map((f) => of(f)), ...(current ? [of(current, String(current.number))] : [])];
  }, [list, key, current]);
  return {
    list,
    total: data?.total ?? 0,
    open: list.filter((f) => !f.isLeft && !f.isMended).length,
    current,
    choose,
    step,
    leave,
    mend,
    marks,
  };
}
