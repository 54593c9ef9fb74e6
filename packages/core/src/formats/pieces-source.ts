import type { ByteSource } from '../io/bytes';

const PIECE = 1 << 18;

/** Some pieces of a file, each from a byte to before another, as if they were a file. */
export function piecesSource(name: string, file: ByteSource, pieces: readonly (readonly [number, number])[]): ByteSource {
  const size = pieces.reduce((n, [from, to]) => n + to - from, 0);
  async function* stream(): AsyncGenerator<Uint8Array> {
    for (const [from, to] of pieces) {
      for (let at = from; at < to; at += PIECE) yield await file.read(at, Math.min(PIECE, to - at));
    }
  }
  return {
    name,
    size,
    stream,
    read: (offset, length) =>
      offset < pieces[0]![1]
        ? file.read(pieces[0]![0] + offset, Math.min(length, pieces[0]![1] - offset))
        : Promise.resolve(new Uint8Array(0)),
    sibling: () => Promise.resolve(null),
  };
}

/** Where some texts of at most 64 letters, which come one after the other, begin in a file that was written here. */
export async function placesOf(source: ByteSource, texts: readonly string[]): Promise<number[]> {
  const found: number[] = [];
  let rest = '';
  let at = 0;
  const decoder = new TextDecoder('latin1');
  for await (const chunk of source.stream()) {
    const text = rest + decoder.decode(chunk);
    let from = 0;
    for (let next; found.length < texts.length && (next = text.indexOf(texts[found.length]!, from)) >= 0; from = next + 1)
      found.push(at + next);
    const keep = Math.min(text.length - from, 64);
    rest = text.slice(text.length - keep);
    at += text.length - keep;
  }
  if (found.length < texts.length) throw new Error('What was written is not in the file.');
  return found;
}
