import type { ByteSource, Watch } from './bytes';

/** Bytes that a reader gets at once: what it makes of them is handed on before the next ones, so it should not be much. */
const MOST_AT_ONCE = 1 << 17;

/** The bytes of a file as they come, with the one who waits told how far it is, and asked whether to go on. */
export async function* watched(source: ByteSource, watch: Watch): AsyncGenerator<Uint8Array> {
  let done = 0;
  for await (const chunk of source.stream()) {
    for (let at = 0; at < chunk.length; at += MOST_AT_ONCE) {
      const part = chunk.subarray(at, at + MOST_AT_ONCE);
      watch.check();
      yield part;
      done += part.length;
      watch.progress(done, source.size);
    }
  }
}
