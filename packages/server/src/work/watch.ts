import type { Watch } from '@pontrel/core/io/bytes';
import { Problem } from '@pontrel/core/model/problem';

export interface Progress {
  phase: string;
  done: number;
  total: number;
}

const EVERY_MS = 100;
/** Resident memory of the process of a job, bytes; what is read is bounded, so that no sound file comes near it. */
const MOST_BYTES = 2 * 1024 ** 3;

/**
 * A watch that reports ten times a second at most, and ends work that takes more memory than it may: a job is stopped by ending its process,
 * so that it need not ask whether to go on.
 */
export function watchOver(report: (progress: Progress) => void, phase: string): Watch {
  let last = 0;
  const due = (): boolean => Date.now() - last >= EVERY_MS;
  return {
    progress(done, total) {
      if (!due() && done < total) return;
      last = Date.now();
      report({ phase, done, total });
    },
    check() {
      if (due() && process.memoryUsage.rss() > MOST_BYTES)
        throw new Problem(
          'memory-spent',
          `${phase} came to need more than ${MOST_BYTES / 1024 ** 3} GB of memory, and was ended: nothing of it was kept. Split what it is about, or leave layers out.`,
        );
    },
  };
}
