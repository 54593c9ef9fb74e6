import { type ChildProcess, fork } from 'node:child_process';
import { fileURLToPath } from 'node:url';
import type { Measured } from './command-child.mjs';

const CHILD = fileURLToPath(new URL('command-child.mjs', import.meta.url));

/** How a command ended that was measured: with a status, or with its process. */
export interface Ended extends Measured {
  /** What ended the process, or that it was ended because it took too long; null as it should be. */
  fault: string | null;
}

/** A process that runs one command of the built command line after the other, and is ended when it takes too long over one. */
export class CommandProcess {
  private child: ChildProcess | null = null;

  /** Runs a command, and measures it; after `limit_s` its process is ended. */
  async run(words: readonly string[], limit_s: number): Promise<Ended> {
    const child = (this.child ??= fork(CHILD, [], {
      serialization: 'advanced',
      execArgv: ['--expose-gc'],
      stdio: ['ignore', 'ignore', 'pipe', 'ipc'],
    }));
    let said = '';
    const listen = (d: Buffer): void => void (said += d.toString());
    child.stderr!.on('data', listen);
    const ended = await new Promise<Ended>((resolve) => {
      const lost = (fault: string): void => resolve({ status: 1, out: '', err: said, cpu_s: limit_s, peak_MB: 0, fault });
      const late = setTimeout(() => lost(`took longer than ${limit_s} s`), limit_s * 1000);
      const gone = (code: number | null, signal: string | null): void => {
        clearTimeout(late);
        lost(`the process ended with ${code ?? signal}`);
      };
      child.once('exit', gone);
      child.once('message', (message: Measured) => {
        clearTimeout(late);
        child.off('exit', gone);
        resolve({ ...message, err: message.err + said, fault: null });
      });
      child.send(words);
    });
    child.stderr!.off('data', listen);
    if (ended.fault) this.end();
    return ended;
  }

  end(): void {
    this.child?.removeAllListeners();
    this.child?.kill('SIGKILL');
    this.child = null;
  }
}
