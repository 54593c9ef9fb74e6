import { textDecoding } from '../../io/text-decoding';

const CONTROL: Record<string, string> = { d: '°', D: '°', p: '±', P: '±', c: 'Ø', C: 'Ø', '%': '%' };

/** Code pages of the digit in \M+nXXXX. Common practice, no source. Korean by its Johab page, which no decoder here knows, stays as it is. */
const MULTIBYTE: Record<string, string> = { 1: 'shift_jis', 2: 'cp950', 3: 'euc-kr', 5: 'gbk' };

/**
 * Characters that older drawings write as \U+XXXX, or as \M+nXXXX by their two bytes in a code page. Source: DXF Reference, "Text strings".
 */
export function decodeUnicodeEscapes(text: string): string {
  const unicode = text.includes('\\U+')
    ? text.replace(/\\U\+([0-9A-Fa-f]{4})/g, (_, h: string) => String.fromCharCode(parseInt(h, 16)))
    : text;
  if (!unicode.includes('\\M+')) return unicode;
  return unicode.replace(/\\M\+([1-5])([0-9A-Fa-f]{2})([0-9A-Fa-f]{2})/g, (whole, page: string, high: string, low: string) => {
    const encoding = MULTIBYTE[page];
    return encoding === undefined ? whole : textDecoding(encoding).decode(Uint8Array.of(parseInt(high, 16), parseInt(low, 16)));
  });
}

/** Groups of content and of extended data: a decoded backslash would begin a format code, and long ones are cut within an escape. */
const CONTENT: ReadonlySet<number> = new Set([1, 3, 1000]);

/** The text of a group as its readers get it: names, tags and styles with their escapes decoded. */
export const groupText = (code: number, text: string): string =>
  text.includes('\\') && !CONTENT.has(code) ? decodeUnicodeEscapes(text) : text;

/** Plain content of a TEXT, ATTRIB or ATTDEF: %% codes replaced, underline and overline marks dropped. */
export function plainText(raw: string): string {
  let text = decodeUnicodeEscapes(raw);
  if (text.includes('%%')) {
    text = text
      .replace(/%%(\d{3})/g, (_, n: string) => String.fromCharCode(Number(n)))
      .replace(/%%[uUoOkK]/g, '')
      .replace(/%%([dDpPcC%])/g, (_, c: string) => CONTROL[c]!);
  }
  return text.includes('^') ? caret(text) : text;
}

/** Caret codes: ^I tab, ^J line feed, "^ " a caret. */
function caret(text: string): string {
  return text.replace(/\^(.)/g, (_, c: string) => (c === ' ' ? '^' : c === 'I' ? '\t' : c === 'J' ? '\n' : c === 'M' ? '' : ' '));
}

/**
 * Plain content of an MTEXT: formatting removed, \P as a line break, stacked fractions as "a/b", escapes as themselves.
 * Source: DXF Reference, MTEXT, "Format codes" (names of the codes as in the format).
 */
export function plainMtext(raw: string): string {
  const text = decodeUnicodeEscapes(raw);
  let out = '';
  for (let i = 0; i < text.length; i++) {
    const c = text[i]!;
    if (c === '{' || c === '}') continue;
    if (c === '^' && i + 1 < text.length) {
      out += caret(text.slice(i, i + 2));
      i++;
      continue;
    }
    if (c !== '\\') {
      out += c;
      continue;
    }
    const code = text[++i] ?? '';
    if (code === '\\' || code === '{' || code === '}') out += code;
    else if (code === 'P' || code === 'N' || code === 'X') out += '\n';
    else if (code === '~') out += '\u00a0';
    else if (code === 'S') {
      const end = text.indexOf(';', i);
      const stop = end < 0 ? text.length : end;
      out += text.slice(i + 1, stop).replace(/[#^]\s?|\//, '/');
      i = stop;
    } else if ('LlOoKk'.includes(code)) continue;
    else if (/[A-Za-z]/.test(code)) {
      const end = text.indexOf(';', i);
      i = end < 0 ? text.length : end;
    }
  }
  // %% codes are understood here too
  return out.includes('%%') ? out.replace(/%%([dDpPcC%])/g, (_, k: string) => CONTROL[k]!) : out;
}
