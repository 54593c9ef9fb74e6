import type { ByteSource, Watch } from './bytes';

/** The bytes of a file as they come, with the one who waits told how far it is, and asked whether to go on. */
export async function* watched(source: ByteSource, watch: Watch): AsyncGenerator<Uint8Array> {
  let done = 0;
  for await (const chunk of source.stream()) {
    watch.check();
    yield chunk;
    done += chunk.length;
    watch.progress(done, source.size);
  }
}
