import type { ByteSource } from '../../io/bytes';

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
