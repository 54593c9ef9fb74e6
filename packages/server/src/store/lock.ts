import { rmSync } from 'node:fs';
import path from 'node:path';
import { Problem } from '@pontrel/core/model/problem';
import { readJson, writeJson } from './json-file';

/** Which process works on a data folder, and where it answers once it does. */
interface Holder {
  pid: number;
  address: string | null;
}

const ASK_MS = 1500;

/** Keeps a second server off a data folder: it would sweep away what the first is reading and running. */
export class DataLock {
  private constructor(private readonly file: string) {}

  /** @throws Problem `already-running`, with the address where there is one */
  static async take(root: string): Promise<DataLock> {
    const file = path.join(root, 'running.json');
    const holder = readJson<Holder>(file);
    if (holder && holder.pid !== process.pid && isAlive(holder.pid) && (await answers(holder.address)))
      throw new Problem(
        'already-running',
        holder.address === null
          ? 'Pontrel is starting on this data folder already.'
          : `Pontrel is at ${holder.address} already, with this data folder.`,
      );
    const lock = new DataLock(file);
    lock.write(null);
    return lock;
  }

  private write(address: string | null): void {
    writeJson(this.file, { pid: process.pid, address } satisfies Holder);
  }

  listensAt(address: string): void {
    this.write(address);
  }

  release(): void {
    if (readJson<Holder>(this.file)?.pid === process.pid) rmSync(this.file, { force: true });
  }
}

function isAlive(pid: number): boolean {
  try {
    process.kill(pid, 0);
    return true;
  } catch (error) {
    return (error as NodeJS.ErrnoException).code === 'EPERM';
  }
}

/** Whether a server is there: the number of a process may be that of another one by now. */
async function answers(address: string | null): Promise<boolean> {
  if (address === null) return true;
  return fetch(new URL('api/crossings', address), { signal: AbortSignal.timeout(ASK_MS) }).then(
    // one that asks for a key is there as well
    (r) => r.ok || r.status === 401,
    () => false,
  );
}
