import { SingleBar } from 'cli-progress';
import { UNWATCHED, type Watch } from '@pontrel/core/io/bytes';

/** Work that a terminal is shown the progress of; a file or a pipe is shown nothing. */
export function progressBar(what: string): { watch: Watch; stop(): void } {
  if (!process.stderr.isTTY) return { watch: UNWATCHED, stop() {} };
  const bar = new SingleBar({
    stream: process.stderr,
    format: `${what} [{bar}] {percentage} %  {eta_formatted} left`,
    barCompleteChar: '=',
    barIncompleteChar: ' ',
    hideCursor: true,
    clearOnComplete: true,
    linewrap: false,
  });
  let begun = false;
  return {
    watch: {
      progress(done, total) {
        if (!begun) bar.start(total, 0);
        begun = true;
        bar.setTotal(total);
        bar.update(Math.min(done, total));
      },
      check() {},
    },
    stop: () => bar.stop(),
  };
}
