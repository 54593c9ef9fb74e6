import type { ByteSource } from './bytes';

/** Bytes at hand as a file without others beside it. */
export function memorySource(name: string, bytes: Uint8Array): ByteSource {
  return {
    name,
    size: bytes.length,
    async *stream() {
      yield bytes;
    },
    read: (offset, length) => Promise.resolve(bytes.slice(Math.max(0, offset), Math.max(0, offset + length))),
    sibling: () => Promise.resolve(null),
  };
}
