import type { Database } from './database';

/** A file as the core sees it. The core knows no file system; the server and the command line bring one. */
export interface ByteSource {
  /** For messages and for recognising the format; never used as a path. */
  readonly name: string;
  /** Bytes. */
  readonly size: number;
  /** Where it lies for the host, where it is a file by itself; for engines of the host, and for nobody else. */
  readonly path?: string;
  /** An identity of it among all that the host has at hand, where it has one: a path, or one within an archive. For engines of the host. */
  readonly id?: string;
  /** The whole file, in order, in chunks that the caller may not keep. */
  stream(): AsyncIterable<Uint8Array>;
  /** `length` bytes from `offset`; fewer at the end of the file. */
  read(offset: number, length: number): Promise<Uint8Array>;
  /** A file that belongs to this one: same name, another extension (".dbf"). Null when there is none. */
  sibling(extension: string): Promise<ByteSource | null>;
  /** Opens it as an SQLite database, to read; absent where the host has none. @throws when it is none */
  database?(): Database;
}

/** A file being written. */
export interface ByteSink {
  write(bytes: Uint8Array): Promise<void>;
  /** Overwrites bytes already written, for headers that are known only at the end. */
  patch(offset: number, bytes: Uint8Array): Promise<void>;
  /** What was written is on the disk after this. Closing once more does nothing. */
  close(): Promise<void>;
}

/** A file for the time of the work: written first, then read, then gone. */
export interface Scratch extends ByteSink {
  /** What was written; to be asked for after `close`. */
  source(): Promise<ByteSource>;
  remove(): Promise<void>;
}

/** A folder to write into. `name` is a plain file name that the writer made. */
export interface FolderSink {
  create(name: string): Promise<ByteSink>;
  scratch(): Promise<Scratch>;
  /** A new SQLite database to write; what is in `from`, where that is given. */
  database(name: string, from?: ByteSource): Promise<Database>;
}

/** A folder of written files, to read back. */
export interface FolderSource {
  open(name: string): Promise<ByteSource>;
  /** Whether there is a file of this name. */
  has(name: string): Promise<boolean>;
  scratch(): Promise<Scratch>;
}

/** What long work reports to and is stopped by. */
export interface Watch {
  /** `done` of `total`, in the unit that the work counts in (bytes when reading, records when writing). */
  progress(done: number, total: number): void;
  /** Throws {@link Cancelled} when the person has asked to stop. */
  check(): void;
}

/** A watch that nobody looks at. */
export const UNWATCHED: Watch = { progress() {}, check() {} };
