import type { ByteSource } from '../../io/bytes';
import { Problem } from '../../model/problem';
import { encodingOf, HeaderReader } from './header';
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

/** The last bytes of a drawing in which its objects without a shape are looked for: doubled from the first to the second. */
const FIRST_WINDOW = 1 << 18, LAST_WINDOW = 1 << 26;
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
  for (let window = FIRST_WINDOW; window <= LAST_WINDOW; window *= 2) {
    const bytes = await source.read(Math.max(0, source.size - window), Math.min(window, source.size));
    const at = lastSection(bytes);
    if (at !== null) return readObjects(source.name, bytes.subarray(at), encodingOf(facts.header));
    if (window >= source.size) return null;
  }
  return null;
}

/** R12, which has no such section. */
const OLDEST = 'AC1009';

/** Where the groups of the OBJECTS section begin. */
function lastSection(bytes: Uint8Array): number | null {
  const text = new TextDecoder('latin1').decode(bytes);
  const found = [...text.matchAll(/\n *0\r?\nSECTION\r?\n *2\r?\nOBJECTS\r?\n/g)].at(-1);
  return found ? found.index + found[0].length : null;
}

interface Reading {
  dictionary: Map<string, string>;
  members: Map<string, string[]>;
  order: Map<string, number>;
}

function readObjects(file: string, bytes: Uint8Array, encoding: string): ObjectsAhead | null {
  const reading: Reading = { dictionary: new Map(), members: new Map(), order: new Map() };
  const take = takerOf(reading);
  const tags = new TagStream(file, take);
  tags.setEncoding(encoding);
  try {
    tags.push(bytes);
  } catch (error) {
    if (error instanceof Problem) return null;
    throw error;
  }
  const groups = new Map<string, string[]>();
  for (const [handle, members] of reading.members) {
    const name = reading.dictionary.get(handle) ?? handle;
    for (const member of members) groups.set(member, [...(groups.get(member) ?? []), name]);
  }
  return { groups, order: reading.order };
}

/** Takes the groups of the section one after the other. */
function takerOf({ dictionary, members, order }: Reading): (code: number, text: string) => void {
  let type = '', own = '', name = '', object = '';
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
