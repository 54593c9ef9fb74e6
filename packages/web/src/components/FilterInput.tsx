import { LONGEST_FILTER } from '@pontrel/core/operations/filter';
import { useCallback, useEffect, useRef } from 'react';
import { type CompletionContext, type CompletionResult, startCompletion } from '@codemirror/autocomplete';
import { filterFault } from '@pontrel/core/filter/evaluate';
import { type Expected, expectedAt, offersFor, VALUES_TOLD } from '@pontrel/core/filter/expected';
import { api } from '../state/api';
import { useAppDispatch } from '../state/store';
import { CodeInput, type TextFault } from './CodeInput';

/** How long typing rests before what is typed is tried. */
const TYPED_MS = 250;

/** The layer whose records a filter is about. */
export interface Filtered {
  crossing: string;
  /** Its source by id. */
  source: string;
  layer: string;
  fields: readonly { name: string; type: string }[];
  /** Whether its source has a place, so that a filter may ask where records lie. */
  placed: boolean;
}

/** What is wrong with a filter. */
export const faultOfFilter = (text: string, { fields, placed }: Pick<Filtered, 'fields' | 'placed'>): TextFault | null =>
  filterFault(text, { fields: fields.map((f) => f.name), ...(placed ? {} : { inFrame: null }) });

/** A filter that is written with the fields and values that there are. */
export function FilterInput({
  label,
  value,
  hint,
  of,
  onChange,
  onTyped,
}: {
  label: string;
  value: string;
  hint: string;
  of: Filtered;
  onChange(text: string): void;
  /** Gets what is being typed, as far as it is a filter; null when it is not being typed any more. */
  onTyped?(text: string | null): void;
}) {
  const dispatch = useAppDispatch();
  const rested = useRef<ReturnType<typeof setTimeout>>(undefined);
  useEffect(() => () => clearTimeout(rested.current), []);
  const faultOf = useCallback((text: string) => faultOfFilter(text, of), [of]);
  const complete = async (context: CompletionContext): Promise<CompletionResult | null> => {
    const text = context.state.doc.toString();
    const expected = expectedAt(text, context.pos);
    const { crossing: id, source, layer } = of;
    const field = expected.expect === 'value' ? of.fields.find((f) => f.name === expected.field)?.name : undefined;
    const values =
      field === undefined
        ? []
        : ((await dispatch(api.endpoints.fieldValues.initiate({ id, source, layer, field, begin: expected.typed }, { subscribe: false })))
            .data ?? []);
    return offering(
      expected,
      values.flatMap((v) => (v.value === null ? [] : [{ value: v.value, count: v.count }])),
    );
  };
  /** The offers at a place, which typing on narrows at once: a list that waits for an answer takes no key. */
  const offering = (
    expected: Expected,
    values: readonly { value: string | number | boolean; count: number }[],
  ): CompletionResult | null => {
    const offers = offersFor(expected, of.fields, values);
    if (offers.length === 0) return null;
    return {
      from: expected.from,
      filter: false,
      options: offers.map((o) => ({
        label: o.text,
        detail: o.note,
        apply: (view, _completion, from, to) => {
          // a quote that was opened is closed by what is taken
          const rest = /^\w*['"]?\s*/.exec(view.state.doc.sliceString(to))?.[0].length ?? 0;
          const insert = `${o.text} `;
          view.dispatch({ changes: { from, to: to + rest, insert }, selection: { anchor: from + insert.length } });
          startCompletion(view);
        },
      })),
      update: (_current, _from, _to, { state, pos }) => {
        const now = expectedAt(state.doc.toString(), pos);
        const same = now.expect === expected.expect && now.field === expected.field && now.from === expected.from;
        const typedOn = now.typed.startsWith(expected.typed);
        // where not all values were told, those that begin like this are asked for
        return same && typedOn && values.length < VALUES_TOLD ? offering(now, values) : null;
      },
    };
  };
  const typed = (text: string | null): void => {
    clearTimeout(rested.current);
    if (!onTyped) return;
    if (text === null) onTyped(null);
    else
      rested.current = setTimeout(() => {
        if (text.trim() === '' || faultOf(text) === null) onTyped(text.trim());
      }, TYPED_MS);
  };
  return (
    <CodeInput
      label={label}
      value={value}
      hint={hint}
      maxLength={LONGEST_FILTER}
      faultOf={faultOf}
      complete={complete}
      onChange={onChange}
      onTyped={onTyped ? typed : undefined}
    />
  );
}
