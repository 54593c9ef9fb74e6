import { type ChildProcess, fork } from 'node:child_process';
import { mkdirSync, rmSync } from 'node:fs';
import path from 'node:path';
import { Cancelled } from '@pontrel/core/model/problem';
import type { GridFolder } from '@pontrel/host-node/grid-folders';
import type { Outcome } from '@pontrel/host-node/outcome';
import { newId } from '../store/id';
import type { JobTask, Order, Said } from '../work/job';
import type { Progress } from '../work/watch';

export interface JobProcessesOptions {
  /** The built program of a job. */
  script: string;
  grids: GridFolder[];
  /** A folder for their temporary files; emptied at the start. */
  scratch: string;
  /** Jobs that are worked on side by side. */
  atOnce: number;
}

interface Worker {
  child: ChildProcess;
  /** Its own temporary files. */
  folder: string;
}

interface Waiting {
  begin(): void;
  leave(): void;
}

/** How long a job counts against those that may be worked on at once; one that takes longer holds up no other. */
const PATIENCE_MS = 1000;
/** Jobs at most, long ones with them. */
const MOST_AT_ONCE = 8;
/** Megabytes of objects; flat arrays come on top, and are bounded by the readers. */
const HEAP_MB = 1536;
/** A job that says nothing for so long has come to something that does not end. */
const SILENT_MS = 5 * 60_000;

/**
 * Works on jobs in processes of their own: whatever a file does to one of them, to its memory or its time, the server goes on and the other
 * jobs with it. A job is stopped by ending its process.
 */
export class JobProcesses {
  private readonly idle: Worker[] = [];
  private readonly waiting: Waiting[] = [];
  private readonly running = new Set<Worker>();
  /** Jobs that have not been worked on for long yet. */
  private young = 0;
  private closed = false;

  constructor(private readonly options: JobProcessesOptions) {
    rmSync(options.scratch, { recursive: true, force: true });
  }

  /**
   * @param signal ends the job when it is aborted
   * @throws Cancelled when it was ended so
   */
  async run<T>(task: JobTask, input: Record<string, unknown>, onProgress: (p: Progress) => void, signal: AbortSignal): Promise<Outcome<T>> {
    await this.turn(signal);
    let counted = true;
    const settle = (): void => {
      if (counted) this.young--;
      counted = false;
      this.next();
    };
    const patience = setTimeout(settle, PATIENCE_MS);
    const worker = this.atHand() ?? this.start();
    this.running.add(worker);
    try {
      const outcome = (await this.work(worker, { task, input, grids: this.options.grids }, onProgress, signal)) as Outcome<T>;
      if (this.idle.length < this.options.atOnce && worker.child.connected && !this.closed) this.idle.push(worker);
      else this.end(worker);
      return outcome;
    } catch (error) {
      this.end(worker);
      throw error;
    } finally {
      clearTimeout(patience);
      this.running.delete(worker);
      settle();
    }
  }

  /** Has one at hand before it is asked for: a program takes a moment to start. */
  warm(): void {
    if (this.idle.length === 0 && !this.closed) this.idle.push(this.start());
  }

  /** Ends all of them. */
  close(): void {
    this.closed = true;
    for (const worker of [...this.idle, ...this.running]) this.end(worker);
    rmSync(this.options.scratch, { recursive: true, force: true });
  }

  /** Waits until there is room for one more. */
  private turn(signal: AbortSignal): Promise<void> {
    if (signal.aborted || this.closed) return Promise.reject(new Cancelled());
    return new Promise((resolve, reject) => {
      const waiting: Waiting = {
        begin: () => {
          signal.removeEventListener('abort', waiting.leave);
          this.young++;
          resolve();
        },
        leave: () => {
          this.waiting.splice(this.waiting.indexOf(waiting), 1);
          reject(new Cancelled());
        },
      };
      signal.addEventListener('abort', waiting.leave, { once: true });
      this.waiting.push(waiting);
      this.next();
    });
  }

  private next(): void {
    while (this.waiting.length > 0 && this.young < this.options.atOnce && this.running.size < MOST_AT_ONCE) this.waiting.shift()!.begin();
  }

  /** One that waits for work; what ended while it waited, as by a machine short of memory, is cleared away. */
  private atHand(): Worker | undefined {
    for (let worker = this.idle.pop(); worker; worker = this.idle.pop()) {
      if (worker.child.connected) return worker;
      this.end(worker);
    }
    return undefined;
  }

  private start(): Worker {
    const folder = path.join(this.options.scratch, newId());
    mkdirSync(folder, { recursive: true });
    const child = fork(this.options.script, [], {
      serialization: 'advanced',
      execArgv: [`--max-old-space-size=${HEAP_MB}`],
      env: { ...process.env, TMPDIR: folder, TEMP: folder, TMP: folder },
      stdio: ['ignore', 'inherit', 'inherit', 'ipc'],
    });
    return { child, folder };
  }

  private end({ child, folder }: Worker): void {
    deaf(child);
    // an error that comes while it goes concerns nobody
    child.on('error', () => {});
    child.once('exit', () => rmSync(folder, { recursive: true, force: true }));
    if (!child.kill('SIGKILL')) rmSync(folder, { recursive: true, force: true });
  }

  private work({ child }: Worker, order: Order, onProgress: (p: Progress) => void, signal: AbortSignal): Promise<Outcome<unknown>> {
    return new Promise((resolve, reject) => {
      let silence: NodeJS.Timeout;
      const settled = (how: () => void): void => {
        clearTimeout(silence);
        deaf(child);
        signal.removeEventListener('abort', cancelled);
        how();
      };
      const failed = (message: string): void => settled(() => resolve({ problem: { code: 'job-ended', message } }));
      const cancelled = (): void => settled(() => reject(new Cancelled()));
      const listen = (): void => {
        clearTimeout(silence);
        silence = setTimeout(() => {
          child.kill('SIGKILL');
          failed(
            `Nothing was heard of the work for ${SILENT_MS / 60_000} minutes: it came to something that does not end, and was stopped. Nothing of it was kept.`,
          );
        }, SILENT_MS);
      };
      if (signal.aborted) return reject(new Cancelled());
      listen();
      signal.addEventListener('abort', cancelled, { once: true });
      child.on('message', (said: Said) => {
        listen();
        if ('outcome' in said) settled(() => resolve(said.outcome));
        else onProgress(said.progress);
      });
      const gone = (): void =>
        failed(
          'The work came to an end that nobody expected, as when there is no memory left. Nothing of it was kept; all else goes on. Try again with less at once.',
        );
      child.on('exit', gone);
      child.on('error', gone);
      child.send(order, (error) => {
        if (error) gone();
      });
    });
  }
}

function deaf(child: ChildProcess): void {
  for (const event of ['message', 'exit', 'error']) child.removeAllListeners(event);
}
