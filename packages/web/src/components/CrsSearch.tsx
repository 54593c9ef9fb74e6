import { useDeferredValue, useId, useRef, useState } from 'react';
import { Box, Flex, Input, Text } from '@chakra-ui/react';
import { Search } from 'lucide-react';
import type { CrsName } from '@pontrel/contract/crossing';
import { messageOfError, useSearchCrsQuery } from '../state/api';
import { ICON, Mono, Muted } from './parts';

/** Finds a coordinate system by code, name or place, or among those used before; arrow keys and Enter choose. */
export function CrsSearch({ label, onChoose, autoFocus }: { label: string; onChoose(crs: CrsName): void; autoFocus?: boolean }) {
  const [text, setText] = useState('');
  const [at, setAt] = useState(0);
  const q = useDeferredValue(text.trim());
  const [open, setOpen] = useState(false);
  // while nothing is typed, those that were used before
  const asked = q === '' || q.length >= 2;
  const { data, isFetching, error } = useSearchCrsQuery(q, {
    skip: !open || !asked,
    // which were used before changes with what is placed
    refetchOnMountOrArgChange: q === '',
  });
  const list = useId();
  const box = useRef<HTMLDivElement>(null);
  const results = !asked || error ? [] : (data ?? []);
  const shown = open && (q.length >= 2 || results.length > 0);
  const choose = (crs: CrsName | undefined): void => {
    if (!crs) return;
    setText('');
    setOpen(false);
    onChoose(crs);
  };
  return (
    <Box
      ref={box}
      onBlur={(e) => {
        if (!e.currentTarget.contains(e.relatedTarget)) setOpen(false);
      }}
    >
      <Flex position="relative" align="center">
        <Box position="absolute" left="8px" color="muted" pointerEvents="none" zIndex="1">
          <Search {...ICON} size={14} />
        </Box>
        <Input
          pl="27px"
          role="combobox"
          aria-label={label}
          aria-expanded={shown}
          aria-controls={list}
          aria-activedescendant={results[at] ? `${list}-${at}` : undefined}
          placeholder="Code, name or place"
          value={text}
          autoFocus={autoFocus}
          onFocus={() => setOpen(true)}
          onClick={() => setOpen(true)}
          onChange={(e) => {
            setOpen(true);
            setText(e.target.value);
            setAt(0);
          }}
          onKeyDown={(e) => {
            if (e.key === 'ArrowDown' || e.key === 'ArrowUp') {
              e.preventDefault();
              setAt(Math.min(results.length - 1, Math.max(0, at + (e.key === 'ArrowDown' ? 1 : -1))));
            } else if (e.key === 'Enter') choose(results[at]);
            else if (e.key === 'Escape') {
              setText('');
              setOpen(false);
            }
          }}
        />
      </Flex>
      {shown && (
        <Box
          id={list}
          // a click would take the focus from the field, and the list with it
          onPointerDown={(e) => e.preventDefault()}
          role="listbox"
          aria-label={`${label}: results`}
          mt="4px"
          borderWidth="1px"
          borderColor="line"
          borderRadius="sheet"
          bg="surface"
          maxH="236px"
          overflowY="auto"
          scrollbarWidth="thin"
        >
          {q === '' && (
            <Muted textStyle="small" display="block" px="9px" pt="5px">
              Used before
            </Muted>
          )}
          {results.map((crs, i) => (
            <Box
              key={crs.id}
              id={`${list}-${i}`}
              role="option"
              aria-selected={i === at}
              px="9px"
              py="5px"
              cursor="pointer"
              bg={i === at ? 'verdigrisTint' : undefined}
              onPointerEnter={() => setAt(i)}
              onClick={() => choose(crs)}
              borderTopWidth={i === 0 ? 0 : '1px'}
              borderColor="hairline"
            >
              <Flex gap="8px" align="baseline">
                <Mono fontWeight={600} flex="none">
                  {crs.label}
                </Mono>
                <Text truncate flex="1">
                  {crs.name}
                </Text>
                <Muted textStyle="small" flex="none">
                  {crs.used && q !== '' ? `used before · ${crs.unit}` : crs.unit}
                </Muted>
              </Flex>
              {crs.area && (
                <Muted textStyle="small" display="block" truncate>
                  {crs.area}
                </Muted>
              )}
            </Box>
          ))}
          {results.length === 0 && (
            <Text px="9px" py="7px" color={error ? 'madderInk' : 'muted'} role={error ? 'alert' : undefined} overflowWrap="anywhere">
              {error
                ? messageOfError(error)
                : isFetching
                  ? 'Looking …'
                  : `No system has “${q}” in its code, name or area. A definition (WKT, or a PROJ string) can be pasted as well.`}
            </Text>
          )}
        </Box>
      )}
    </Box>
  );
}
