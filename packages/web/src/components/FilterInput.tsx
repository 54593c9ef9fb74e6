import { LONGEST_FILTER } from '@pontrel/core/operations/filter';
import { useEffect, useId, useLayoutEffect, useMemo, useRef, useState } from 'react';
import { Box, Flex, Textarea } from '@chakra-ui/react';
import { compileFilter } from '@pontrel/core/filter/evaluate';
import { expectedAt, offersFor } from '@pontrel/core/filter/expected';
import { useFieldValuesQuery } from '../state/api';
import { Mono, Muted } from './parts';

const MOST_SHOWN = 9;
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
export function filterFault(text: string, { fields, placed }: Pick<Filtered, 'fields' | 'placed'>): string | null {
  const compiled =
    text.trim() === '' ? null : compileFilter(text, { fields: fields.map((f) => f.name), ...(placed ? {} : { inFrame: null }) });
  return typeof compiled === 'string' ? compiled : null;
}

/** A filter that is written with the fields and values that there are; it holds its text until it is left or Enter is pressed. */
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
  // what was typed is about the filter that was there then: another one from elsewhere takes its place
  const [typed, setTyped] = useState<{ text: string; over: string } | null>(null);
  const text = typed?.over === value ? typed.text : null;
  const setText = (to: string | null): void => setTyped(to === null ? null : { text: to, over: value });
  const [caret, setCaret] = useState<number | null>(null);
  const [active, setActive] = useState(-1);
  const area = useRef<HTMLTextAreaElement>(null);
  const wanted = useRef<number | null>(null);
  const list = useId();
  const now = text ?? value;
  const expected = useMemo(() => (caret === null ? null : expectedAt(now, caret)), [now, caret]);
  const asks = expected?.expect === 'value' && expected.field !== null && of.fields.some((f) => f.name === expected.field);
  const { currentData: values } = useFieldValuesQuery(
    { id: of.crossing, source: of.source, layer: of.layer, field: expected?.field ?? '', begin: expected?.typed ?? '' },
    { skip: !asks },
  );
  const offers = expected
    ? offersFor(
        expected,
        of.fields,
        (asks ? values : undefined)?.flatMap((v) => (v.value === null ? [] : [{ value: v.value, count: v.count }])) ?? [],
      ).slice(0, MOST_SHOWN)
    : [];
  const fault = filterFault(now, of);
  useEffect(() => {
    if (!onTyped) return;
    if (text === null) onTyped(null);
    else if (fault === null) {
      const rested = setTimeout(() => onTyped(text.trim()), TYPED_MS);
      return () => clearTimeout(rested);
    }
    return undefined;
  }, [text, fault, onTyped]);
  useLayoutEffect(() => {
    if (wanted.current === null) return;
    area.current?.setSelectionRange(wanted.current, wanted.current);
    wanted.current = null;
  });
  const save = (): void => {
    setCaret(null);
    setActive(-1);
    // what cannot be taken stays to be mended
    if (text !== null && fault !== null) return;
    if (text !== null && text.trim() !== value) onChange(text.trim());
    setText(null);
  };
  const accept = (k: number): void => {
    const { from } = expected!;
    const begun = `${now.slice(0, from)}${offers[k]!.text} `;
    // a quote that was opened is closed by what is taken
    const rest = now.slice(caret!).replace(/^\w*['"]?\s*/, '');
    setText(begun + rest);
    setCaret(begun.length);
    setActive(-1);
    wanted.current = begun.length;
  };
  return (
    <Box position="relative" w="100%">
      <Textarea
        ref={area}
        autoresize
        size="sm"
        rows={1}
        minH="26px"
        maxH="96px"
        px="7px"
        py="3px"
        lineHeight="18px"
        fontFamily="mono"
        fontSize="12px"
        overflowWrap="anywhere"
        spellCheck={false}
        maxLength={LONGEST_FILTER}
        role="combobox"
        aria-label={label}
        aria-autocomplete="list"
        aria-expanded={offers.length > 0}
        aria-controls={list}
        aria-activedescendant={active >= 0 ? `${list}-${active}` : undefined}
        aria-invalid={fault !== null}
        placeholder={hint}
        value={now}
        onChange={(e) => {
          setText(e.target.value.replace(/\n/g, ' '));
          setCaret(e.target.selectionStart);
          setActive(-1);
        }}
        onClick={(e) => setCaret(e.currentTarget.selectionStart)}
        onFocus={(e) => setCaret(e.currentTarget.selectionStart)}
        onBlur={save}
        onKeyUp={(e) => {
          if (['ArrowLeft', 'ArrowRight', 'Home', 'End'].includes(e.key)) setCaret(e.currentTarget.selectionStart);
        }}
        onKeyDown={(e) => {
          if ((e.key === 'ArrowDown' || e.key === 'ArrowUp') && offers.length > 0) {
            e.preventDefault();
            setActive((was) => (was + (e.key === 'ArrowDown' ? 1 : offers.length + (was < 0 ? 1 : 0) - 1)) % offers.length);
          } else if ((e.key === 'Enter' || e.key === 'Tab') && active >= 0) {
            e.preventDefault();
            accept(active);
          } else if (e.key === 'Enter') {
            e.preventDefault();
            e.currentTarget.blur();
          } else if (e.key === 'Escape') {
            e.stopPropagation();
            if (caret !== null && offers.length > 0) setCaret(null);
            else setText(null);
          }
        }}
      />
      {caret !== null && offers.length > 0 && (
        <Box
          id={list}
          role="listbox"
          aria-label={`What may come next in ${label}`}
          position="absolute"
          zIndex="popover"
          top="calc(100% + 2px)"
          left="0"
          minW="100%"
          maxW="420px"
          bg="surface"
          borderWidth="1px"
          borderColor="line"
          borderRadius="sheet"
          py="3px"
          overflow="hidden"
        >
          {offers.map((o, k) => (
            <Flex
              key={o.text}
              id={`${list}-${k}`}
              role="option"
              aria-selected={k === active}
              justify="space-between"
              gap="14px"
              h="23px"
              px="8px"
              align="center"
              cursor="pointer"
              bg={k === active ? 'verdigrisTint' : undefined}
              _hover={{ bg: k === active ? 'verdigrisTint' : 'sunk' }}
              onMouseDown={(e) => {
                e.preventDefault();
                accept(k);
              }}
            >
              <Mono truncate>{o.text}</Mono>
              <Muted textStyle="small" whiteSpace="nowrap">
                {o.note}
              </Muted>
            </Flex>
          ))}
        </Box>
      )}
      {fault !== null && (
        <Box mt="3px" color="madderInk" textStyle="small">
          {fault}
        </Box>
      )}
    </Box>
  );
}
