import { Problem } from '../../model/problem';

/** A keyword with its quoted texts, numbers, bare words and children, as well-known text nests them. */
export interface WktNode {
  key: string;
  texts: string[];
  numbers: number[];
  words: string[];
  children: WktNode[];
}

/** Keywords within keywords; a compound system of derived ones has some twelve. */
const MOST_DEEP = 64;

/**
 * Parses well-known text of either generation into its tree. OGC 01-009 section 7; ISO 19162:2019 section 7.
 * @param what the text is called in messages: "The .prj text"
 * @throws Problem `crs-text-deep`; `crs-text-broken` with the character at which it stops making sense
 */
export function parseWkt(text: string, what: string): WktNode {
  let at = 0;
  const broken = (expected: string): Problem =>
    new Problem('crs-text-broken', `${what} breaks off at character ${at + 1}: ${expected} was expected.`);
  const blank = (): void => {
    while (at < text.length && /\s/.test(text[at]!)) at++;
  };
  let depth = 0;
  const node = (): WktNode => {
    const key = /^[A-Za-z][A-Za-z0-9_]*/.exec(text.slice(at, at + 60))?.[0];
    if (!key) throw broken('a keyword');
    if (++depth > MOST_DEEP) throw new Problem('crs-text-deep', `${what} is nested more than ${MOST_DEEP} deep, which no definition is.`);
    at += key.length;
    blank();
    const close = text[at] === '(' ? ')' : ']';
    if (text[at] !== '[' && text[at] !== '(') throw broken('"["');
    const made: WktNode = { key: key.toUpperCase(), texts: [], numbers: [], words: [], children: [] };
    do {
      at++;
      blank();
      if (text[at] === '"') {
        let value = '';
        for (;;) {
          const end = text.indexOf('"', at + 1);
          if (end < 0) throw broken('a closing quote');
          value += text.slice(at + 1, end);
          at = end + 1;
          if (text[at] !== '"') break;
          value += '"'; // two quotes stand for one
        }
        made.texts.push(value);
      } else {
        const number = /^[-+]?(\d+\.?\d*|\.\d+)([eE][-+]?\d+)?/.exec(text.slice(at, at + 60))?.[0];
        const word = /^([A-Za-z][A-Za-z0-9_]*)\s*[,\])]/.exec(text.slice(at, at + 60))?.[1];
        if (number) {
          made.numbers.push(Number(number));
          at += number.length;
        } else if (word) {
          made.words.push(word);
          at += word.length;
        } else made.children.push(node());
      }
      blank();
    } while (text[at] === ',');
    if (text[at] !== close) throw broken(`"${close}"`);
    at++;
    depth--;
    return made;
  };
  text = text.replace(/^\ufeff/, '');
  blank();
  const root = node();
  blank();
  if (at < text.length && text[at] !== '\0') throw new Problem('crs-text-broken', `${what} goes on after its end at character ${at + 1}.`);
  return root;
}

/** The first child of a node that has one of some keywords. */
export function childOf(node: WktNode, ...keys: string[]): WktNode | undefined {
  return node.children.find((c) => keys.includes(c.key));
}

/** @throws Problem `crs-text-broken` when there is none */
export function needed(node: WktNode, what: string, ...keys: string[]): WktNode {
  const found = childOf(node, ...keys);
  if (!found) throw new Problem('crs-text-broken', `${what} has no ${keys[0]} inside ${node.key}.`);
  return found;
}

/** Small letters and digits only: how names are compared. */
export function fold(name: string): string {
  return name.toLowerCase().replace(/[^a-z0-9]/g, '');
}

/** A number with the digits that a double has, without the noise of unit changes. */
export function real(value: number): string {
  const text = String(Number(value.toPrecision(15)));
  return text;
}

/** A text in the quotes of WKT, those within it doubled. Source: OGC 18-010r11 (WKT 2). */
export function quoted(text: string): string {
  return `"${text.replaceAll('"', '""')}"`;
}
