import { useCallback, useState } from 'react';

const nameOf = (name: string): string => `pontrel.${name}`;

function read<T>(name: string, usual: T): T {
  try {
    const text = localStorage.getItem(nameOf(name));
    return text === null ? usual : (JSON.parse(text) as T);
  } catch {
    // what another version left there is not what is wanted
    return usual;
  }
}

/** Something about how a person likes the page, kept by the browser from one visit to the next. `usual` holds until it is changed. */
export function useKept<T>(name: string, usual: T): [T, (to: T) => void] {
  const [kept, setKept] = useState(() => ({ name, value: read(name, usual) }));
  const now = kept.name === name ? kept : { name, value: read(name, usual) };
  if (now !== kept) setKept(now);
  const keep = useCallback(
    (to: T) => {
      localStorage.setItem(nameOf(name), JSON.stringify(to));
      setKept({ name, value: to });
    },
    [name],
  );
  return [now.value, keep];
}
