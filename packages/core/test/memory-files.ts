import type { ByteSink, ByteSource, FolderSink, FolderSource, Scratch } from '../src/io/bytes';

/** A file in memory, streamed in chunks of `chunk` bytes. */
export function memorySource(name: string, bytes: Uint8Array, siblings: Record<string, Uint8Array> = {}, chunk = 65536): ByteSource {
  return {
    name,
    size: bytes.length,
    async *stream() {
      for (let at = 0; at < bytes.length; at += chunk) yield bytes.subarray(at, at + chunk);
    },
    read: (offset, length) => Promise.resolve(bytes.slice(offset, Math.min(bytes.length, offset + length))),
    sibling: (extension) =>
      Promise.resolve(siblings[extension] ? memorySource(name.replace(/\.[^.]+$/, extension), siblings[extension]) : null),
  };
}

export const textSource = (name: string, text: string, chunk?: number): ByteSource =>
  memorySource(name, new TextEncoder().encode(text), {}, chunk);

/** A folder in memory. */
export class MemoryFolder implements FolderSink, FolderSource {
  readonly files = new Map<string, Uint8Array>();

  create(name: string): Promise<ByteSink> {
    let bytes = new Uint8Array(0);
    return Promise.resolve({
      write: (more: Uint8Array) => {
        const joined = new Uint8Array(bytes.length + more.length);
        joined.set(bytes);
        joined.set(more, bytes.length);
        bytes = joined;
        return Promise.resolve();
      },
      patch: (offset: number, part: Uint8Array) => {
        bytes.set(part, offset);
        return Promise.resolve();
      },
      close: () => {
        this.files.set(name, bytes);
        return Promise.resolve();
      },
    });
  }

  async scratch(): Promise<Scratch> {
    const name = `scratch-${this.files.size}-${Math.random()}`;
    const sink = await this.create(name);
    return { ...sink, source: () => this.open(name), remove: () => Promise.resolve(void this.files.delete(name)) };
  }

  database(): Promise<never> {
    return Promise.reject(new Error('There is no database in memory.'));
  }

  has(name: string): Promise<boolean> {
    return Promise.resolve(this.files.has(name));
  }

  open(name: string): Promise<ByteSource> {
    const stem = name.replace(/\.[^.]+$/, '');
    const siblings = Object.fromEntries(
      [...this.files].filter(([n]) => n.startsWith(`${stem}.`)).map(([n, b]) => [n.slice(stem.length), b]),
    );
    return Promise.resolve(memorySource(name, this.files.get(name)!, siblings, 1000));
  }
}
