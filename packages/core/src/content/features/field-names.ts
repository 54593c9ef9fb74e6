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

/** Words that say nothing where there is no room. */
const SMALL = /^(a|an|the|of|and|or|for|in|on|at|to|by|with|from)$/i;

/** Letters that a word keeps at the least; shorter words stay whole. */
const LEAST = 4;

/** A word of a name with the separator before it; "" within a name that is written in one, as pipeDiameter2. */
interface Word {
  separator: string;
  text: string;
}

function wordsOf(name: string): Word[] {
  return [...name.matchAll(/(_*)(\d+|\p{Lu}+(?!\p{Ll})|\p{Lu}?[^_\d\p{Lu}]+)/gu)].map(([, separator, text], k) => ({
    separator: k > 0 && separator ? '_' : '',
    text: text!,
  }));
}

const isNumber = ({ text }: Word): boolean => /^\d+$/.test(text);

/** The beginning of a word, which ends with a consonant, as abbreviations do: INST of INSTALLATION, DIAM of DIAMETER. */
function beginning(text: string, length: number): string {
  const letters = [...text];
  if (length >= letters.length) return text;
  let n = length;
  while (n > LEAST - 1 && /[aeiou]/i.test(letters[n - 1]!)) n--;
  return letters.slice(0, n).join('');
}

/** Words in so many bytes, the longest abbreviated from their ends; null where they do not fit so. */
function fitted(words: readonly Word[], maxBytes: number): string | null {
  const lengths = words.map((w) => [...w.text].length);
  for (;;) {
    const text = words.map((w, k) => w.separator + beginning(w.text, lengths[k]!)).join('');
    if (utf8Length(text) <= maxBytes) return text;
    let longest = -1;
    words.forEach((w, k) => {
      if (lengths[k]! > LEAST && !isNumber(w) && (longest < 0 || lengths[k]! >= lengths[longest]!)) longest = k;
    });
    if (longest < 0) return null;
    lengths[longest]!--;
  }
}

/** Names that a format can hold and that people can still read, the best first. */
function* shortNames(name: string, rules: NameRules): Generator<string> {
  const valid = [...name].map((c) => (rules.valid.test(c) || rules.valid.test(cased(c, rules)) ? c : rules.replacement)).join('');
  const clean = rules.first && !rules.first.test(cased(valid, rules)) ? `_${valid}` : valid;
  const whole = cased(clean, rules);
  if (utf8Length(whole) <= rules.maxBytes) yield whole;
  else {
    const all = wordsOf(clean);
    const telling = all.filter((w, k) => k === 0 || !SMALL.test(w.text));
    const number = telling.length > 1 && isNumber(telling.at(-1)!) ? [{ separator: '', text: telling.at(-1)!.text }] : [];
    const words = number.length > 0 ? telling.slice(0, -1) : telling;
    const first = words.map((_, k) => fitted([...words.slice(0, words.length - k), ...number], rules.maxBytes)).filter((t) => t !== null);
    // where another one has the best of these, the last word may tell them apart
    const ends = words.length > 2 ? fitted([words[0]!, words.at(-1)!, ...number], rules.maxBytes) : null;
    for (const text of [...first.slice(0, 1), ...(ends === null ? [] : [ends]), ...first.slice(1)]) yield cased(text, rules);
    let cut = [...whole];
    while (utf8Length(cut.join('')) > rules.maxBytes) cut = cut.slice(0, -1);
    yield cut.join('');
  }
}

/**
 * A name that the format can hold and that people can still read: words that say little go first, then the longest words are abbreviated
 * from their ends, then the last words go. INSTALLATION_YEAR becomes INST_YEAR.
 */
export function abbreviate(name: string, rules: NameRules): string {
  const [first] = shortNames(name, rules);
  return first!;
}

/** The short name of a field that no other one has: the best of those that there are, or with a number behind it. */
export function uniqueName(name: string, taken: (name: string) => boolean, rules: NameRules): string {
  const names = [...shortNames(name, rules)];
  const free = names.find((n) => !taken(n));
  if (free !== undefined) return free;
  for (let n = 2; ; n++) {
    const suffix = String(n);
    let stem = names[0]!;
    while (utf8Length(stem) + suffix.length > rules.maxBytes) stem = [...stem].slice(0, -1).join('');
    if (!taken(stem + suffix)) return stem + suffix;
  }
}
