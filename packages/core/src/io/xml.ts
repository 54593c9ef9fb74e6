import { SaxesParser } from 'saxes';
import { Cancelled, Problem } from '../model/problem';
import { codePageOf } from './code-pages';
import { type CountedDecoding, damagedLine, damagedText, textDecoding } from './text-decoding';
import type { Findings } from '../model/finding';

/** Bytes that may come without a tag, so that an endless text or attribute is refused before it fills the memory. */
const MOST_BETWEEN = 1 << 27;
/** Elements within elements. */
const MOST_DEEP = 400;

/** An element that was read as a whole. Names are without their prefix. */
export interface XmlNode {
  name: string;
  attributes: Record<string, string>;
  children: XmlNode[];
  /** Its own text, without that of its children. */
  text: string;
  /** Texts and children in their order, where that was asked for. */
  pieces?: (string | XmlNode)[];
}

/** The first child of a name. */
export const childOf = (node: XmlNode | undefined, name: string): XmlNode | undefined => node?.children.find((c) => c.name === name);
/** All elements of a name below a node, however deep; those that stand beside each other come first. */
export const everyNode = (node: XmlNode, name: string): XmlNode[] => [
  ...node.children.filter((c) => c.name === name),
  ...node.children.flatMap((child) => everyNode(child, name)),
];
/** All children of a name. */
export const childrenOf = (node: XmlNode | undefined, name: string): XmlNode[] => node?.children.filter((c) => c.name === name) ?? [];

/** The text of a child without blanks around it; null when it is not there or empty. */
export function childText(node: XmlNode | undefined, name: string): string | null {
  const text = childOf(node, name)?.text.trim();
  return text === undefined || text === '' ? null : text;
}

/** A name without the prefix of its namespace. */
export const withoutPrefix = (name: string): string => name.slice(name.indexOf(':') + 1);

/** What is told of a document as it is read. */
export interface XmlHandler {
  /** Returns true for an element that is wanted as a whole, by `whole`; else its children come by themselves. */
  open(name: string, attributes: Record<string, string>): boolean;
  close(name: string): void;
  /** Text outside elements that are read as a whole. */
  text(text: string): void;
  whole(node: XmlNode): void;
}

/**
 * Reads XML as its bytes come. Entities that a document defines for itself are not replaced but refused, so none can grow;
 * nothing outside the file is fetched.
 *
 * Source: "Extensible Markup Language (XML) 1.0", fifth edition, sections 2.8, 4.1 and 4.3.3 (encodings).
 */
export class XmlReader {
  private readonly parser = new SaxesParser({ xmlns: false });
  private decoder: CountedDecoding | null = null;
  private damagedAt: number | null = null;
  private head = new Uint8Array(0);
  private readonly stack: XmlNode[] = [];
  private depth = 0;
  private since = 0;

  /** @param mixed whether elements keep the order of their texts and children */
  constructor(
    private readonly file: string,
    private readonly handler: XmlHandler,
    private readonly mixed = false,
  ) {
    const { parser } = this;
    parser.on('error', (error) => {
      throw this.broken(error.message);
    });
    parser.on('opentag', ({ name, attributes }) => this.opened(withoutPrefix(name), attributes as Record<string, string>));
    parser.on('closetag', () => this.closed());
    const text = (t: string): void => {
      this.since = 0;
      const top = this.stack.at(-1);
      if (top) {
        top.text += t;
        top.pieces?.push(t);
      } else if (this.depth > 0) handler.text(t);
    };
    parser.on('text', text);
    parser.on('cdata', text);
  }

  private readonly names: string[] = [];

  private opened(name: string, attributes: Record<string, string>): void {
    this.since = 0;
    if (++this.depth > MOST_DEEP)
      throw new Problem('xml-deep', `${this.file}: elements lie in elements more than ${MOST_DEEP} deep, which is not read.`, {
        file: this.file,
        line: this.parser.line,
      });
    this.names.push(name);
    const top = this.stack.at(-1);
    if (top) {
      const node: XmlNode = { name, attributes, children: [], text: '', ...(this.mixed ? { pieces: [] } : {}) };
      top.children.push(node);
      top.pieces?.push(node);
      this.stack.push(node);
    } else if (this.handler.open(name, attributes))
      this.stack.push({ name, attributes, children: [], text: '', ...(this.mixed ? { pieces: [] } : {}) });
  }

  private closed(): void {
    this.since = 0;
    this.depth--;
    const name = this.names.pop()!;
    const node = this.stack.pop();
    if (!node) this.handler.close(name);
    else if (this.stack.length === 0) this.handler.whole(node);
  }

  push(chunk: Uint8Array): void {
    if (!this.decoder) {
      const joined = new Uint8Array(this.head.length + chunk.length);
      joined.set(this.head);
      joined.set(chunk, this.head.length);
      this.head = joined;
      if (joined.length < 200) return;
      this.begin();
      return;
    }
    this.since += chunk.length;
    if (this.since > MOST_BETWEEN)
      throw new Problem(
        'xml-too-large',
        `${this.file}, line ${this.parser.line}: one text or attribute is longer than ${MOST_BETWEEN / 1024 / 1024} MB, which is not read.`,
        { file: this.file, line: this.parser.line },
      );
    this.write(this.decoded(this.decoder, chunk));
  }

  private decoded(decoder: CountedDecoding, chunk: Uint8Array): string {
    const text = decoder.decode(chunk, { stream: true });
    if (decoder.damaged > 0) this.damagedAt ??= damagedLine(text, this.parser.line);
    return text;
  }

  /** Tells of bytes that were no letters in the file's encoding; to be called at its end. */
  tell(findings: Findings): void {
    if (this.decoder && this.damagedAt !== null) findings.add(damagedText(this.file, this.decoder.damaged, `in line ${this.damagedAt}`));
  }

  private begin(): void {
    this.decoder = textDecoding(encodingOf(this.file, this.head));
    this.write(this.decoded(this.decoder, this.head));
    this.head = new Uint8Array(0);
  }

  end(): void {
    if (!this.decoder) this.begin();
    this.write(this.decoder!.decode());
    if (this.depth > 0)
      throw new Problem(
        'xml-cut',
        `${this.file} breaks off at line ${this.parser.line}: ${[...this.names].reverse().join(' in ')} is left open. Ask for the file again.`,
        { file: this.file, line: this.parser.line },
      );
    this.parser.close();
  }

  private write(text: string): void {
    try {
      this.parser.write(text);
    } catch (error) {
      if (error instanceof Problem || error instanceof Cancelled) throw error;
      throw this.broken(error instanceof Error ? error.message : String(error));
    }
  }

  private broken(message: string): Problem {
    const [, line, rest] = /^(\d+):\d+: (.*)$/s.exec(message) ?? [null, String(this.parser.line), message];
    return new Problem('xml-broken', `${this.file}, line ${line}: this is no sound XML (${rest!.replace(/\.$/, '')}). Export it again.`, {
      file: this.file,
      line: Number(line),
    });
  }
}

/** What the bytes before the first element, or their declaration, say. @throws Problem for an encoding that is not known */
function encodingOf(file: string, head: Uint8Array): string {
  if (head[0] === 0xff && head[1] === 0xfe) return 'utf-16le';
  if (head[0] === 0xfe && head[1] === 0xff) return 'utf-16be';
  const declared = /^[^<]*<\?xml[^>]*encoding\s*=\s*["']([\w.:-]+)["']/.exec(new TextDecoder('latin1').decode(head.subarray(0, 200)))?.[1];
  if (declared === undefined) return 'utf-8';
  const page = codePageOf(declared);
  if (page) return page.id;
  throw new Problem('xml-encoding', `${file} says that it is in "${declared}", which is not read here. Export it again as UTF-8.`, {
    file,
    line: 1,
  });
}

/** Characters that XML cannot hold, and halves of those beyond the first plane. Source: XML 1.0, section 2.2. */
const WITHOUT =
  '[\\u0000-\\u0008\\u000b\\u000c\\u000e-\\u001f\\ufffe\\uffff]|[\\ud800-\\udbff](?![\\udc00-\\udfff])|(?<![\\ud800-\\udbff])[\\udc00-\\udfff]';
/** Characters that XML 1.0 cannot hold. Source: W3C XML 1.0 (fifth edition), production 2. */
export const NOT_XML = new RegExp(WITHOUT);
const EACH_NOT_XML = new RegExp(WITHOUT, 'g');

/** A text without what XML cannot hold. */
export const xmlText = (text: string): string => text.replace(EACH_NOT_XML, '');

/** A text within an element or an attribute. Characters that XML cannot hold are left out. Source: XML 1.0, sections 2.2 and 2.4. */
export const escaped = (text: string): string => xmlText(text).replace(/[&<>"\r]/g, (c) => ESCAPES[c]!);

const ESCAPES: Record<string, string> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;', '\r': '&#13;' };

/** A small document as a whole. @throws Problem */
export function readXml(name: string, bytes: Uint8Array): XmlNode {
  let root: XmlNode | null = null;
  const reader = new XmlReader(name, { open: () => true, close() {}, text() {}, whole: (node) => void (root ??= node) });
  reader.push(bytes);
  reader.end();
  if (!root) throw new Problem('xml-empty', `${name} holds no element.`, { file: name });
  return root;
}
