import { utf8Length } from './profile';
import type { NameRules } from '../../formats/format';

/** What is wrong with a name in a format, as a sentence; null when nothing is. */
export function nameFault(name: string, rules: NameRules): string | null {
  if (name === '') return 'A name is needed.';
  const bytes = utf8Length(name);
  if (bytes > rules.maxBytes) return `${bytes} bytes; at most ${rules.maxBytes} fit.`;
  if (rules.reserved?.(name.toLowerCase())) return `The format keeps the name ${name} for itself.`;
  if (rules.first && !rules.first.test(name)) return `A name does not begin with "${[...name][0]}" here.`;
  const bad = [...name].find((c) => !rules.valid.test(c));
  return bad === undefined ? null : `"${bad}" is not allowed in a name.`;
}

function cased(name: string, { letters }: NameRules): string {
  return letters === 'small' ? name.toLowerCase() : letters === 'large' ? name.toUpperCase() : name;
}

/**
 * A name that the format can hold and that people can still read: separators go first, then the longest words are cut
 * from their ends, so INSTALLATION_YEAR becomes INSTALYEAR.
 */
export function abbreviate(name: string, rules: NameRules): string {
  const valid = [...cased(name, rules)].map((c) => (rules.valid.test(c) ? c : rules.replacement)).join('');
  const clean = rules.first && !rules.first.test(valid) ? `_${valid}` : valid;
  if (utf8Length(clean) <= rules.maxBytes) return clean;
  const words = clean
    .split(/_+/)
    .filter(Boolean)
    .map((w) => [...w]);
  const length = (): number => utf8Length(words.map((w) => w.join('')).join(''));
  while (length() > rules.maxBytes) {
    const longest = words.reduce((a, b) => (b.length > a.length ? b : a));
    longest.pop();
  }
  return words.map((w) => w.join('')).join('');
}

/** The name itself, or with a number behind it when another one took it already. */
export function uniqueName(name: string, taken: (name: string) => boolean, rules: NameRules): string {
  if (!taken(name)) return name;
  for (let n = 2; ; n++) {
    const suffix = String(n);
    let stem = name;
    while (utf8Length(stem) + suffix.length > rules.maxBytes) stem = [...stem].slice(0, -1).join('');
    if (!taken(stem + suffix)) return stem + suffix;
  }
}
