import type { Finding } from '../model/finding';
import { Problem } from '../model/problem';

/** Letters of bytes in one code page. */
export interface TextDecoding {
  /** What is no letter of the page becomes U+FFFD. @param options `stream` keeps a letter that the bytes cut for those that follow */
  decode(bytes?: Uint8Array, options?: { stream?: boolean }): string;
}

/** A decoding that counts the bytes that were no letters. */
export interface CountedDecoding extends TextDecoding {
  /** U+FFFD that came of bytes, and do not stand in the text as themselves. */
  readonly damaged: number;
}

/** What a host knows of code pages. */
export interface CodePages {
  /** Null for a page that it does not know. */
  decoder(id: string): TextDecoding | null;
  /** The bytes of a text; null where the page does not have one of its letters. */
  encode(text: string, id: string): Uint8Array | null;
}

let host: CodePages | null = null;

/** To be called once by a host that reads files: tables of code pages are large, and a page of the browser has no use for them. */
export function registerCodePages(pages: CodePages): void {
  host = pages;
}

/** Encodings that every platform decodes rightly; its other decoders do not (windows-1252 from 0x80 to 0x9F, for one). */
const OF_THE_PLATFORM = new Set(['utf-8', 'utf-16le', 'utf-16be']);

/** @param id of a code page as `code-pages` has it @throws Problem `code-page-unknown` */
export function textDecoding(id: string): CountedDecoding {
  return new Counted(decoderOf(id), id === 'utf-8');
}

function decoderOf(id: string): TextDecoding {
  if (OF_THE_PLATFORM.has(id)) return new TextDecoder(id);
  const decoder = pages().decoder(id);
  if (decoder) return decoder;
  throw new Problem('code-page-unknown', `"${id}" is no code page that is read here. Choose another one.`);
}

/** The bytes of a text in a code page; null where the page does not have one of its letters. */
export function encodedText(text: string, id: string): Uint8Array | null {
  return id === 'utf-8' ? new TextEncoder().encode(text) : pages().encode(text, id);
}

function pages(): CodePages {
  if (!host) throw new Error('No code pages are registered: a host that reads files calls registerCodePages first.');
  return host;
}

/** What is told of a file with bytes that are no letters in its encoding. @param where the first of them, in words */
export const damagedText = (file: string, count: number, where: string): Finding => ({
  code: 'text-damaged',
  severity: 'caution',
  message: `${file} holds bytes that are no letters in its encoding, the first ${where}: they are shown as ${REPLACEMENT}. Ask for it in UTF-8.`,
  count,
});

const REPLACEMENT = '\ufffd';

/** The line of the first sign for bytes that were no letters. @param line the one in which the text begins */
export const damagedLine = (text: string, line: number): number => line + text.slice(0, text.indexOf(REPLACEMENT)).split('\n').length - 1;

/** U+FFFD in UTF-8. */
const WRITTEN = [0xef, 0xbf, 0xbd] as const;

class Counted implements CountedDecoding {
  damaged = 0;
  /** The last bytes that came, since U+FFFD may be cut between two pieces. */
  private tail: Uint8Array = new Uint8Array(0);

  constructor(
    private readonly decoder: TextDecoding,
    private readonly utf8: boolean,
  ) {}

  decode(bytes?: Uint8Array, options?: { stream?: boolean }): string {
    const text = this.decoder.decode(bytes, options);
    if (text.includes(REPLACEMENT)) this.damaged += text.split(REPLACEMENT).length - 1 - (this.utf8 && bytes ? this.written(bytes) : 0);
    if (this.utf8 && bytes && options?.stream) this.tail = Uint8Array.from([...this.tail, ...bytes.slice(-2)]).slice(-2);
    return text;
  }

  /** How often U+FFFD ends in these bytes as itself. */
  private written(bytes: Uint8Array): number {
    const at = (i: number): number | undefined => (i < 0 ? this.tail[this.tail.length + i] : bytes[i]);
    let n = 0;
    for (let i = 0; i < bytes.length; i++) if (bytes[i] === WRITTEN[2] && at(i - 1) === WRITTEN[1] && at(i - 2) === WRITTEN[0]) n++;
    return n;
  }
}
