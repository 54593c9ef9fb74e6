import type { ByteSource } from '../../io/bytes';
import { Problem } from '../../model/problem';
import { encodingOf, HeaderReader } from './header';
import { ENTITIES } from './entities';
import { TagStream } from './tags';
import { BINARY, headOf } from './head';
import { decodeUnicodeEscapes } from './text';

/** What stands at the end of a drawing about the objects before it, by their handles. */
export interface ObjectsAhead {
  /** Names of the groups that an object is in. */
  groups: ReadonlyMap<string, string[]>;
  /** Where an object comes in the order of drawing, when that is not its own handle. */
  order: ReadonlyMap<string, number>;
}

/** Bytes that are looked through at a time, from the end towards the beginning, and in all. */
const PIECE = 1 << 20,
  FARTHEST = 1 << 26;
/** Bytes of the end by which a drawing without such a section is known. */
const END = 1 << 16;
/** So many handles are kept. */
const MOST_HANDLES = 2_000_000;

/**
 * Reads the OBJECTS section before the rest, from the end of the file. Null for a binary drawing, a version without one,
 * a section that is too long, or damage there, which the ordinary pass tells of.
 *
 * Source: DXF Reference, OBJECTS section: GROUP, DICTIONARY, SORTENTSTABLE.
 */
export async function readObjectsAhead(source: ByteSource): Promise<ObjectsAhead | null> {
  const head = await headOf(source);
  if (BINARY.test(head)) return null;
  const facts = new HeaderReader();
  const start = new TextDecoder('latin1').decode(await source.read(0, 4096));
  for (const [, name, code, value] of start.matchAll(/(\$ACADVER|\$DWGCODEPAGE)\s+(\d+)\s+(\S+)/g)) {
    facts.take(9, name!, 0);
    facts.take(Number(code), value!, 0);
  }
  if (facts.header.version <= OLDEST) return null;
  const at = await lastSection(source);
  return at === null ? null : readObjects(source, at, encodingOf(facts.header));
}

/** R12, which has no such section. */
const OLDEST = 'AC1009';

const MARK = /\n *0\r?\nSECTION\r?\n *2\r?\nOBJECTS\r?\n/g;
/** Bytes of the longest mark. */
const LONGEST = 64;
/** What stands at the end of a drawing besides objects. */
const ENDS = new Set(['ENDSEC', 'EOF', 'SECTION', 'ACDSSCHEMA', 'ACDSRECORD']);

/** Where the groups of the OBJECTS section begin; null where it is not there, or too far from the end. */
async function lastSection(source: ByteSource): Promise<number | null> {
  const decoder = new TextDecoder('latin1');
  const end = decoder.decode(await source.read(Math.max(0, source.size - END), END));
  const last = [...end.matchAll(/\n *0\r?\n([A-Z0-9_]+)\r?(?=\n)/g)].map((m) => m[1]!).findLast((type) => !ENDS.has(type));
  // a drawing that ends with something drawn has no such section
  if (last === undefined || last in ENTITIES) return null;
  for (let to = source.size; to > 0 && source.size - to < FARTHEST; to -= PIECE) {
    const from = Math.max(0, to - PIECE);
    const text = decoder.decode(await source.read(from, Math.min(PIECE + LONGEST, source.size - from)));
    const found = [...text.matchAll(MARK)].at(-1);
    if (found) return from + found.index + found[0].length;
  }
  return null;
}

interface Reading {
  dictionary: Map<string, string>;
  members: Map<string, string[]>;
  order: Map<string, number>;
}

async function readObjects(source: ByteSource, from: number, encoding: string): Promise<ObjectsAhead | null> {
  const reading: Reading = { dictionary: new Map(), members: new Map(), order: new Map() };
  const tags = new TagStream(source.name, takerOf(reading));
  tags.setEncoding(encoding);
  try {
    for (let at = from; at < source.size; at += PIECE) tags.push(await source.read(at, Math.min(PIECE, source.size - at)));
  } catch (error) {
    if (error instanceof Problem) return null;
    throw error;
  }
  // nothing to tell of any object
  if (reading.members.size === 0 && reading.order.size === 0) return null;
  const groups = new Map<string, string[]>();
  for (const [handle, members] of reading.members) {
    const name = reading.dictionary.get(handle) ?? handle;
    for (const member of members) groups.set(member, [...(groups.get(member) ?? []), name]);
  }
  return { groups, order: reading.order };
}

/** Takes the groups of the section one after the other. */
function takerOf({ dictionary, members, order }: Reading): (code: number, text: string) => void {
  let type = '',
    own = '',
    name = '',
    object = '';
  let kept = 0;
  return (code, text) => {
    if (code === 0) {
      type = text.trim();
      own = name = object = '';
    } else if (kept > MOST_HANDLES) return;
    else if (type === 'GROUP') {
      if (code === 5) members.set((own = text), []);
      else if (code === 340) {
        members.get(own)?.push(text.trim());
        kept++;
      }
    } else if (type === 'DICTIONARY') {
      if (code === 3) name = decodeUnicodeEscapes(text);
      else if (code === 350 || code === 360) {
        dictionary.set(text.trim(), name);
        kept++;
      }
    } else if (type === 'SORTENTSTABLE') {
      if (code === 331) object = text.trim();
      else if (code === 5 && object !== '') {
        const rank = parseInt(text, 16);
        if (Number.isFinite(rank)) order.set(object, rank);
        object = '';
        kept++;
      }
    }
  };
}
