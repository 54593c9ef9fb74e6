import { Problem } from '../model/problem';

/** Letters of bytes in one code page. */
export interface TextDecoding {
  /** What is no letter of the page becomes U+FFFD. @param options `stream` keeps a letter that the bytes cut for those that follow */
  decode(bytes?: Uint8Array, options?: { stream?: boolean }): string;
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
export function textDecoding(id: string): TextDecoding {
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
