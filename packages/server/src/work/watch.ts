import type { MessagePort } from 'node:worker_threads';
import type { Watch } from '@pontrel/core/io/bytes';
import { Cancelled } from '@pontrel/core/model/problem';

/** How a job in a worker and the server that started it talk. */
export interface Line {
  port: MessagePort;
  /** One 32-bit number: 1 when the person has asked to stop. */
  stop: SharedArrayBuffer;
}

export interface Progress {
  phase: string;
  done: number;
  total: number;
}

const EVERY_MS = 100;

/** A watch that reports over the line, ten times a second at most. */
export function watchOver(line: Line, phase: string): Watch {
  const stop = new Int32Array(line.stop);
  let last = 0;
  return {
    progress(done, total) {
      const now = Date.now();
      if (now - last < EVERY_MS && done < total) return;
      last = now;
      line.port.postMessage({ phase, done, total } satisfies Progress);
    },
    check() {
      if (Atomics.load(stop, 0) === 1) throw new Cancelled();
    },
  };
}
